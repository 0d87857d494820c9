// Turns the linear picture into what is shown: premultiplied colour, sRGB-encoded.
import { encodeSrgb } from './color.wgsl';

/// Whether the target holds linear light: floats need no encoding.
override isLinear = false;

@group(0) @binding(0) var picture: texture_2d<f32>;

struct FinishVarying {
  @builtin(position) clip: vec4f,
  /// 0..1 from the upper left, wherever in the target the picture lies.
  @location(0) place: vec2f,
}

@vertex fn finishVertex(@builtin(vertex_index) i: u32) -> FinishVarying {
  let at = vec2f(vec2u(i & 1, i >> 1) * 4) - 1;
  return FinishVarying(vec4f(at, 0, 1), vec2f(at.x * 0.5 + 0.5, 0.5 - at.y * 0.5));
}

@fragment fn finishFragment(seen: FinishVarying) -> @location(0) vec4f {
  let color = textureLoad(picture, vec2i(seen.place * vec2f(textureDimensions(picture))), 0);
  if isLinear { return color; }
  let straight = select(vec3f(), color.rgb / max(color.a, 1e-6), color.a > 0);
  return vec4f(encodeSrgb(saturate(straight)) * color.a, color.a);
}
