import { hashFloat } from '../procedural/noise.js';
import { checkSpacing } from './scattered.js';

/** The clump that a place of the ground belongs to. */
export interface Clump {
  /** Where its middle is. */
  x: number;
  z: number;
  /** Metres from there. */
  distance: number;
  /** 0..1 by chance, one each: what is of a clump may share its height, its angle, its colour. */
  chance: [number, number, number];
}

/**
 * Finds the clump that a place belongs to: the nearest of the middles that lie one in each cell of a grid (cellular noise:
 * Worley, "A Cellular Texture Basis Function", 1996).
 *
 * @param size metres across of a cell
 */
export function clumpAt(x: number, z: number, { size, seed = 1 }: { size: number; seed?: number }): Clump {
  checkSpacing('size', size);
  const [i, k] = [Math.floor(x / size), Math.floor(z / size)];
  const u = x / size - i;
  const w = z / size - k;
  // In cells; the nearest first, so that most of the others are too far away to be asked.
  let best = Infinity;
  let [bi, bk, bx, bz] = [i, k, 0, 0];
  for (let n = 0; n < CELLS.length; n += 2) {
    const dx = CELLS[n]!; // two numbers a cell
    const dz = CELLS[n + 1]!;
    const gapX = dx > 0 ? dx - u : dx < 0 ? u - dx - 1 : 0;
    const gapZ = dz > 0 ? dz - w : dz < 0 ? w - dz - 1 : 0;
    if (gapX * gapX + gapZ * gapZ >= best) continue;
    const cx = dx + hashFloat(i + dx, k + dz, 0, seed);
    const cz = dz + hashFloat(i + dx, k + dz, 1, seed);
    const away = (cx - u) * (cx - u) + (cz - w) * (cz - w);
    if (away >= best) continue;
    best = away;
    bi = i + dx;
    bk = k + dz;
    bx = (i + cx) * size;
    bz = (k + cz) * size;
  }
  const chance = (part: number): number => hashFloat(bi, bk, part, seed);
  return { x: bx, z: bz, distance: Math.sqrt(best) * size, chance: [chance(2), chance(3), chance(4)] };
}

/** Cells around one, nearest first. */
const CELLS = Int8Array.from(
  Array.from({ length: 25 }, (_, n) => [(n % 5) - 2, Math.floor(n / 5) - 2])
    .sort(([ax, az], [bx, bz]) => ax! * ax! + az! * az! - bx! * bx! - bz! * bz!) // two each
    .flat(),
);

/** What `clumpAt` tells of many places: arrays, place after place. */
export interface Clumps {
  /** 2 a place: X and Z of the clump's middle, metres. */
  middles: Float32Array;
  /** Metres from there. */
  distances: Float32Array;
  /** 3 a place, 0..1 by chance: the same for all of a clump. */
  chances: Float32Array;
}

/** The clumps that many places belong to. @param translations 3 a place @throws LensError `scatter/spacing` */
export function clumpsOf(translations: ArrayLike<number>, options: { size: number; seed?: number }): Clumps {
  const count = Math.floor(translations.length / 3);
  const clumps = {
    middles: new Float32Array(count * 2),
    distances: new Float32Array(count),
    chances: new Float32Array(count * 3),
  };
  for (let i = 0; i < count; i++) {
    const { x, z, distance, chance } = clumpAt(translations[i * 3]!, translations[i * 3 + 2]!, options); // three a place
    clumps.middles[i * 2] = x;
    clumps.middles[i * 2 + 1] = z;
    clumps.distances[i] = distance;
    for (let k = 0; k < 3; k++) clumps.chances[i * 3 + k] = chance[k]!; // three numbers
  }
  return clumps;
}
