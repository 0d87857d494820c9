/** Three numbers: a place or a way. */
export type Vec3 = [x: number, y: number, z: number];

export function dot(a: Readonly<Vec3>, b: Readonly<Vec3>): number {
  return a[0] * b[0] + a[1] * b[1] + a[2] * b[2];
}

export function cross(a: Readonly<Vec3>, b: Readonly<Vec3>): Vec3 {
  return [a[1] * b[2] - a[2] * b[1], a[2] * b[0] - a[0] * b[2], a[0] * b[1] - a[1] * b[0]];
}

/** A vector of length 1 along `v`; zero stays zero. */
export function unit(v: Readonly<Vec3>): Vec3 {
  const n = Math.hypot(v[0], v[1], v[2]);
  return n > 0 ? [v[0] / n, v[1] / n, v[2] / n] : [0, 0, 0];
}

/** A vector or a color of as many numbers as what takes it says: an array of numbers, or a typed array of floats. */
export type Numbers = number[] | Float32Array | Float64Array;
