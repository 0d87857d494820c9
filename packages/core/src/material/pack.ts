import {
  MATERIAL_ALPHA_CUTOFF,
  MATERIAL_BASE_COLOR_FACTOR,
  MATERIAL_EMISSIVE_FACTOR,
  MATERIAL_METALLIC_FACTOR,
  MATERIAL_NORMAL_SCALE,
  MATERIAL_OCCLUSION_STRENGTH,
  MATERIAL_ROUGHNESS_FACTOR,
  MATERIAL_USES,
  TEXTURE_USE_FLOATS,
  TEXTURE_USE_MATRIX,
  TEXTURE_USE_OFFSET,
  TEXTURE_USE_TEX_COORD,
} from '../compiled/layouts.js';
import { TEXTURE_SLOTS } from './features.js';
import { type Material, MATERIAL_DEFAULTS, type TextureUse } from './material.js';

/**
 * Writes a material as its uniform block holds it: `Material` of material.wgsl. The strength of what glows is multiplied
 * in; a texture's matrix is 2x2 by rows.
 *
 * @returns whether any number differs from what `out` held
 */
export function packMaterial(material: Material, out: Float32Array, at: number): boolean {
  const base = material.baseColorFactor ?? MATERIAL_DEFAULTS.baseColorFactor;
  const emissive = material.emissiveFactor ?? MATERIAL_DEFAULTS.emissiveFactor;
  const strength = material.emissiveStrength ?? MATERIAL_DEFAULTS.emissiveStrength;
  changed = false;
  for (let k = 0; k < 4; k++) put(out, at + MATERIAL_BASE_COLOR_FACTOR + k, base[k]!); // four by type
  for (let k = 0; k < 3; k++) put(out, at + MATERIAL_EMISSIVE_FACTOR + k, emissive[k]! * strength);
  put(out, at + MATERIAL_ALPHA_CUTOFF, material.alphaCutoff ?? MATERIAL_DEFAULTS.alphaCutoff);
  put(out, at + MATERIAL_METALLIC_FACTOR, material.metallicFactor ?? MATERIAL_DEFAULTS.metallicFactor);
  put(out, at + MATERIAL_ROUGHNESS_FACTOR, material.roughnessFactor ?? MATERIAL_DEFAULTS.roughnessFactor);
  put(out, at + MATERIAL_NORMAL_SCALE, material.normalTexture?.strength ?? 1);
  put(out, at + MATERIAL_OCCLUSION_STRENGTH, material.occlusionTexture?.strength ?? 1);
  for (let i = 0; i < TEXTURE_SLOTS.length; i++) {
    packTransform(material[TEXTURE_SLOTS[i]!], out, at + MATERIAL_USES + i * TEXTURE_USE_FLOATS); // i < length
  }
  return changed;
}

let changed = false;

function put(out: Float32Array, at: number, value: number): void {
  const rounded = Math.fround(value);
  if (out[at] === rounded) return;
  out[at] = rounded;
  changed = true;
}

/** KHR_texture_transform: translation * rotation * scale on (u, v), v downwards. */
export function packTransform(use: TextureUse | undefined, out: Float32Array, at: number): void {
  const transform = use?.transform;
  const cos = transform ? Math.cos(transform.rotation) : 1;
  const sin = transform ? Math.sin(transform.rotation) : 0;
  const sx = transform ? transform.scale[0] : 1;
  const sy = transform ? transform.scale[1] : 1;
  const matrix = at + TEXTURE_USE_MATRIX;
  const offset = at + TEXTURE_USE_OFFSET;
  put(out, matrix, cos * sx);
  put(out, matrix + 1, sin * sy);
  put(out, matrix + 2, -sin * sx);
  put(out, matrix + 3, cos * sy);
  put(out, offset, transform ? transform.offset[0] : 0);
  put(out, offset + 1, transform ? transform.offset[1] : 0);
  put(out, at + TEXTURE_USE_TEX_COORD, use?.texCoord === 1 ? 1 : 0);
}
