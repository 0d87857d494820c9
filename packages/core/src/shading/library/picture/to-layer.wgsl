// One picture into a layer of an array, at the array's size.
struct Copying {
  /// 1 where the layer keeps colour sRGB-encoded, so that eight bits do for it.
  isColor: f32,
  /// Level of the picture that has as many pixels.
  level: f32,
}

@group(0) @binding(0) var<uniform> copying: Copying;
@group(0) @binding(1) var picture: texture_2d<f32>;
@group(0) @binding(2) var pictureSampler: sampler;

struct CopyVarying {
  @builtin(position) clip: vec4f,
  @location(0) uv: vec2f,
}

@vertex fn toLayerVertex(@builtin(vertex_index) i: u32) -> CopyVarying {
  let at = vec2f(vec2u(i & 1, i >> 1) * 2);
  return CopyVarying(vec4f(at * 2 - 1, 0, 1), vec2f(at.x, 1 - at.y));
}

@fragment fn toLayerFragment(seen: CopyVarying) -> @location(0) vec4f {
  let texel = textureSampleLevel(picture, pictureSampler, seen.uv, copying.level);
  // The encoding of IEC 61966-2-1.
  let encoded = mix(texel.rgb * 12.92, 1.055 * pow(texel.rgb, vec3f(1 / 2.4)) - 0.055, step(vec3f(0.0031308), texel.rgb));
  return vec4f(mix(texel.rgb, encoded, copying.isColor), texel.a);
}
