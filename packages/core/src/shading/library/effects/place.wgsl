// Puts what effects made into a part of a target, as it is.
import { decodeSrgb } from './color.wgsl';

/// Whether the target holds linear light: floats need no encoding.
override isLinear = false;
/// Whether alpha is not to be multiplied in.
override isStraight = false;
/// Whether it is multiplied into linear colours without it.
override isMultiplied = false;

@group(0) @binding(0) var picture: texture_2d<f32>;

struct PlaceVarying {
  @builtin(position) clip: vec4f,
  /// 0..1 from the upper left, wherever in the target the picture lies.
  @location(0) place: vec2f,
}

@vertex fn placeVertex(@builtin(vertex_index) i: u32) -> PlaceVarying {
  let at = vec2f(vec2u(i & 1, i >> 1) * 4) - 1;
  return PlaceVarying(vec4f(at, 0, 1), vec2f(at.x * 0.5 + 0.5, 0.5 - at.y * 0.5));
}

@fragment fn placeFragment(seen: PlaceVarying) -> @location(0) vec4f {
  let color = textureLoad(picture, vec2i(seen.place * vec2f(textureDimensions(picture))), 0);
  if isMultiplied { return vec4f(color.rgb * color.a, color.a); }
  let straight = color.rgb / max(color.a, 1e-6);
  if isStraight { return vec4f(decodeSrgb(straight), color.a); }
  if isLinear { return vec4f(decodeSrgb(straight) * color.a, color.a); }
  return color;
}
