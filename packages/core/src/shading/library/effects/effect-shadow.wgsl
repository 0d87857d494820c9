// A picture over its shadow: the blurred and moved shape of what is not transparent, in one colour.
import { given, screenCorner, taken } from './screen.wgsl';

struct DropShadow {
  /// As screens have it, alpha not multiplied in.
  color: vec4f,
}

@group(0) @binding(0) var picture: texture_2d<f32>;
@group(0) @binding(1) var<uniform> shadow: DropShadow;
@group(0) @binding(2) var blurred: texture_2d<f32>;

@vertex fn shadowVertex(@builtin(vertex_index) i: u32) -> @builtin(position) vec4f { return screenCorner(i); }

@fragment fn shadowFragment(@builtin(position) at: vec4f) -> @location(0) vec4f {
  let pixel = vec2i(at.xy);
  let alpha = textureLoad(blurred, pixel, 0).a * shadow.color.a;
  let under = vec4f(shadow.color.rgb * alpha, alpha);
  let own = taken(textureLoad(picture, pixel, 0));
  return given(own + taken(under) * (1 - own.a));
}
