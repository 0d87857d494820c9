// What glTF's extensions of materials add to a surface: their numbers and textures.
import { Fragment, Surface } from './surface.wgsl';
import { mappedNormal } from './normal-map.wgsl';

override useClearcoat = false;
override useSheen = false;
override useSpecular = false;
override useTransmission = false;
override useIridescence = false;
override useAnisotropy = false;
override useDiffuseTransmission = false;

struct LayerUse {
  matrix: vec4f,
  offset: vec2f,
  texCoord: f32,
  /// Layer of the array; below 0 for none.
  layer: f32,
}

struct Layers {
  /// Factor, roughness, scale of the normals; the index of refraction of the whole.
  clearcoat: vec4f,
  /// Colour, roughness.
  sheen: vec4f,
  /// Colour, factor.
  specular: vec4f,
  /// Factor, thickness, one over the distance of attenuation, dispersion.
  transmission: vec4f,
  /// Colour; the strength of the anisotropy.
  attenuation: vec4f,
  /// Factor, index of refraction, thinnest and thickest.
  iridescence: vec4f,
  /// Cosine and sine of its turn; what the alpha of the mirrored colour is multiplied with for smoothness, below 0 for none.
  anisotropy: vec4f,
  /// Colour, factor.
  diffuseTransmission: vec4f,
  uses: array<LayerUse, 14>,
}

@group(3) @binding(0) var<uniform> layers: Layers;
@group(3) @binding(1) var layerTextures: texture_2d_array<f32>;
@group(3) @binding(2) var layerSampler: sampler;

fn layerCoordinates(p: Fragment, slot: u32) -> vec2f {
  let m = layers.uses[slot].matrix;
  let uv = select(p.texcoord0, p.texcoord1, layers.uses[slot].texCoord > 0.5);
  return vec2f(dot(m.xy, uv), dot(m.zw, uv)) + layers.uses[slot].offset;
}

// One texel of a layer's texture; white where there is none. Whether there is one is the same for a whole draw.
fn layerTexel(p: Fragment, slot: u32) -> vec4f {
  let uv = layerCoordinates(p, slot);
  let texel = textureSample(layerTextures, layerSampler, uv, i32(max(layers.uses[slot].layer, 0)));
  return select(vec4f(1), texel, layers.uses[slot].layer >= 0);
}

// Colours are kept sRGB-encoded (IEC 61966-2-1), so that eight bits do for them.
fn layerColor(p: Fragment, slot: u32) -> vec3f {
  let c = layerTexel(p, slot).rgb;
  return mix(c / 12.92, pow((c + 0.055) / 1.055, vec3f(2.4)), step(vec3f(0.04045), c));
}

/// A surface's layers as the material's own factors and textures say.
fn layerDefaults(given: Surface, p: Fragment) -> Surface {
  var s = given;
  s.clearcoatNormal = p.normal;
  s.specular = 1;
  s.specularColor = vec3f(1);
  s.ior = layers.clearcoat.w;
  s.attenuationColor = vec3f(1);
  s.iridescenceIor = 1.3;
  s.anisotropyDirection = vec3f(1, 0, 0);
  s.diffuseTransmissionColor = vec3f(1);
  if useClearcoat {
    s.clearcoat = layers.clearcoat.x * layerTexel(p, 0).r;
    s.clearcoatRoughness = layers.clearcoat.y * layerTexel(p, 1).g;
    let texel = layerTexel(p, 2).xyz * 2 - 1;
    let mapped = mappedNormal(p, layerCoordinates(p, 2), vec3f(texel.xy * layers.clearcoat.z, texel.z));
    s.clearcoatNormal = select(p.normal, mapped, layers.uses[2].layer >= 0);
  }
  if useSheen {
    s.sheenColor = layers.sheen.rgb * layerColor(p, 3);
    s.sheenRoughness = layers.sheen.a * layerTexel(p, 4).a;
  }
  if useSpecular {
    s.specular = layers.specular.a * layerTexel(p, 5).a;
    s.specularColor = layers.specular.rgb * layerColor(p, 6);
    if layers.anisotropy.z >= 0 { s.roughness = 1 - layers.anisotropy.z * layerTexel(p, 6).a; }
  }
  if useTransmission || useDiffuseTransmission {
    s.transmission = layers.transmission.x * layerTexel(p, 7).r;
    s.thickness = layers.transmission.y * layerTexel(p, 8).g;
    s.attenuationColor = layers.attenuation.rgb;
    s.attenuationDistance = 1 / max(layers.transmission.z, 1e-12);
    s.dispersion = layers.transmission.w;
  }
  if useIridescence {
    s.iridescence = layers.iridescence.x * layerTexel(p, 9).r;
    s.iridescenceIor = layers.iridescence.y;
    s.iridescenceThickness = mix(layers.iridescence.z, layers.iridescence.w, layerTexel(p, 10).g);
  }
  if useAnisotropy {
    let texel = layerTexel(p, 11);
    s.anisotropy = layers.attenuation.a * texel.b;
    let way = select(vec2f(1, 0), texel.rg * 2 - 1, layers.uses[11].layer >= 0);
    let turned = vec2f(
      way.x * layers.anisotropy.x - way.y * layers.anisotropy.y,
      way.x * layers.anisotropy.y + way.y * layers.anisotropy.x,
    );
    // A direction of the surface: as a normal that lies flat.
    s.anisotropyDirection = mappedNormal(p, p.texcoord0, vec3f(turned, 0));
  }
  if useDiffuseTransmission {
    s.diffuseTransmission = layers.diffuseTransmission.a * layerTexel(p, 12).a;
    s.diffuseTransmissionColor = layers.diffuseTransmission.rgb * layerColor(p, 13);
  }
  return s;
}
