// Turns the linear picture into what is shown: premultiplied colour, sRGB-encoded.
import { encodeSrgb } from './color.wgsl';
import { partCorner, PartVarying } from './part.wgsl';

/// Whether the target holds linear light: floats need no encoding.
override isLinear = false;

@group(0) @binding(0) var picture: texture_2d<f32>;

@vertex fn finishVertex(@builtin(vertex_index) i: u32) -> PartVarying {
  return partCorner(i);
}

@fragment fn finishFragment(seen: PartVarying) -> @location(0) vec4f {
  let color = textureLoad(picture, vec2i(seen.place * vec2f(textureDimensions(picture))), 0);
  if isLinear { return color; }
  let straight = select(vec3f(), color.rgb / max(color.a, 1e-6), color.a > 0);
  return vec4f(encodeSrgb(saturate(straight)) * color.a, color.a);
}
