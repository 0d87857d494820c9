import { LensError } from '../errors/lens-error.js';
import type { ModelAsset } from '../formats/asset/asset.js';
import { attributeBounds, attributeFloats, type Geometry, vertexCount } from '../geometry/geometry.js';
import type { Mesh } from '../scene/components.js';
import { isTriangles, wholeIndices, withVertices } from './vertex-table.js';

/**
 * Cuts large geometries into parts that lie together, so that what is outside the view, or hidden, is left out part by part
 * instead of drawn whole. Geometries with joints or morph targets stay, and so do meshes with levels.
 *
 * @param most triangles of a part
 * @returns what was done, in words; nothing where nothing was
 * @throws LensError `trim/split`
 */
export function splitLarge(asset: ModelAsset, most: number): string {
  if (!(Number.isInteger(most) && most >= 64))
    throw new LensError('trim/split', `parts of ${most} triangles cannot be made`, {
      hint: 'Give a whole number of 64 or more; 4,096 to 16,384 are usual.',
    });
  const hasLevels = new Set<Mesh | undefined>(
    asset.nodes.flatMap(({ levels, mesh }) => (levels ? [mesh, ...levels.map(({ node }) => node.mesh)] : [])),
  );
  const known = new Map<Geometry, Geometry[]>();
  let [cut, parts] = [0, 0];
  for (const mesh of asset.meshes) {
    if (hasLevels.has(mesh)) continue;
    mesh.primitives = mesh.primitives.flatMap((primitive) => {
      const { geometry } = primitive;
      let made = known.get(geometry);
      if (!made) {
        known.set(geometry, (made = isLarge(geometry, most) ? splitGeometry(geometry, most) : [geometry]));
        if (made.length > 1) {
          cut++;
          parts += made.length;
        }
      }
      return made.map((one) => ({ ...primitive, geometry: one }));
    });
  }
  return cut > 0 ? `${cut} ${cut === 1 ? 'geometry' : 'geometries'} into ${parts} parts` : '';
}

function isLarge(geometry: Geometry, most: number): boolean {
  const isBent = geometry.targets !== undefined || 'joints0' in geometry.attributes;
  const corners = geometry.indices?.length ?? vertexCount(geometry);
  return isTriangles(geometry) && !isBent && corners / 3 > most;
}

/**
 * Cuts a geometry of triangles into halves of halves across their longest sides, until none has more than `most`: each part has
 * the vertices that it needs.
 */
export function splitGeometry(geometry: Geometry, most: number): Geometry[] {
  const indices = wholeIndices(geometry);
  const triangles = Math.floor(indices.length / 3);
  const placeOf = new Int32Array(vertexCount(geometry)).fill(-1);
  const positions = attributeFloats(geometry.attributes['position']!); // every geometry has some
  return partsOf(positions, indices, triangles, most).map((part, number) => {
    const from: number[] = [];
    const own = new Uint32Array(part.length * 3);
    part.forEach((triangle, i) => {
      for (let k = 0; k < 3; k++) {
        const vertex = indices[triangle * 3 + k]!; // whole triangles
        let place = placeOf[vertex]!;
        if (place < 0) {
          placeOf[vertex] = place = from.length;
          from.push(vertex);
        }
        own[i * 3 + k] = place;
      }
    });
    for (const vertex of from) placeOf[vertex] = -1;
    const made = withVertices(geometry, Uint32Array.from(from), own);
    const { name } = geometry;
    return {
      ...made,
      ...(name === undefined ? {} : { name: `${name} ${number + 1}` }),
      bounds: attributeBounds(made.attributes['position']!), // it has one
    };
  });
}

/** Triangles by part: halves of halves, each across the longest side of its box. */
function partsOf(
  positions: Float32Array,
  indices: Uint32Array,
  triangles: number,
  most: number,
): Uint32Array[] {
  const centers = new Float32Array(triangles * 3);
  for (let i = 0; i < triangles; i++)
    for (let axis = 0; axis < 3; axis++) {
      let sum = 0;
      for (let k = 0; k < 3; k++) sum += positions[indices[i * 3 + k]! * 3 + axis]!; // whole triangles
      centers[i * 3 + axis] = sum / 3;
    }
  const all = Uint32Array.from({ length: triangles }, (_, i) => i);
  const open = [all];
  const done: Uint32Array[] = [];
  for (let part = open.pop(); part; part = open.pop()) {
    if (part.length <= most) {
      done.push(part);
      continue;
    }
    // As many whole parts on one side as on the other, about.
    const middle = Math.round(
      (part.length * Math.ceil(Math.ceil(part.length / most) / 2)) / Math.ceil(part.length / most),
    );
    select(part, centers, longestAxis(part, centers), middle);
    open.push(part.subarray(middle), part.subarray(0, middle));
  }
  return done;
}

function longestAxis(part: Uint32Array, centers: Float32Array): number {
  let [longest, found] = [-1, 0];
  for (let axis = 0; axis < 3; axis++) {
    let [least, most] = [Infinity, -Infinity];
    for (const triangle of part) {
      const center = centers[triangle * 3 + axis]!; // three each
      least = Math.min(least, center);
      most = Math.max(most, center);
    }
    if (most - least > longest) [longest, found] = [most - least, axis];
  }
  return found;
}

/** Orders a part so that no triangle before the `middle`th lies beyond one behind it (Hoare's selection, 1961). */
function select(part: Uint32Array, centers: Float32Array, axis: number, middle: number): void {
  let [left, right] = [0, part.length - 1];
  const at = (i: number): number => centers[part[i]! * 3 + axis]!; // within the part
  while (left < right) {
    const pivot = at((left + right) >> 1);
    let [i, j] = [left, right];
    while (i <= j) {
      while (at(i) < pivot) i++;
      while (at(j) > pivot) j--;
      if (i > j) break;
      const kept = part[i]!;
      part[i++] = part[j]!;
      part[j--] = kept;
    }
    if (middle <= j) right = j;
    else if (middle >= i) left = i;
    else return;
  }
}
