// The finish with a look: contrast and saturation of what is shown, and a vignette over it.
import { decodeSrgb, encodeSrgb } from './color.wgsl';
import { partCorner, PartVarying } from './part.wgsl';

struct Look {
  contrast: f32,
  saturation: f32,
  /// Where the vignette begins: 0 the middle, 1 the nearer edges.
  size: f32,
  softness: f32,
  /// 0 follows the picture's shape, 1 is a circle.
  roundness: f32,
  /// Width over height.
  aspect: f32,
  /// sRGB-encoded.
  color: vec3f,
  weight: f32,
  /// Where it lies in the picture that has the vignette, and how large it is there: 0 to 1, from the upper left.
  part: vec4f,
}

/// Whether the target holds linear light: floats need no encoding.
override isLinear = false;

@group(0) @binding(0) var picture: texture_2d<f32>;
@group(0) @binding(1) var<uniform> look: Look;

@vertex fn finishLookVertex(@builtin(vertex_index) i: u32) -> PartVarying {
  return partCorner(i);
}

@fragment fn finishLookFragment(seen: PartVarying) -> @location(0) vec4f {
  let color = textureLoad(picture, vec2i(seen.place * vec2f(textureDimensions(picture))), 0);
  var shown = encodeSrgb(saturate(select(vec3f(), color.rgb / max(color.a, 1e-6), color.a > 0)));
  shown = (shown - 0.5) * look.contrast + 0.5;
  shown = saturate(mix(vec3f(dot(shown, vec3f(0.2126, 0.7152, 0.0722))), shown, look.saturation));
  let middle = (look.part.xy + seen.place * look.part.zw) * 2 - 1;
  // A circle counts in the shorter side.
  let round = vec2f(max(look.aspect, 1), max(1 / look.aspect, 1));
  let away = length(middle * mix(vec2f(1), round, look.roundness));
  let dark = smoothstep(look.size, look.size + max(look.softness, 1e-4), away) * look.weight;
  // A vignette lies over what is transparent, too.
  let alpha = mix(color.a, 1, dark);
  let premultiplied = mix(shown * color.a, look.color, dark);
  if isLinear { return vec4f(decodeSrgb(premultiplied / max(alpha, 1e-6)) * alpha, alpha); }
  return vec4f(premultiplied, alpha);
}
