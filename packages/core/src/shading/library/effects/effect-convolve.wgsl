// Each pixel out of those around it, by a matrix (SVG's feConvolveMatrix).
import { given, isOutside, screenCorner, taken } from './screen.wgsl';

struct Convolve {
  /// Columns and rows; which of them lie on the pixel.
  order: vec2f,
  aim: vec2f,
  divisor: f32,
  bias: f32,
  /// 0 the edge again, 1 the other side, 2 nothing.
  edge: f32,
  keepsAlpha: f32,
  weights: array<vec4f, 16>,
}

@group(0) @binding(0) var picture: texture_2d<f32>;
@group(0) @binding(1) var<uniform> convolve: Convolve;

fn pixelAt(wanted: vec2i, size: vec2i) -> vec4f {
  var at = wanted;
  if isOutside(at, size) {
    if convolve.edge > 1.5 { return vec4f(); }
    if convolve.edge > 0.5 { at = (at % size + size) % size; }
    else { at = clamp(at, vec2i(), size - 1); }
  }
  var c = taken(textureLoad(picture, at, 0));
  if convolve.keepsAlpha > 0.5 && c.a > 0 { c = vec4f(c.rgb / c.a, c.a); }
  return c;
}

@vertex fn convolveVertex(@builtin(vertex_index) i: u32) -> @builtin(position) vec4f { return screenCorner(i); }

@fragment fn convolveFragment(@builtin(position) at: vec4f) -> @location(0) vec4f {
  let pixel = vec2i(at.xy);
  let size = vec2i(textureDimensions(picture));
  let columns = i32(convolve.order.x);
  let rows = i32(convolve.order.y);
  var sum = vec4f();
  for (var row = 0; row < rows; row++) {
    for (var column = 0; column < columns; column++) {
      // Turned by half.
      let k = u32((rows - row - 1) * columns + columns - column - 1);
      let source = pixel - vec2i(convolve.aim) + vec2i(column, row);
      sum += convolve.weights[k >> 2][k & 3] * pixelAt(source, size);
    }
  }
  let own = textureLoad(picture, pixel, 0).a;
  var c: vec4f;
  if convolve.keepsAlpha > 0.5 {
    c = vec4f(saturate(sum.rgb / convolve.divisor + convolve.bias * own) * own, own);
  } else {
    c = saturate(sum / convolve.divisor + convolve.bias * own);
    c = vec4f(min(c.rgb, vec3f(c.a)), c.a);
  }
  return given(c);
}
