import type { AssetNode, ModelAsset } from '../formats/asset/asset.js';
import { rootsOf } from '../formats/asset/roots.js';
import type { Material, Texture } from '../material/material.js';
import type { Primitive } from '../scene/components.js';

/** Every material that a primitive may be drawn with. */
export function materialsOf({ material, standard, variants }: Primitive): Material[] {
  const all = [material, standard, ...Object.values(variants ?? {})];
  return all.filter((one): one is Material => one !== undefined);
}

/** Every use of a texture by a material: which coordinates it is read at. */
export function textureUses(material: Material): { texture: Texture; texCoord: number }[] {
  const uses: { texture: Texture; texCoord: number }[] = [];
  for (const value of Object.values(material) as unknown[]) {
    if (typeof value !== 'object' || value === null || !('texture' in value)) continue;
    const { texture, texCoord = 0 } = value as { texture?: Texture; texCoord?: number };
    if (texture) uses.push({ texture, texCoord });
  }
  return uses;
}

/** Nodes that clips move or show, and owners of whatever else clips animate. */
export function animatedThings({ animations }: ModelAsset): Set<unknown> {
  const found = new Set<unknown>();
  for (const { channels } of animations)
    for (const { target, property } of channels) {
      if (target) found.add(target);
      if (property) found.add(property.owner);
    }
  return found;
}

/** Nodes that skins hold on to. */
export function jointsOf({ skins }: ModelAsset): Set<AssetNode> {
  return new Set(skins.flatMap(({ joints, skeleton }) => [...joints, ...(skeleton ? [skeleton] : [])]));
}

/** Lists of a model, out of what its nodes lead to: what nothing leads to is gone. */
export function collect(asset: ModelAsset): void {
  const reached = new Set<AssetNode>();
  const open = asset.scenes.length > 0 ? asset.scenes.flatMap(({ nodes }) => nodes) : rootsOf(asset.nodes);
  for (const joint of jointsOf(asset)) open.push(joint);
  for (let node = open.pop(); node; node = open.pop()) {
    if (reached.has(node)) continue;
    reached.add(node);
    for (const child of node.children) open.push(child);
    for (const level of node.levels ?? []) open.push(level.node);
  }
  // Those that it had stay in their order.
  asset.nodes = [...new Set([...asset.nodes.filter((node) => reached.has(node)), ...reached])];
  const used = <T>(list: T[], keep: ReadonlySet<unknown>): T[] => list.filter((one) => keep.has(one));
  const meshes = new Set(asset.nodes.map(({ mesh }) => mesh));
  asset.meshes = [...new Set([...used(asset.meshes, meshes), ...meshes])].filter(
    (mesh) => mesh !== undefined,
  );
  const animated = animatedThings(asset);
  const materials = new Set<unknown>([
    ...asset.meshes.flatMap(({ primitives }) => primitives.flatMap(materialsOf)),
    ...animated,
  ]);
  asset.materials = used(asset.materials, materials);
  const textures = new Set<Texture>(
    asset.materials.flatMap((material) => textureUses(material).map(({ texture }) => texture)),
  );
  asset.textures = used(asset.textures, textures);
  asset.images = used(asset.images, new Set([...textures].map(({ image }) => image)));
  asset.samplers = used(asset.samplers, new Set([...textures].map(({ sampler }) => sampler)));
  asset.cameras = used(asset.cameras, new Set(asset.nodes.map(({ camera }) => camera)));
  asset.lights = used(asset.lights, new Set(asset.nodes.map(({ light }) => light)));
  asset.skins = used(asset.skins, new Set(asset.nodes.map(({ skin }) => skin)));
}

/** `3 meshes, 1 node`, of what there is less of. */
export function fewer(before: Record<string, number>, after: Record<string, number>, words: string): string {
  const parts = Object.keys(before).flatMap((name) => {
    const less = before[name]! - after[name]!; // both have the same names
    return less > 0
      ? [`${less.toLocaleString('en-US')} ${less === 1 ? (SINGULAR[name] ?? name) : name}`]
      : [];
  });
  return parts.length > 0 ? `${parts.join(', ')} ${words}` : '';
}

const SINGULAR: Record<string, string> = {
  nodes: 'node',
  meshes: 'mesh',
  primitives: 'primitive',
  materials: 'material',
  textures: 'texture',
  images: 'image',
  samplers: 'sampler',
  vertices: 'vertex',
  attributes: 'attribute',
  geometries: 'geometry',
  cameras: 'camera',
  lights: 'light',
  skins: 'skin',
};
