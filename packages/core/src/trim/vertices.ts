import { vertexCount } from '../geometry/geometry.js';
import type { ModelAsset } from '../formats/asset/asset.js';
import { hashOf, replaceGeometries, rowsOf, sameBytes, wholeIndices, withVertices } from './vertex-table.js';
import { fewer } from './uses.js';

/** Makes one vertex of those that are the same to the bit in everything, and leaves out those that nothing names. */
export function shareVertices({ meshes }: ModelAsset): string {
  let [before, after] = [0, 0];
  replaceGeometries(meshes, (geometry) => {
    const count = vertexCount(geometry);
    before += count;
    const { rows, size } = rowsOf(geometry);
    const row = (v: number): Uint8Array => rows.subarray(v * size, v * size + size);
    const known = new Map<number, number[]>();
    const old: number[] = [];
    const place = new Int32Array(count).fill(-1);
    const indices = wholeIndices(geometry);
    for (let i = 0; i < indices.length; i++) {
      const v = indices[i]!; // i < length
      if (place[v] === -1) {
        const hash = hashOf(rows, v * size, v * size + size);
        const near = known.get(hash) ?? [];
        known.set(hash, near);
        let found = near.find((other) => sameBytes(row(old[other]!), row(v))); // numbers of old
        if (found === undefined) {
          found = old.push(v) - 1;
          near.push(found);
        }
        place[v] = found;
      }
      indices[i] = place[v]!; // set above
    }
    after += old.length;
    return old.length === count && geometry.indices
      ? geometry
      : withVertices(geometry, Uint32Array.from(old), indices);
  });
  return fewer({ vertices: before }, { vertices: after }, 'made one');
}
