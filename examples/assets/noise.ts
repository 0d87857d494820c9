/** Noise that tiles and is the same on every machine: integers in, arithmetic of IEEE doubles only. */

/** A number 0..1 for three whole numbers (after Jarzynski and Olano, "Hash Functions for GPU Rendering", 2020). */
export function hash(x: number, y: number, seed: number): number {
  let h = Math.imul(x, 0x27d4eb2d) ^ Math.imul(y, 0x165667b1) ^ Math.imul(seed, 0x9e3779b1);
  h = Math.imul(h ^ (h >>> 15), 0x85ebca6b);
  h = Math.imul(h ^ (h >>> 13), 0xc2b2ae35);
  return ((h ^ (h >>> 16)) >>> 0) / 4294967296;
}

/** A sequence of numbers 0..1. */
export function sequence(seed: number): () => number {
  let i = 0;
  return () => hash(i++, 7919, seed);
}

const smooth = (t: number): number => t * t * (3 - 2 * t);
const mix = (a: number, b: number, t: number): number => a + (b - a) * t;
const wrap = (n: number, period: number): number => ((n % period) + period) % period;

/** Value noise 0..1 that repeats every `period` cells. */
export function noise(x: number, y: number, period: number, seed: number): number {
  const [ix, iy] = [Math.floor(x), Math.floor(y)];
  const [fx, fy] = [smooth(x - ix), smooth(y - iy)];
  const at = (dx: number, dy: number): number => hash(wrap(ix + dx, period), wrap(iy + dy, period), seed);
  return mix(mix(at(0, 0), at(1, 0), fx), mix(at(0, 1), at(1, 1), fx), fy);
}

/** Octaves of noise over the unit square, 0..1, tiling. */
export function layers(u: number, v: number, cells: number, octaves: number, seed: number): number {
  let sum = 0;
  let weight = 0.5;
  let total = 0;
  for (let i = 0, n = cells; i < octaves; i++, n *= 2, weight /= 2) {
    sum += weight * noise(u * n, v * n, n, seed + i);
    total += weight;
  }
  return sum / total;
}

/** Noise in space for shaping rocks, -1..1. */
export function lumps(x: number, y: number, z: number, seed: number): number {
  const fold = (a: number, b: number, s: number): number => noise(a + 100, b + 100, 4096, s) * 2 - 1;
  return (fold(x, y, seed) + fold(y + 31, z, seed + 1) + fold(z + 57, x, seed + 2)) / 3;
}
