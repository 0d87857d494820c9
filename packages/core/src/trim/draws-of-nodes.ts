import { addTo } from '../math/lists.js';
import type { AssetNode, ModelAsset } from '../formats/asset/asset.js';
import { attributeBounds, attributeFloats, attributeFrom, type Geometry } from '../geometry/geometry.js';
import { affineDeterminant, affineFromMatrix, affineInvert } from '../math/affine.js';
import type { Primitive } from '../scene/components.js';
import { affineFromTrsList } from './repeats.js';
import { isJoinable, joined, layoutOf } from './draws-of-primitives.js';
import { animatedThings, collect, fewer, jointsOf, materialsOf } from './uses.js';
import { wholeIndices } from './vertex-table.js';

/**
 * Puts nodes beside each other into one where one draw could be all of them: of one material and layout, carrying nothing
 * else, moved by nothing. Meshes that several nodes share are left alone: they are one draw already.
 *
 * @param named whether those with names go too
 */
export function mergeNodes(asset: ModelAsset, named: boolean): string {
  const before = asset.nodes.length;
  const fixed = new Set<unknown>([...animatedThings(asset), ...jointsOf(asset)]);
  const users = new Map<object, number>();
  for (const { mesh } of asset.nodes) if (mesh) users.set(mesh, (users.get(mesh) ?? 0) + 1);
  const mayJoin = (node: AssetNode): boolean =>
    node.mesh?.primitives.length === 1 &&
    users.get(node.mesh) === 1 &&
    node.children.length === 0 &&
    (named || node.name === undefined) &&
    node.extras === undefined &&
    node.mesh.extras === undefined &&
    node.visible !== false &&
    !node.skin &&
    !node.camera &&
    !node.light &&
    !node.levels &&
    !node.instances &&
    !fixed.has(node) &&
    !node.mesh.primitives[0]!.geometry.targets && // one: looked at above, here and below
    node.mesh.primitives[0]!.extras === undefined &&
    !node.mesh.primitives[0]!.variants &&
    isJoinable(node.mesh.primitives[0]!.geometry) &&
    materialsOf(node.mesh.primitives[0]!).every(
      (material) => material.alphaMode !== 'blend' && !material.shader,
    );
  const numbers = new Map<unknown, number>(asset.materials.map((material, i) => [material, i]));
  const within = (nodes: AssetNode[]): AssetNode[] => {
    const groups = new Map<string, AssetNode[]>();
    for (const node of nodes) {
      node.children = within(node.children);
      if (!mayJoin(node)) continue;
      const [primitive] = node.mesh!.primitives as [Primitive];
      const key = JSON.stringify([numbers.get(primitive.material) ?? -1, layoutOf(primitive.geometry)]);
      addTo(groups, key, node);
    }
    const gone = new Set<AssetNode>();
    for (const group of groups.values()) {
      const [first, ...others] = group as [AssetNode, ...AssetNode[]];
      if (others.length === 0) continue;
      const [primitive] = first.mesh!.primitives as [Primitive];
      const geometry = joined(group.map((node) => placed(node.mesh!.primitives[0]!.geometry, node)));
      first.mesh = { ...first.mesh!, primitives: [{ ...primitive, geometry }] };
      delete first.translation;
      delete first.rotation;
      delete first.scale;
      delete first.matrix;
      for (const node of others) gone.add(node);
    }
    return nodes.filter((node) => !gone.has(node));
  };
  for (const scene of asset.scenes) scene.nodes = within(scene.nodes);
  collect(asset);
  return fewer({ nodes: before }, { nodes: asset.nodes.length }, 'joined to others');
}

/** A geometry as its node places it. */
function placed(geometry: Geometry, node: AssetNode): Geometry {
  const m = new Array<number>(12).fill(0);
  if (node.matrix) affineFromMatrix(m, 0, node.matrix);
  else
    m.splice(
      0,
      12,
      ...affineFromTrsList(
        node.translation ?? [0, 0, 0],
        node.rotation ?? [0, 0, 0, 1],
        node.scale ?? [1, 1, 1],
      ),
    );
  const inverse = new Array<number>(12).fill(0);
  if (!affineInvert(inverse, 0, m, 0)) return geometry;
  const attributes = { ...geometry.attributes };
  const moved = (
    name: string,
    at: (x: number, y: number, z: number, k: number) => number,
    isUnit: boolean,
  ): void => {
    const attribute = attributes[name];
    if (!attribute) return;
    const { components } = attribute;
    const values = Float32Array.from(attributeFloats(attribute));
    for (let v = 0; v < values.length; v += components) {
      const [x, y, z] = [values[v]!, values[v + 1]!, values[v + 2]!]; // three or four each
      const out = [0, 1, 2].map((k) => at(x, y, z, k));
      const length = isUnit ? Math.hypot(...out) || 1 : 1;
      for (let k = 0; k < 3; k++) values[v + k] = out[k]! / length;
    }
    attributes[name] = attributeFrom(values, components);
  };
  const row = (x: number, y: number, z: number, k: number): number =>
    m[k * 4]! * x + m[k * 4 + 1]! * y + m[k * 4 + 2]! * z; // twelve
  moved('position', (x, y, z, k) => row(x, y, z, k) + m[k * 4 + 3]!, false);
  // Normals go by the columns of the inverse.
  moved('normal', (x, y, z, k) => inverse[k]! * x + inverse[4 + k]! * y + inverse[8 + k]! * z, true);
  moved('tangent', row, true);
  const indices = wholeIndices(geometry);
  if (affineDeterminant(m, 0) < 0 && (geometry.mode ?? 'triangles') === 'triangles')
    for (let i = 0; i < indices.length; i += 3)
      [indices[i + 1], indices[i + 2]] = [indices[i + 2]!, indices[i + 1]!]; // three each
  return { ...geometry, attributes, indices, bounds: attributeBounds(attributes['position']!) }; // every geometry has one
}
