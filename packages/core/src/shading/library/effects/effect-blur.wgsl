// One direction of a Gaussian blur, and of a move.
import { given, isOutside, screenCorner, taken } from './screen.wgsl';

struct Blur {
  direction: vec2f,
  /// Standard deviation in pixels.
  deviation: f32,
  /// Pixels by which the picture is moved, along the direction.
  shift: f32,
  /// Of all pixels within reach together.
  weights: f32,
}

@group(0) @binding(0) var picture: texture_2d<f32>;
@group(0) @binding(1) var<uniform> blur: Blur;

fn colorAt(at: vec2i, size: vec2i) -> vec4f {
  if isOutside(at, size) { return vec4f(); }
  return taken(textureLoad(picture, at, 0));
}

@vertex fn blurVertex(@builtin(vertex_index) i: u32) -> @builtin(position) vec4f { return screenCorner(i); }

@fragment fn blurFragment(@builtin(position) at: vec4f) -> @location(0) vec4f {
  let size = vec2i(textureDimensions(picture));
  let way = vec2i(blur.direction);
  let whole = round(blur.shift);
  let part = whole - blur.shift;
  let middle = vec2i(at.xy) - way * i32(whole);
  if blur.deviation < 0.01 {
    // Between two pixels.
    let other = colorAt(middle + way * i32(sign(part)), size);
    return given(mix(colorAt(middle, size), other, abs(part)));
  }
  // Beyond three deviations lies 0.3% of the weight, and outside of the picture is nothing: large blurs take no more steps
  // than the picture has pixels.
  let along = dot(middle, way);
  let last = dot(size, way) - 1;
  let reach = i32(min(ceil(blur.deviation * 3), 65536));
  let exponent = -0.5 / (blur.deviation * blur.deviation);
  var sum = vec4f();
  for (var i = max(-reach, -along); i <= min(reach, last - along); i++) {
    let away = f32(i) - part;
    sum += exp(away * away * exponent) * taken(textureLoad(picture, middle + way * i, 0));
  }
  return given(sum / blur.weights);
}
