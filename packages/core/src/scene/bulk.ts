import { ALIVE, DIRTY, MATRIX, PLACED } from '../columns/flags.js';
import { LensError } from '../errors/lens-error.js';
import type { Scene } from './scene.js';

/**
 * Sets the world transforms of many nodes at once, as physics and other simulations give them. Such a node
 * stays where it was put, whatever its parent does, until its translation, rotation, scale or matrix is set.
 *
 * @param rows which nodes: their `row`
 * @param transforms affine 3x4 by rows, stride 12, one a row; copied. A number that is not finite is told by the
 *   next update.
 * @throws LensError `scene/length` when the two do not fit together, `scene/removed` for a row without a node
 */
export function setWorldTransforms(
  scene: Scene,
  rows: ArrayLike<number>,
  transforms: ArrayLike<number>,
): void {
  const count = rows.length;
  if (transforms.length !== count * 12) {
    throw new LensError(
      'scene/length',
      `${count} rows take ${count * 12} numbers, got ${transforms.length}`,
      {
        hint: 'An affine 3x4 matrix, row by row, for each.',
      },
    );
  }
  const { columns } = scene;
  const { world } = columns;
  for (let i = 0, m = 0; i < count; i++, m += 12) {
    const row = rows[i]!; // i < length
    if (((columns.flags[row] ?? 0) & ALIVE) === 0 || row === 0) throw noNode(row);
    for (let k = 0, at = row * 12; k < 12; k++) world[at + k] = transforms[m + k]!; // twelve a row
    columns.flags[row] = (columns.flags[row]! & ~MATRIX) | PLACED;
    columns.markDirty(row);
  }
}

/**
 * The same without a copy: says that `columns.world` (affine 3x4 by rows, stride 12) was written in place for
 * `count` rows from `first` on. The array is another one once nodes were added: take it anew each time. Nodes
 * created one after the other have rows one after the other as long as none was removed.
 *
 * @throws LensError `scene/length` for rows that are not there, `scene/removed` for a row without a node
 */
export function worldTransformsChanged(scene: Scene, first: number, count: number): void {
  markRows(scene, first, count, PLACED);
}

/**
 * Says that `columns.translation`, `rotation` (of unit length) or `scale` of `count` rows from `first` on were
 * written in place.
 *
 * @throws LensError as `worldTransformsChanged` does
 */
export function transformsChanged(scene: Scene, first: number, count: number): void {
  markRows(scene, first, count, 0);
}

function markRows({ columns }: Scene, first: number, count: number, kind: number): void {
  const end = first + count;
  if (!(first > 0 && count >= 0 && end <= columns.count)) {
    throw new LensError('scene/length', `there are no rows ${first} to ${end - 1}`, {
      hint: `Rows of nodes run from 1 to ${columns.count - 1}.`,
    });
  }
  if (count === 0) return;
  const { flags } = columns;
  let all = ALIVE;
  for (let row = first; row < end; row++) {
    const flag = flags[row]!; // in range by the check above
    all &= flag;
    flags[row] = (flag & ~(MATRIX | PLACED)) | kind | DIRTY;
  }
  columns.markBulk(first, end);
  if (all !== 0) return;
  for (let row = first; row < end; row++) {
    if ((flags[row]! & ALIVE) !== 0) continue;
    flags[row] = 0;
    throw noNode(row);
  }
}

function noNode(row: number): LensError {
  return new LensError('scene/removed', `row ${row} belongs to no node`, {
    hint: 'Take the rows from living nodes: node.row.',
  });
}
