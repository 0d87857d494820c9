import { MeshoptSimplifier } from 'meshoptimizer/simplifier';
import { LensError } from '../errors/lens-error.js';
import { attributeFloats, type Geometry, vertexCount } from '../geometry/geometry.js';
import { triangleCount } from '../geometry/triangles.js';
import type { AssetLevel, AssetNode, ModelAsset } from '../formats/asset/asset.js';
import type { Mesh } from '../scene/components.js';
import { readyCodec } from './codec.js';
import { isTriangles, wholeIndices, withVertices } from './vertex-table.js';

export interface LevelOptions {
  /** Coarser levels of each mesh at most. 1 to 3, default 3. */
  count?: number;
  /** Share of the triangles that each keeps of the one before. Default 0.35. */
  share?: number;
  /** Error that a level may have at most, as a share of the mesh's size. Default 0.05. */
  error?: number;
  /** Meshes of fewer triangles are left alone. Default 300. */
  from?: number;
}

/** How much a difference of each attribute counts against one of place, as a share of the mesh's size. */
const WEIGHTS: [name: string, weight: number][] = [
  ['normal', 0.5],
  ['texcoord0', 1],
  ['color0', 0.5],
];

/**
 * Adds coarser levels to nodes with meshes, by meshoptimizer's simplifier, each with the metres that it is wrong by.
 *
 * @throws LensError `trim/levels`
 */
export async function addLevels(asset: ModelAsset, options: LevelOptions): Promise<string> {
  const { count = 3, share = 0.35, error = 0.05, from = 300 } = options;
  if (!(count >= 1 && count <= 3 && share > 0 && share < 1 && error > 0))
    throw new LensError(
      'trim/levels',
      `${count} levels of ${share} each, with an error of ${error}, cannot be made`,
      {
        hint: 'Give 1 to 3 levels, a share between 0 and 1, an error above 0.',
      },
    );
  const codec = await readyCodec(MeshoptSimplifier);
  // Nodes that share a mesh share what stands for it; it has no name, so that nobody finds it in place of them.
  const made = new Map<Mesh, AssetLevel[]>();
  let [levels, triangles] = [0, 0];
  for (const node of [...asset.nodes]) {
    const { mesh } = node;
    if (
      !mesh ||
      node.skin ||
      node.instances ||
      node.levels ||
      mesh.primitives.some(({ geometry }) => geometry.targets)
    )
      continue;
    let chain = made.get(mesh);
    if (!chain) {
      chain = chainOf(codec, mesh, { count, share, error, from }).map((level) => {
        const stand: AssetNode = { children: [], mesh: level.mesh };
        asset.nodes.push(stand);
        asset.meshes.push(level.mesh);
        levels++;
        triangles += level.mesh.primitives.reduce((sum, { geometry }) => sum + triangleCount(geometry), 0);
        return { node: stand, error: level.error };
      });
      made.set(mesh, chain);
    }
    if (chain.length > 0) node.levels = [...chain];
  }
  return levels > 0 ? `${levels} levels of ${triangles.toLocaleString('en-US')} triangles added` : '';
}

function chainOf(
  codec: typeof MeshoptSimplifier,
  mesh: Mesh,
  { count, share, error, from }: Required<LevelOptions>,
): { mesh: Mesh; error: number }[] {
  const all = mesh.primitives.reduce((sum, { geometry }) => sum + triangleCount(geometry), 0);
  if (all < from || !mesh.primitives.every(({ geometry }) => isTriangles(geometry))) return [];
  const chain: { mesh: Mesh; error: number }[] = [];
  let before = all;
  for (let level = 1; level <= count; level++) {
    let metres = 0;
    let triangles = 0;
    const primitives = mesh.primitives.map((primitive) => {
      const made = simplified(codec, primitive.geometry, share ** level, error);
      metres = Math.max(metres, made.error);
      triangles += triangleCount(made.geometry);
      return { ...primitive, geometry: made.geometry };
    });
    // A level that is hardly coarser than the one before is not worth its bytes.
    if (triangles > before * 0.75 || triangles === 0) break;
    before = triangles;
    chain.push({
      mesh: {
        ...mesh,
        ...(mesh.name === undefined ? {} : { name: `${mesh.name} level ${level}` }),
        primitives,
      },
      error: metres,
    });
  }
  return chain;
}

function simplified(
  codec: typeof MeshoptSimplifier,
  geometry: Geometry,
  share: number,
  error: number,
): { geometry: Geometry; error: number } {
  const indices = wholeIndices(geometry);
  const positions = Float32Array.from(attributeFloats(geometry.attributes['position']!)); // every geometry has one
  const count = vertexCount(geometry);
  const used = WEIGHTS.flatMap(([name, weight]) => {
    const attribute = geometry.attributes[name];
    return attribute
      ? [{ values: attributeFloats(attribute), components: attribute.components, weight }]
      : [];
  });
  const stride = used.reduce((sum, { components }) => sum + components, 0);
  const values = new Float32Array(count * stride);
  let at = 0;
  for (const { values: from, components } of used) {
    for (let v = 0; v < count; v++)
      for (let k = 0; k < components; k++) values[v * stride + at + k] = from[v * components + k]!; // in range
    at += components;
  }
  const weights = used.flatMap(({ components, weight }) => new Array<number>(components).fill(weight));
  const target = Math.max(3, Math.floor((indices.length * share) / 3) * 3);
  const [found, relative] =
    stride > 0
      ? codec.simplifyWithAttributes(indices, positions, 3, values, stride, weights, null, target, error)
      : codec.simplify(indices, positions, 3, target, error);
  const metres = relative * codec.getScale(positions, 3);
  const place = new Map<number, number>();
  const renumbered = Uint32Array.from(found, (v) => {
    const known = place.get(v) ?? place.size;
    place.set(v, known);
    return known;
  });
  return { geometry: withVertices(geometry, Uint32Array.from(place.keys()), renumbered), error: metres };
}
