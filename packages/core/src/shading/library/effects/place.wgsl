// Puts what effects made into a part of a target, as it is.
import { decodeSrgb } from './color.wgsl';
import { partCorner, PartVarying } from './part.wgsl';

/// Whether the target holds linear light: floats need no encoding.
override isLinear = false;
/// Whether alpha is not to be multiplied in.
override isStraight = false;
/// Whether it is multiplied into linear colours without it.
override isMultiplied = false;

@group(0) @binding(0) var picture: texture_2d<f32>;

@vertex fn placeVertex(@builtin(vertex_index) i: u32) -> PartVarying {
  return partCorner(i);
}

@fragment fn placeFragment(seen: PartVarying) -> @location(0) vec4f {
  let color = textureLoad(picture, vec2i(seen.place * vec2f(textureDimensions(picture))), 0);
  if isMultiplied { return vec4f(color.rgb * color.a, color.a); }
  let straight = color.rgb / max(color.a, 1e-6);
  if isStraight { return vec4f(decodeSrgb(straight), color.a); }
  if isLinear { return vec4f(decodeSrgb(straight) * color.a, color.a); }
  return color;
}
