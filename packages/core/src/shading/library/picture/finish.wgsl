// Turns the linear picture into what is shown: premultiplied colour, sRGB-encoded.
import { encodeSrgb } from './color.wgsl';

@group(0) @binding(0) var picture: texture_2d<f32>;

@vertex fn finishVertex(@builtin(vertex_index) i: u32) -> @builtin(position) vec4f {
  return vec4f(vec2f(vec2u(i & 1, i >> 1) * 4) - 1, 0, 1);
}

@fragment fn finishFragment(@builtin(position) at: vec4f) -> @location(0) vec4f {
  let color = textureLoad(picture, vec2i(at.xy), 0);
  let straight = select(vec3f(), color.rgb / max(color.a, 1e-6), color.a > 0);
  return vec4f(encodeSrgb(saturate(straight)) * color.a, color.a);
}
