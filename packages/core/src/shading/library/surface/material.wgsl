// A material's own numbers and textures (glTF 2.0, 3.9).
#if full
import { isPremultiplied } from './weight.wgsl';
#endif
import { Fragment, Surface } from './surface.wgsl';
import { mappedNormal } from './normal-map.wgsl';
#if full
import { layerDefaults } from './layers.wgsl';
#endif

override isMask = false;
override isBlend = false;
override useBaseColorTexture = false;
override useMetallicRoughnessTexture = false;
override useNormalTexture = false;
override useOcclusionTexture = false;
override useEmissiveTexture = false;
override hasColor = false;

/// Where a texture is read: scale and rotation, then an offset, of one of two coordinate sets.
struct TextureUse {
  matrix: vec4f,
  offset: vec2f,
  texCoord: f32,
}

/// Materials of one table.
const MOST_MATERIALS = 64;

struct Material {
  baseColorFactor: vec4f,
  emissiveFactor: vec3f,
  alphaCutoff: f32,
  metallicFactor: f32,
  roughnessFactor: f32,
  normalScale: f32,
  occlusionStrength: f32,
  uses: array<TextureUse, 5>,
}

// Materials that differ in numbers alone lie side by side: one draw shows things of them all.
@group(1) @binding(0) var<uniform> materials: array<Material, MOST_MATERIALS>;
/// Which of them the surface at hand has.
var<private> materialNumber: u32;
@group(1) @binding(1) var baseColorTexture: texture_2d<f32>;
@group(1) @binding(2) var metallicRoughnessTexture: texture_2d<f32>;
@group(1) @binding(3) var normalTexture: texture_2d<f32>;
@group(1) @binding(4) var occlusionTexture: texture_2d<f32>;
@group(1) @binding(5) var emissiveTexture: texture_2d<f32>;
@group(1) @binding(6) var baseColorSampler: sampler;
@group(1) @binding(7) var metallicRoughnessSampler: sampler;
@group(1) @binding(8) var normalSampler: sampler;
@group(1) @binding(9) var occlusionSampler: sampler;
@group(1) @binding(10) var emissiveSampler: sampler;

fn coordinates(p: Fragment, slot: u32) -> vec2f {
  let m = materials[materialNumber].uses[slot].matrix;
  let uv = select(p.texcoord0, p.texcoord1, materials[materialNumber].uses[slot].texCoord > 0.5);
  return vec2f(dot(m.xy, uv), dot(m.zw, uv)) + materials[materialNumber].uses[slot].offset;
}

fn baseColorAt(p: Fragment) -> vec4f {
  var base = materials[materialNumber].baseColorFactor;
  if hasColor { base *= p.color; }
#if full
  // What fades a texture whose colours are multiplied by its alpha fades its colours, too.
  if isPremultiplied { base = vec4f(base.rgb * base.a, base.a); }
#endif
  if useBaseColorTexture { base *= textureSample(baseColorTexture, baseColorSampler, coordinates(p, 0)); }
  return base;
}

/// What the material's own factors and textures say of a place.
fn surfaceDefaults(p: Fragment) -> Surface {
  var s: Surface;
  let base = baseColorAt(p);
  s.baseColor = base.rgb;
  s.alpha = base.a;
  s.normal = p.normal;
  if useNormalTexture {
    let uv = coordinates(p, 2);
    let texel = textureSample(normalTexture, normalSampler, uv).xyz * 2 - 1;
    s.normal = mappedNormal(p, uv, vec3f(texel.xy * materials[materialNumber].normalScale, texel.z));
  }
  s.metallic = materials[materialNumber].metallicFactor;
  s.roughness = materials[materialNumber].roughnessFactor;
  if useMetallicRoughnessTexture {
    let texel = textureSample(metallicRoughnessTexture, metallicRoughnessSampler, coordinates(p, 1));
    s.roughness *= texel.g;
    s.metallic *= texel.b;
  }
  s.occlusion = 1;
  if useOcclusionTexture {
    let texel = textureSample(occlusionTexture, occlusionSampler, coordinates(p, 3));
    s.occlusion = 1 + materials[materialNumber].occlusionStrength * (texel.r - 1);
  }
  s.emissive = materials[materialNumber].emissiveFactor;
  if useEmissiveTexture { s.emissive *= textureSample(emissiveTexture, emissiveSampler, coordinates(p, 4)).rgb; }
#if full
  s = layerDefaults(s, p);
#endif
  return s;
}

/// Alpha as the material's mode takes it: cut out, blended, or left aside.
fn coverage(alpha: f32) -> f32 {
  if isMask && alpha < materials[materialNumber].alphaCutoff { discard; }
  return select(1, alpha, isBlend);
}
