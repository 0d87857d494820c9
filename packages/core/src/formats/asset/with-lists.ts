import { LAYER_TEXTURES } from '../../material/layers.js';
import type { Material, Texture, TextureUse } from '../../material/material.js';
import type { ModelAsset } from './asset.js';

const TEXTURES = [
  'baseColorTexture',
  'metallicRoughnessTexture',
  'normalTexture',
  'occlusionTexture',
  'emissiveTexture',
  ...LAYER_TEXTURES.map(({ key }) => key),
];

/** An asset whose lists hold all that its nodes carry: that of a scene has nodes alone. */
export function withLists(asset: ModelAsset): ModelAsset {
  const meshes = new Set(asset.meshes);
  const materials = new Set<Material>(asset.materials);
  const [cameras, lights] = [new Set(asset.cameras), new Set(asset.lights)];
  const textures = new Set<Texture>(asset.textures);
  for (const { camera, levels = [], light, mesh } of asset.nodes) {
    if (camera) cameras.add(camera);
    if (light) lights.add(light);
    for (const one of [mesh, ...levels.map(({ node }) => node.mesh)]) if (one) meshes.add(one);
  }
  for (const { primitives } of meshes)
    for (const { material, standard, variants = {} } of primitives)
      for (const one of [material, standard, ...Object.values(variants)]) if (one) materials.add(one);
  for (const material of materials)
    for (const key of TEXTURES) {
      const use = (material as Record<string, unknown>)[key] as TextureUse | undefined;
      if (use) textures.add(use.texture);
    }
  return {
    ...asset,
    meshes: [...meshes],
    materials: [...materials],
    cameras: [...cameras],
    lights: [...lights],
    textures: [...textures],
    images: [...new Set([...asset.images, ...[...textures].map(({ image }) => image)])],
    samplers: [...new Set([...asset.samplers, ...[...textures].flatMap(({ sampler }) => sampler ?? [])])],
  };
}
