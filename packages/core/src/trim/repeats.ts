import type { AssetNode, ModelAsset } from '../formats/asset/asset.js';
import { attributeFloats, type Geometry, vertexCount } from '../geometry/geometry.js';
import { affineFromTrs } from '../math/affine.js';
import { addTo } from '../math/lists.js';
import { animatedThings, collect, jointsOf } from './uses.js';
import { hashOf, rowsOf, sameBytes } from './vertex-table.js';

/** Share of a geometry's size by which its vertices may differ from another's. */
const TOLERANCE = 1e-6;

/**
 * Makes one geometry of those that are the same but for their place: copies that were modelled where they stand become nodes
 * that share a mesh, and so one draw. Only nodes that carry nothing but the mesh are moved, by what no clip and no skin sees.
 */
export function shareRepeats(asset: ModelAsset): string {
  const fixed = new Set<unknown>([...animatedThings(asset), ...jointsOf(asset)]);
  const users = new Map<object, AssetNode[]>();
  for (const node of asset.nodes) if (node.mesh) addTo(users, node.mesh, node);
  const known = new Map<string, Known[]>();
  let shared = 0;
  let number = 0;
  for (const mesh of asset.meshes) {
    const [primitive] = mesh.primitives;
    if (mesh.primitives.length !== 1 || !primitive || primitive.geometry.targets) continue;
    const nodes = users.get(mesh) ?? [];
    const { geometry } = primitive;
    const { position, ...others } = geometry.attributes;
    if (position?.componentType !== 'f32') continue;
    const places = attributeFloats(position);
    const rest = rowsOf({ ...geometry, attributes: others });
    const key = JSON.stringify([
      vertexCount(geometry),
      geometry.mode,
      hashOf(rest.rows),
      geometry.indices
        ? hashOf(
            new Uint8Array(geometry.indices.buffer, geometry.indices.byteOffset, geometry.indices.byteLength),
          )
        : 0,
    ]);
    const own: Known = { geometry, places, rest: rest.rows, number: number++ };
    const size = sizeClass(geometry);
    // What is as large but for the tolerance may stand in the next class.
    const found = [size - 1, size, size + 1]
      .map((one) => known.get(`${key} ${one}`)?.find((other) => isMoved(other, own)))
      .reduce((first, one) => (first && one ? (one.number < first.number ? one : first) : (first ?? one)));
    if (!found) {
      addTo(known, `${key} ${size}`, own);
      continue;
    }
    if (found.geometry === geometry || !nodes.every((node) => mayMove(node, fixed))) continue;
    const offset = [0, 1, 2].map((k) => places[k]! - found.places[k]!) as [number, number, number]; // a vertex each
    for (const node of nodes) move(node, offset);
    primitive.geometry = found.geometry;
    shared++;
  }
  collect(asset);
  return shared > 0
    ? `${shared} ${shared === 1 ? 'geometry was another one' : 'geometries were others'}, moved`
    : '';
}

/** A geometry that others may be. */
interface Known {
  geometry: Geometry;
  places: Float32Array;
  /** Its other attributes, vertex by vertex. */
  rest: Uint8Array;
  /** The first one counts. */
  number: number;
}

/**
 * Geometries of different classes are of different sizes, unless the classes lie side by side: a class is a ten-thousandth wide, and
 * tells sides apart.
 */
function sizeClass({ bounds: { max, min } }: Geometry): number {
  const [x, y, z] = [0, 1, 2].map((k) => max[k]! - min[k]!) as [number, number, number]; // three numbers
  return Math.floor(Math.log(x + 1.37 * y + 2.11 * z) * 1e4);
}

function isMoved(a: Known, b: Known): boolean {
  if (a.geometry === b.geometry) return true;
  const { bounds, indices } = a.geometry;
  const { places: from } = a;
  const { places: to } = b;
  const size = Math.max(...[0, 1, 2].map((k) => bounds.max[k]! - bounds.min[k]!)); // three numbers
  for (let i = 0; i < from.length; i++) {
    const k = i % 3;
    if (Math.abs(to[i]! - from[i]! - (to[k]! - from[k]!)) > TOLERANCE * size) return false; // as many
  }
  for (let i = 0; i < (indices?.length ?? 0); i++) if (indices![i] !== b.geometry.indices?.[i]) return false; // it has some
  return sameBytes(a.rest, b.rest);
}

const mayMove = (node: AssetNode, fixed: ReadonlySet<unknown>): boolean =>
  node.children.length === 0 &&
  !node.skin &&
  !node.camera &&
  !node.light &&
  !node.weights &&
  !node.matrix &&
  !node.levels &&
  !node.instances &&
  !fixed.has(node);

/** Moves a node by metres in its own space. */
function move(node: AssetNode, offset: readonly [number, number, number]): void {
  const { translation = [0, 0, 0], rotation = [0, 0, 0, 1], scale = [1, 1, 1] } = node;
  const m = affineFromTrsList(translation, rotation, scale);
  node.translation = [0, 1, 2].map(
    (k) => m[k * 4]! * offset[0] + m[k * 4 + 1]! * offset[1] + m[k * 4 + 2]! * offset[2] + m[k * 4 + 3]!, // twelve numbers
  ) as [number, number, number];
}

/** A transform in twice the precision that scenes have. */
export function affineFromTrsList(
  t: readonly number[],
  r: readonly number[],
  s: readonly number[],
): number[] {
  const out = new Array<number>(12).fill(0);
  affineFromTrs(out, 0, t, 0, r, 0, s, 0);
  return out;
}
