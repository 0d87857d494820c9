/**
 * Smooth noise of one to three numbers, about -1 to 1, 0 at whole numbers (Perlin, "Improving Noise", 2002, with gradients
 * out of a hash of the cell instead of a table). The same numbers and seed give the same noise everywhere; `noise` of
 * `umber/noise.wgsl` has the same hashes to the bit, and the same values to 2e-6 for places up to 100.
 */
export function noise(x: number, y = 0, z = 0, seed = 0): number {
  const [i, j, k] = [Math.floor(x), Math.floor(y), Math.floor(z)];
  const [u, v, w] = [x - i, y - j, z - k];
  const [a, b, c] = [smooth(u), smooth(v), smooth(w)];
  const corner = (dx: number, dy: number, dz: number): number =>
    gradient(hash(i + dx, j + dy, k + dz, seed), u - dx, v - dy, w - dz);
  const mix = (from: number, to: number, t: number): number => from + (to - from) * t;
  const layer = (dz: number): number =>
    mix(mix(corner(0, 0, dz), corner(1, 0, dz), a), mix(corner(0, 1, dz), corner(1, 1, dz), a), b);
  return mix(layer(0), layer(1), c);
}

/**
 * A number by chance, 0 to below 1, that belongs to three whole numbers: the same everywhere, here and in
 * `umber/noise.wgsl`, to the bit.
 */
export function hashFloat(i: number, j = 0, k = 0, seed = 0): number {
  // 24 bits, which a float holds.
  return (hash(i, j, k, seed) >>> 8) / 0x1000000;
}

function smooth(t: number): number {
  return t * t * t * (t * (t * 6 - 15) + 10);
}

/** 32 bits out of a cell: products with odd constants, mixed by shifts (Steele and others, "Fast Splittable Generators", 2014). */
function hash(i: number, j: number, k: number, seed: number): number {
  let h =
    Math.imul(i, 0x9e3779b1) ^
    Math.imul(j, 0x85ebca77) ^
    Math.imul(k, 0xc2b2ae3d) ^
    Math.imul(seed, 0x27d4eb2f);
  h = Math.imul(h ^ (h >>> 16), 0x7feb352d);
  h = Math.imul(h ^ (h >>> 15), 0x846ca68b);
  return (h ^ (h >>> 16)) >>> 0;
}

/** One of the twelve directions to the middles of a cube's edges. */
function gradient(h: number, x: number, y: number, z: number): number {
  const which = h % 12;
  const [a, b] = which < 4 ? [x, y] : which < 8 ? [x, z] : [y, z];
  return ((which & 1) === 0 ? a : -a) + ((which & 2) === 0 ? b : -b);
}
