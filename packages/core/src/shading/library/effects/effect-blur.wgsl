// One direction of a Gaussian blur, and of a move.
import { fromLinear, isOutside, screenCorner, toLinear } from './screen.wgsl';

struct Blur {
  direction: vec2f,
  /// Standard deviation in pixels.
  deviation: f32,
  /// Pixels by which the picture is moved, along the direction.
  shift: f32,
  isLinear: f32,
}

@group(0) @binding(0) var picture: texture_2d<f32>;
@group(0) @binding(1) var<uniform> blur: Blur;

@vertex fn blurVertex(@builtin(vertex_index) i: u32) -> @builtin(position) vec4f { return screenCorner(i); }

@fragment fn blurFragment(@builtin(position) at: vec4f) -> @location(0) vec4f {
  let size = vec2i(textureDimensions(picture));
  let way = vec2i(blur.direction);
  let whole = round(blur.shift);
  let part = whole - blur.shift;
  let middle = vec2i(at.xy) - way * i32(whole);
  let isSharp = blur.deviation < 0.01;
  // Beyond three deviations lies 0.3% of the weight.
  let reach = select(i32(ceil(blur.deviation * 3)), i32(ceil(abs(part))), isSharp);
  let exponent = -0.5 / max(blur.deviation * blur.deviation, 1e-4);
  var sum = vec4f();
  var weights = 0.0;
  for (var i = -reach; i <= reach; i++) {
    let away = f32(i) - part;
    // Without a blur, between two pixels.
    let weight = select(exp(away * away * exponent), max(1 - abs(away), 0), isSharp);
    weights += weight;
    let source = middle + way * i;
    if isOutside(source, size) { continue; }
    let c = textureLoad(picture, source, 0);
    if blur.isLinear > 0.5 { sum += weight * toLinear(c); }
    else { sum += weight * c; }
  }
  sum /= weights;
  if blur.isLinear > 0.5 { return fromLinear(sum); }
  return sum;
}
