import { type Geometry, type PlacedBy, placedBy } from '../geometry/geometry.js';
import { isBlended } from './draw-state.js';
import type { Material } from './material.js';

/** What of a material and a geometry decides which shader is built. Bits of one integer. */
export const FEATURE = {
  unlit: 1,
  mask: 2,
  blend: 4,
  baseColorTexture: 8,
  metallicRoughnessTexture: 16,
  normalTexture: 32,
  occlusionTexture: 64,
  emissiveTexture: 128,
  color: 256,
  tangent: 512,
  normal: 1024,
  texcoord0: 2048,
  texcoord1: 4096,
  doubleSided: 8192,
  clearcoat: 1 << 14,
  sheen: 1 << 15,
  /** KHR_materials_specular or KHR_materials_ior. */
  specular: 1 << 16,
  transmission: 1 << 17,
  iridescence: 1 << 18,
  anisotropy: 1 << 19,
  diffuseTransmission: 1 << 20,
  /** Bent by joints or morph targets. */
  bent: 1 << 21,
  /** Drawn by a swarm. */
  swarm: 1 << 22,
} as const;

/** What each kind of placement asks of a shader. */
const PLACED: Readonly<Record<PlacedBy, number>> = { node: 0, pose: FEATURE.bent, instances: FEATURE.swarm };

/** Bits of layers, which take the full shader. */
export const LAYER_FEATURES = 0x7f << 14;

/** Bits of what takes the full shader: layers, being bent, and swarms. */
export const FULL_SHADER_FEATURES = 0x1ff << 14;

/** The five textures of a material, in the order in which shaders bind them. */
export const TEXTURE_SLOTS = [
  'baseColorTexture',
  'metallicRoughnessTexture',
  'normalTexture',
  'occlusionTexture',
  'emissiveTexture',
] as const;

/** Textures that say nothing of what is not lit. */
const LIT_TEXTURES =
  FEATURE.normalTexture |
  FEATURE.occlusionTexture |
  FEATURE.emissiveTexture |
  FEATURE.metallicRoughnessTexture;
const TANGENT_USES = FEATURE.normalTexture | FEATURE.clearcoat | FEATURE.anisotropy;

export function materialFeatures(material: Material, geometry: Geometry): number {
  const { attributes } = geometry;
  let bits = 0;
  if (attributes['texcoord0']) bits |= FEATURE.texcoord0;
  if (attributes['texcoord1']) bits |= FEATURE.texcoord1;
  for (let i = 0; i < TEXTURE_SLOTS.length; i++) {
    const slot = TEXTURE_SLOTS[i]!; // i < length
    const use = material[slot];
    // A texture without its coordinates would sample one texel everywhere: better left out.
    if (use && attributes[use.texCoord === 1 ? 'texcoord1' : 'texcoord0']) bits |= FEATURE[slot];
  }
  bits |= PLACED[placedBy(geometry)];
  if (attributes['color0']) bits |= FEATURE.color;
  if (material.doubleSided) bits |= FEATURE.doubleSided;
  if (material.alphaMode === 'mask') bits |= FEATURE.mask;
  if (isBlended(material)) bits |= FEATURE.blend;
  const isUnlit = material.unlit === true;
  // Hooks may ask for what the material itself does not need.
  const hasHooks = material.shader !== undefined;
  if (isUnlit) bits = (bits | FEATURE.unlit) & ~LIT_TEXTURES;
  else bits |= layersOf(material);
  if (attributes['normal'] && (!isUnlit || hasHooks)) bits |= FEATURE.normal;
  // Tangents serve normal maps, brushed surfaces and hooks alone.
  const usesTangent = hasHooks || (bits & TANGENT_USES) !== 0;
  if (attributes['tangent'] && (bits & FEATURE.normal) !== 0 && usesTangent) bits |= FEATURE.tangent;
  return bits;
}

/** Layers that a material has: those whose factor is not what it is without them. */
export function layersOf(m: Material): number {
  let bits = 0;
  if (m.clearcoatFactor) bits |= FEATURE.clearcoat;
  if (m.sheenColorFactor?.some(isSome)) bits |= FEATURE.sheen;
  if ((m.specularFactor ?? 1) !== 1 || m.specularTexture || m.specularColorFactor || m.specularColorTexture)
    bits |= FEATURE.specular;
  if ((m.ior ?? 1.5) !== 1.5) bits |= FEATURE.specular;
  if (m.transmissionFactor) bits |= FEATURE.transmission;
  if (m.iridescenceFactor) bits |= FEATURE.iridescence;
  if (m.anisotropyStrength) bits |= FEATURE.anisotropy;
  if (m.diffuseTransmissionFactor) bits |= FEATURE.diffuseTransmission;
  return bits;
}

const isSome = (part: number): boolean => part !== 0;
