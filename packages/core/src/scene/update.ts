import { affineDeterminant, affineLargestScale, affineMultiply } from '../math/affine.js';
import { DIRTY, MIRRORED, NONE, type NodeColumns, SHEARED, SHOWN, VISIBLE } from './columns.js';

/**
 * Brings world transforms and inherited visibility up to date for rows that are dirty or below a
 * dirty one, and stamps those rows with `stamp`. One pass from row `from` up; rows that did not
 * change cost two loads. Returns how many rows moved.
 *
 * The transform is composed and multiplied in locals: with a temporary array between the two, the
 * pass takes about twice as long.
 */
export function updateWorld(
  columns: NodeColumns,
  from: number,
  stamp: number,
  sheared: ReadonlyMap<number, Float32Array>,
): number {
  let moved = 0;
  // In pieces, so that the loop is called often: compiled once, it then stays so.
  for (let row = from; row < columns.count; row += 1024) {
    moved += updateRows(columns, row, Math.min(columns.count, row + 1024), stamp, sheared);
  }
  return moved;
}

function updateRows(
  columns: NodeColumns,
  from: number,
  to: number,
  stamp: number,
  sheared: ReadonlyMap<number, Float32Array>,
): number {
  const { translation, rotation, scale, world, stretch, flags, movedAt, parent } = columns;
  let moved = 0;
  for (let row = from; row < to; row++) {
    const up = parent[row]!; // a row in use, here and below
    const before = flags[row]!;
    if ((before & DIRTY) === 0 && (up === NONE || movedAt[up] !== stamp)) continue;
    if ((before & 1) === 0) continue;
    moved++;
    movedAt[row] = stamp;
    const above = up === NONE ? SHOWN : flags[up]!;
    let flag = before & ~(DIRTY | SHOWN | MIRRORED);
    if ((before & VISIBLE) !== 0 && (above & SHOWN) !== 0) flag |= SHOWN;
    const at = row * 12;
    if ((before & SHEARED) !== 0) {
      const matrix = sheared.get(row)!; // the flag says so
      if (up <= 0) world.set(matrix, at);
      else affineMultiply(world, at, world, up * 12, matrix, 0);
      flags[row] = affineDeterminant(world, at) < 0 ? flag | MIRRORED : flag;
      stretch[row] = affineLargestScale(world, at);
      continue;
    }
    const t = row * 3;
    const r = row * 4;
    const x = rotation[r]!;
    const y = rotation[r + 1]!;
    const z = rotation[r + 2]!;
    const w = rotation[r + 3]!;
    const sx = scale[t]!;
    const sy = scale[t + 1]!;
    const sz = scale[t + 2]!;
    const tx = translation[t]!;
    const ty = translation[t + 1]!;
    const tz = translation[t + 2]!;
    const x2 = x + x;
    const y2 = y + y;
    const z2 = z + z;
    const xx = x * x2;
    const yy = y * y2;
    const zz = z * z2;
    const xy = x * y2;
    const xz = x * z2;
    const yz = y * z2;
    const wx = w * x2;
    const wy = w * y2;
    const wz = w * z2;
    const m0 = (1 - yy - zz) * sx;
    const m1 = (xy - wz) * sy;
    const m2 = (xz + wy) * sz;
    const m4 = (xy + wz) * sx;
    const m5 = (1 - xx - zz) * sy;
    const m6 = (yz - wx) * sz;
    const m8 = (xz - wy) * sx;
    const m9 = (yz + wx) * sy;
    const m10 = (1 - xx - yy) * sz;
    const ax = sx < 0 ? -sx : sx;
    const ay = sy < 0 ? -sy : sy;
    const az = sz < 0 ? -sz : sz;
    const largest = ax > ay ? (ax > az ? ax : az) : ay > az ? ay : az;
    const mirrors = sx * sy * sz < 0 ? MIRRORED : 0;
    // Row 0 is the scene's root and never moves: its children need no product.
    if (up <= 0) {
      world[at] = m0;
      world[at + 1] = m1;
      world[at + 2] = m2;
      world[at + 3] = tx;
      world[at + 4] = m4;
      world[at + 5] = m5;
      world[at + 6] = m6;
      world[at + 7] = ty;
      world[at + 8] = m8;
      world[at + 9] = m9;
      world[at + 10] = m10;
      world[at + 11] = tz;
      flags[row] = flag | mirrors;
      stretch[row] = largest;
      continue;
    }
    flags[row] = flag | ((above & MIRRORED) ^ mirrors);
    stretch[row] = largest * stretch[up]!;
    for (let i = 0, p = up * 12; i < 12; i += 4, p += 4) {
      const a = world[p]!;
      const b = world[p + 1]!;
      const c = world[p + 2]!;
      world[at + i] = a * m0 + b * m4 + c * m8;
      world[at + i + 1] = a * m1 + b * m5 + c * m9;
      world[at + i + 2] = a * m2 + b * m6 + c * m10;
      world[at + i + 3] = a * tx + b * ty + c * tz + world[p + 3]!;
    }
  }
  return moved;
}
