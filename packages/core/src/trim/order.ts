import { MeshoptEncoder } from 'meshoptimizer/encoder';
import type { ModelAsset } from '../formats/asset/asset.js';
import { vertexCount } from '../geometry/geometry.js';
import { readyCodec } from './codec.js';
import { isTriangles, replaceGeometries, wholeIndices, withVertices } from './vertex-table.js';

/** Orders triangles for the cache of transformed vertices and vertices for how they are fetched, by meshoptimizer. */
export async function orderTriangles({ meshes }: ModelAsset): Promise<string> {
  const codec = await readyCodec(MeshoptEncoder);
  let [before, after, count] = [0, 0, 0];
  replaceGeometries(meshes, (geometry) => {
    if (!isTriangles(geometry)) return geometry;
    const indices = wholeIndices(geometry);
    if (indices.length < 3) return geometry;
    const misses = cacheMisses(indices);
    const [remap, used] = codec.reorderMesh(indices, true, false);
    const from = new Uint32Array(used);
    // By old vertex: the new one; all ones where nothing names it.
    for (let v = 0; v < vertexCount(geometry); v++) if (remap[v]! < used) from[remap[v]!] = v;
    const now = cacheMisses(indices);
    if (now >= misses) {
      before += misses;
      after += misses;
      count += indices.length / 3;
      return geometry;
    }
    before += misses;
    after += now;
    count += indices.length / 3;
    return withVertices(geometry, from, indices);
  });
  if (count === 0 || before === after) return '';
  const each = (misses: number): string => (misses / count).toFixed(2);
  return `vertices worked on for each triangle from ${each(before)} to ${each(after)}`;
}

/** Vertices that a first-in-first-out cache of 16 has to work on. */
export function cacheMisses(indices: ArrayLike<number>): number {
  const cache: number[] = [];
  let misses = 0;
  for (let i = 0; i < indices.length; i++) {
    const v = indices[i]!; // i < length
    if (cache.includes(v)) continue;
    misses++;
    cache.push(v);
    if (cache.length > 16) cache.shift();
  }
  return misses;
}
