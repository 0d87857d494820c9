import { affineDeterminant, affineFromTrs, affineMultiply } from '../math/affine.js';
import { DIRTY, MIRRORED, NONE, type NodeColumns, SHEARED, SHOWN, VISIBLE } from './columns.js';

const local = new Float32Array(12);

/**
 * Brings world transforms and inherited visibility up to date for rows that are dirty or below a
 * dirty one, and stamps those rows with `stamp`. One pass from row `from` up; rows that did not
 * change cost two loads. Returns how many rows moved.
 */
export function updateWorld(
  columns: NodeColumns,
  from: number,
  stamp: number,
  sheared: ReadonlyMap<number, Float32Array>,
): number {
  const { count, translation, rotation, scale, world, flags, movedAt, parent } = columns;
  let moved = 0;
  for (let row = from; row < count; row++) {
    const up = parent[row]!;
    let flag = flags[row]!;
    if ((flag & DIRTY) === 0 && (up === NONE || movedAt[up] !== stamp)) continue;
    if ((flag & 1) === 0) continue;
    moved++;
    movedAt[row] = stamp;
    const parentShown = up === NONE || (flags[up]! & SHOWN) !== 0;
    flag = (flag & VISIBLE) !== 0 && parentShown ? flag | SHOWN : flag & ~SHOWN;
    const at = row * 12;
    const matrix = (flag & SHEARED) !== 0 ? sheared.get(row) : undefined;
    // Row 0 is the scene's root and never moves: its children need no product.
    if (matrix === undefined && up <= 0) {
      affineFromTrs(world, at, translation, row * 3, rotation, row * 4, scale, row * 3);
    } else if (matrix === undefined) {
      affineFromTrs(local, 0, translation, row * 3, rotation, row * 4, scale, row * 3);
      affineMultiply(world, at, world, up * 12, local, 0);
    } else if (up <= 0) {
      world.set(matrix, at);
    } else {
      affineMultiply(world, at, world, up * 12, matrix, 0);
    }
    flag = affineDeterminant(world, at) < 0 ? flag | MIRRORED : flag & ~MIRRORED;
    flags[row] = flag & ~DIRTY;
  }
  return moved;
}
