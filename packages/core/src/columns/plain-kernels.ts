import { affineDeterminant, affineLargestScale, affineMultiply } from '../math/affine.js';
import type { NodeColumns } from './columns.js';
import {
  ALIVE,
  DIRTY,
  IN_VIEW,
  KEY_HIDDEN,
  KEY_MIRRORED,
  MATRIX,
  MIRRORED,
  NONE,
  PLACED,
  SHOWN,
  VISIBLE,
} from './flags.js';
import type { Kernels, KernelView } from './kernels.js';

/**
 * Rows or items a call of the innermost loops. A loop that runs once a frame over everything is compiled
 * while it runs, and engines throw such code away at its end; called often, it stays compiled.
 */
export const CHUNK = 1024;

/** The kernels in JavaScript. `packages/core/kernels/kernels.ts` computes the same with SIMD. */
export const plainKernels: Kernels = {
  updateRange(columns, from, to, stamp) {
    columns.movedFrom = to;
    columns.movedTo = from;
    columns.badRow = NONE;
    let moved = 0;
    for (let row = from; row < to; row += CHUNK) {
      moved += updateChunk(columns, row, Math.min(to, row + CHUNK), stamp);
    }
    return moved;
  },

  updateRows(columns, count) {
    const { affectedRows, parent, flags } = columns;
    columns.badRow = NONE;
    for (let i = 0; i < count; i++) {
      const row = affectedRows[i]!; // i < count, and a row in use, here and below
      place(columns, row, parent[row]!, flags[row]!);
    }
  },

  viewKeys(columns, view, from, to, cull, mask) {
    let count = 0;
    for (let item = from; item < to; item += CHUNK) {
      count = keysOfChunk(columns, view, item, Math.min(to, item + CHUNK), cull, mask, count);
    }
    return count;
  },
};

function updateChunk(columns: NodeColumns, from: number, to: number, stamp: number): number {
  const { flags, movedAt, parent } = columns;
  let moved = 0;
  for (let row = from; row < to; row++) {
    const up = parent[row]!; // a row in use, here and below
    const before = flags[row]!;
    if ((before & DIRTY) === 0 && (up === NONE || movedAt[up] !== stamp)) continue;
    if ((before & ALIVE) === 0) continue;
    place(columns, row, up, before);
    movedAt[row] = stamp;
    if (row < columns.movedFrom) columns.movedFrom = row;
    columns.movedTo = row + 1;
    moved++;
  }
  return moved;
}

/**
 * One row's world transform and flags. Composed and multiplied in locals: with a temporary array between the
 * two, it takes about twice as long.
 */
function place(columns: NodeColumns, row: number, up: number, before: number): void {
  const { world, stretch, flags } = columns;
  const above = up === NONE ? SHOWN : flags[up]!;
  let flag = before & ~(DIRTY | SHOWN | MIRRORED);
  if ((before & VISIBLE) !== 0 && (above & SHOWN) !== 0) flag |= SHOWN;
  if ((before & (MATRIX | PLACED)) !== 0) {
    placeMatrix(columns, row, up, flag);
    return;
  }
  const { translation, rotation, scale } = columns;
  const at = row * 12;
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
  } else {
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
  if (columns.firstItem[row] !== NONE) placeItems(columns, row);
}

function placeMatrix(columns: NodeColumns, row: number, up: number, flag: number): void {
  const { local, world, stretch, flags } = columns;
  const at = row * 12;
  const isPlaced = (flag & PLACED) !== 0;
  const isTop = isPlaced || up <= 0;
  const matrix = isPlaced ? world : local;
  let sum = 0;
  for (let k = 0; k < 12; k++) sum += matrix[at + k]!;
  if (!(Math.abs(sum) < Infinity)) columns.badRow = row;
  const mirrors = affineDeterminant(matrix, at) < 0 ? MIRRORED : 0;
  const above = isTop ? 0 : flags[up]! & MIRRORED;
  flags[row] = flag | (above ^ mirrors);
  stretch[row] = affineLargestScale(matrix, at) * (isTop ? 1 : stretch[up]!);
  if (!isTop) affineMultiply(world, at, world, up * 12, local, at);
  else if (!isPlaced) for (let k = 0; k < 12; k++) world[at + k] = local[at + k]!;
  if (columns.firstItem[row] !== NONE) placeItems(columns, row);
}

/** Keeps a radius of 0 from losing its sign. */
const TINY = 1e-30;

/** The world spheres of what a row draws. */
function placeItems(columns: NodeColumns, row: number): void {
  const { world, itemNext, localSphere, worldSphere } = columns;
  const flag = columns.flags[row]!;
  const stretch = columns.stretch[row]!;
  const m = row * 12;
  for (let item = columns.firstItem[row]!; item !== NONE; item = itemNext[item]!) {
    const s = item * 4;
    const x = localSphere[s]!;
    const y = localSphere[s + 1]!;
    const z = localSphere[s + 2]!;
    worldSphere[s] = world[m]! * x + world[m + 1]! * y + world[m + 2]! * z + world[m + 3]!;
    worldSphere[s + 1] = world[m + 4]! * x + world[m + 5]! * y + world[m + 6]! * z + world[m + 7]!;
    worldSphere[s + 2] = world[m + 8]! * x + world[m + 9]! * y + world[m + 10]! * z + world[m + 11]!;
    const radius = localSphere[s + 3]! * stretch + TINY;
    worldSphere[s + 3] = (flag & SHOWN) === 0 ? Infinity : (flag & MIRRORED) === 0 ? radius : -radius;
  }
}

function keysOfChunk(
  columns: NodeColumns,
  { planes: p, forward, position }: KernelView,
  from: number,
  to: number,
  cull: boolean,
  mask: number,
  already: number,
): number {
  const { worldSphere, viewKeys, changedItems } = columns;
  let count = already;
  const fx = forward[0]!;
  const fy = forward[1]!;
  const fz = forward[2]!;
  const camera = fx * position[0]! + fy * position[1]! + fz * position[2]!;
  for (let item = from; item < to; item++) {
    const s = item * 4;
    const x = worldSphere[s]!;
    const y = worldSphere[s + 1]!;
    const z = worldSphere[s + 2]!;
    const radius = worldSphere[s + 3]!;
    let key = 0;
    if (radius === Infinity) key = KEY_HIDDEN;
    else if (!cull || !isOutside(p, x, y, z, radius < 0 ? radius : -radius)) {
      const distance = x * fx + y * fy + z * fz - camera;
      float[0] = distance > 0 ? distance : 0;
      key = (bits[0]! >>> 2) | IN_VIEW | (radius < 0 ? KEY_MIRRORED : 0);
    }
    if (((viewKeys[item]! ^ key) & mask) !== 0) changedItems[count++] = item;
    viewKeys[item] = key;
  }
  return count;
}

/** Whether a sphere lies wholly behind one of the six planes; `reach` is minus its radius. */
function isOutside(p: Float32Array, x: number, y: number, z: number, reach: number): boolean {
  return (
    p[0]! * x + p[1]! * y + p[2]! * z + p[3]! < reach ||
    p[4]! * x + p[5]! * y + p[6]! * z + p[7]! < reach ||
    p[8]! * x + p[9]! * y + p[10]! * z + p[11]! < reach ||
    p[12]! * x + p[13]! * y + p[14]! * z + p[15]! < reach ||
    p[16]! * x + p[17]! * y + p[18]! * z + p[19]! < reach ||
    p[20]! * x + p[21]! * y + p[22]! * z + p[23]! < reach
  );
}

const float = new Float32Array(1);
const bits = new Uint32Array(float.buffer);
