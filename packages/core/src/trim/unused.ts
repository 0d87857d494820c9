import type { AssetNode, ModelAsset } from '../formats/asset/asset.js';
import type { Primitive } from '../scene/components.js';
import { animatedThings, collect, fewer, jointsOf, materialsOf, textureUses } from './uses.js';

/** Removes what nothing uses. @returns what went, in words */
export function removeUnused(asset: ModelAsset): string {
  const before = counts(asset);
  const kept = new Set<unknown>([...animatedThings(asset), ...jointsOf(asset)]);
  for (const node of asset.nodes) for (const level of node.levels ?? []) kept.add(level.node);
  const isNothing = (node: AssetNode): boolean =>
    node.children.length === 0 &&
    !node.mesh &&
    !node.camera &&
    !node.light &&
    node.name === undefined &&
    node.extras === undefined &&
    !kept.has(node);
  const without = (nodes: AssetNode[]): AssetNode[] => nodes.filter((node) => !isNothing(node));
  // From below: what only held what goes, goes too.
  const down = asset.scenes.flatMap(({ nodes }) => nodes);
  for (const node of down) for (const child of node.children) down.push(child);
  for (const node of down.reverse()) node.children = without(node.children);
  for (const scene of asset.scenes) scene.nodes = without(scene.nodes);
  collect(asset);
  let attributes = 0;
  for (const { primitives } of asset.meshes)
    for (const primitive of primitives) attributes += pruneAttributes(primitive);
  return fewer({ ...before, attributes }, { ...counts(asset), attributes: 0 }, 'removed that nothing uses');
}

/** Removes attributes that no material of the primitive reads. @returns how many went */
function pruneAttributes(primitive: Primitive): number {
  const materials = materialsOf(primitive);
  // Shaders of their own may read anything.
  if (materials.some(({ shader }) => shader)) return 0;
  const read = new Set(
    materials.flatMap((material) => textureUses(material).map(({ texCoord }) => texCoord)),
  );
  const hasTangents = materials.some((material) =>
    Object.entries(material as Record<string, unknown>).some(
      ([name, value]) => /normalTexture|NormalTexture|anisotropy/.test(name) && value,
    ),
  );
  const { geometry } = primitive;
  const isUnused = (name: string): boolean => {
    const set = /^texcoord(\d)$/.exec(name);
    return set ? !read.has(Number(set[1])) : name === 'tangent' && !hasTangents;
  };
  const unused = Object.keys(geometry.attributes).filter(isUnused);
  if (unused.length === 0) return 0;
  const without = <T>(attributes: Record<string, T>): Record<string, T> =>
    Object.fromEntries(Object.entries(attributes).filter(([name]) => !unused.includes(name)));
  primitive.geometry = {
    ...geometry,
    attributes: without(geometry.attributes),
    ...(geometry.targets
      ? { targets: geometry.targets.map((target) => ({ ...target, attributes: without(target.attributes) })) }
      : {}),
  };
  return unused.length;
}

function counts({
  nodes,
  meshes,
  materials,
  textures,
  images,
  samplers,
  cameras,
  lights,
  skins,
}: ModelAsset): Record<string, number> {
  return Object.fromEntries(
    Object.entries({ nodes, meshes, materials, textures, images, samplers, cameras, lights, skins }).map(
      ([name, list]) => [name, list.length],
    ),
  );
}
