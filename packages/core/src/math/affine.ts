import type { Numbers } from './vectors.js';

export type { Numbers } from './vectors.js';
/**
 * Affine transforms as 12 numbers: three rows of four, row by row.
 *
 *     x' = a[0] x + a[1] y + a[2]  z + a[3]
 *     y' = a[4] x + a[5] y + a[6]  z + a[7]
 *     z' = a[8] x + a[9] y + a[10] z + a[11]
 *
 * Rows are what a shader wants (three vec4 an instance) and leave the constant last row of a 4x4
 * unstored. Every function takes arrays with an element offset, so that columns of transforms are
 * worked on in place.
 */

/** Elements of one affine transform. */
export const AFFINE_STRIDE = 12;

/** Writes translation * rotation * scale. `t` and `s` hold xyz, `r` a unit quaternion xyzw. */
export function affineFromTrs(
  out: Numbers,
  o: number,
  t: ArrayLike<number>,
  ti: number,
  r: ArrayLike<number>,
  ri: number,
  s: ArrayLike<number>,
  si: number,
): void {
  const x = r[ri]!; // indices are the caller's contract: kernels check nothing
  const y = r[ri + 1]!;
  const z = r[ri + 2]!;
  const w = r[ri + 3]!;
  const sx = s[si]!;
  const sy = s[si + 1]!;
  const sz = s[si + 2]!;
  const x2 = x + x;
  const y2 = y + y;
  const z2 = z + z;
  const xx = x * x2;
  const xy = x * y2;
  const xz = x * z2;
  const yy = y * y2;
  const yz = y * z2;
  const zz = z * z2;
  const wx = w * x2;
  const wy = w * y2;
  const wz = w * z2;
  out[o] = (1 - yy - zz) * sx;
  out[o + 1] = (xy - wz) * sy;
  out[o + 2] = (xz + wy) * sz;
  out[o + 3] = t[ti]!;
  out[o + 4] = (xy + wz) * sx;
  out[o + 5] = (1 - xx - zz) * sy;
  out[o + 6] = (yz - wx) * sz;
  out[o + 7] = t[ti + 1]!;
  out[o + 8] = (xz - wy) * sx;
  out[o + 9] = (yz + wx) * sy;
  out[o + 10] = (1 - xx - yy) * sz;
  out[o + 11] = t[ti + 2]!;
}

/** out = a * b: b is applied first. `out` may not overlap `a` or `b`. */
export function affineMultiply(
  out: Numbers,
  o: number,
  a: ArrayLike<number>,
  ai: number,
  b: ArrayLike<number>,
  bi: number,
): void {
  const b0 = b[bi]!;
  const b1 = b[bi + 1]!;
  const b2 = b[bi + 2]!;
  const b3 = b[bi + 3]!;
  const b4 = b[bi + 4]!;
  const b5 = b[bi + 5]!;
  const b6 = b[bi + 6]!;
  const b7 = b[bi + 7]!;
  const b8 = b[bi + 8]!;
  const b9 = b[bi + 9]!;
  const b10 = b[bi + 10]!;
  const b11 = b[bi + 11]!;
  for (let row = 0; row < 12; row += 4) {
    const x = a[ai + row]!;
    const y = a[ai + row + 1]!;
    const z = a[ai + row + 2]!;
    out[o + row] = x * b0 + y * b4 + z * b8;
    out[o + row + 1] = x * b1 + y * b5 + z * b9;
    out[o + row + 2] = x * b2 + y * b6 + z * b10;
    out[o + row + 3] = x * b3 + y * b7 + z * b11 + a[ai + row + 3]!;
  }
}

/** Determinant of the 3x3 part: negative when the transform mirrors. */
export function affineDeterminant(a: ArrayLike<number>, i = 0): number {
  return (
    a[i]! * (a[i + 5]! * a[i + 10]! - a[i + 6]! * a[i + 9]!) -
    a[i + 1]! * (a[i + 4]! * a[i + 10]! - a[i + 6]! * a[i + 8]!) +
    a[i + 2]! * (a[i + 4]! * a[i + 9]! - a[i + 5]! * a[i + 8]!)
  );
}

/**
 * Writes the inverse (adjugate over determinant). A transform that flattens space has none: the
 * result is then all zero and the return value false.
 */
export function affineInvert(out: Numbers, o: number, a: ArrayLike<number>, i: number): boolean {
  const det = affineDeterminant(a, i);
  const f = det === 0 || !Number.isFinite(det) ? 0 : 1 / det;
  const a0 = a[i]!;
  const a1 = a[i + 1]!;
  const a2 = a[i + 2]!;
  const a4 = a[i + 4]!;
  const a5 = a[i + 5]!;
  const a6 = a[i + 6]!;
  const a8 = a[i + 8]!;
  const a9 = a[i + 9]!;
  const a10 = a[i + 10]!;
  const tx = a[i + 3]!;
  const ty = a[i + 7]!;
  const tz = a[i + 11]!;
  out[o] = (a5 * a10 - a6 * a9) * f;
  out[o + 1] = (a2 * a9 - a1 * a10) * f;
  out[o + 2] = (a1 * a6 - a2 * a5) * f;
  out[o + 4] = (a6 * a8 - a4 * a10) * f;
  out[o + 5] = (a0 * a10 - a2 * a8) * f;
  out[o + 6] = (a2 * a4 - a0 * a6) * f;
  out[o + 8] = (a4 * a9 - a5 * a8) * f;
  out[o + 9] = (a1 * a8 - a0 * a9) * f;
  out[o + 10] = (a0 * a5 - a1 * a4) * f;
  for (let row = 0; row < 12; row += 4) {
    out[o + row + 3] = -(out[o + row]! * tx + out[o + row + 1]! * ty + out[o + row + 2]! * tz);
  }
  return f !== 0;
}

/** Writes the transform of a point. */
export function affinePoint(
  out: Numbers,
  a: ArrayLike<number>,
  i: number,
  x: number,
  y: number,
  z: number,
): void {
  out[0] = a[i]! * x + a[i + 1]! * y + a[i + 2]! * z + a[i + 3]!;
  out[1] = a[i + 4]! * x + a[i + 5]! * y + a[i + 6]! * z + a[i + 7]!;
  out[2] = a[i + 8]! * x + a[i + 9]! * y + a[i + 10]! * z + a[i + 11]!;
}

/** From a column-major 4x4 whose last row is 0 0 0 1, as glTF stores it. */
export function affineFromMatrix(out: Numbers, o: number, m: ArrayLike<number>): void {
  for (let row = 0; row < 3; row++) {
    for (let column = 0; column < 4; column++) out[o + row * 4 + column] = m[column * 4 + row]!;
  }
}

/** To a column-major 4x4. */
export function affineToMatrix(out: Numbers, a: ArrayLike<number>, i = 0): Numbers {
  for (let row = 0; row < 3; row++) {
    for (let column = 0; column < 4; column++) out[column * 4 + row] = a[i + row * 4 + column]!;
  }
  out[3] = 0;
  out[7] = 0;
  out[11] = 0;
  out[15] = 1;
  return out;
}

/**
 * An upper bound of how much the transform stretches any direction: the factor for a bounding
 * sphere's radius. Exact (the longest column) without shear.
 */
export function affineLargestScale(a: ArrayLike<number>, i: number): number {
  const a0 = a[i]!;
  const a1 = a[i + 1]!;
  const a2 = a[i + 2]!;
  const a4 = a[i + 4]!;
  const a5 = a[i + 5]!;
  const a6 = a[i + 6]!;
  const a8 = a[i + 8]!;
  const a9 = a[i + 9]!;
  const a10 = a[i + 10]!;
  const x = a0 * a0 + a4 * a4 + a8 * a8;
  const y = a1 * a1 + a5 * a5 + a9 * a9;
  const z = a2 * a2 + a6 * a6 + a10 * a10;
  const longest = x > y ? (x > z ? x : z) : y > z ? y : z;
  const xy = Math.abs(a0 * a1 + a4 * a5 + a8 * a9);
  const yz = Math.abs(a1 * a2 + a5 * a6 + a9 * a10);
  const zx = Math.abs(a0 * a2 + a4 * a6 + a8 * a10);
  // Gershgorin on A^T A: every eigenvalue lies within its row's off-diagonal sum of the diagonal.
  const slack = xy + yz + zx;
  return Math.sqrt(slack < longest * 1e-6 ? longest : longest + slack);
}

/**
 * Splits an affine transform into translation, rotation and scale. False when it shears (or
 * flattens), so that no such split gives it back within 1e-5 of its largest element.
 */
export function affineToTrs(
  a: ArrayLike<number>,
  i: number,
  t: Numbers,
  ti: number,
  r: Numbers,
  ri: number,
  s: Numbers,
  si: number,
): boolean {
  let sx = Math.hypot(a[i]!, a[i + 4]!, a[i + 8]!);
  const sy = Math.hypot(a[i + 1]!, a[i + 5]!, a[i + 9]!);
  const sz = Math.hypot(a[i + 2]!, a[i + 6]!, a[i + 10]!);
  if (sx === 0 || sy === 0 || sz === 0) return false;
  if (affineDeterminant(a, i) < 0) sx = -sx;
  const m00 = a[i]! / sx;
  const m01 = a[i + 1]! / sy;
  const m02 = a[i + 2]! / sz;
  const m10 = a[i + 4]! / sx;
  const m11 = a[i + 5]! / sy;
  const m12 = a[i + 6]! / sz;
  const m20 = a[i + 8]! / sx;
  const m21 = a[i + 9]! / sy;
  const m22 = a[i + 10]! / sz;
  // Shepperd's method: divide by the largest of the four candidates.
  const trace = m00 + m11 + m22;
  let x: number, y: number, z: number, w: number;
  if (trace > 0) {
    const k = 0.5 / Math.sqrt(trace + 1);
    [x, y, z, w] = [(m21 - m12) * k, (m02 - m20) * k, (m10 - m01) * k, 0.25 / k];
  } else if (m00 > m11 && m00 > m22) {
    const k = 2 * Math.sqrt(Math.max(0, 1 + m00 - m11 - m22));
    [x, y, z, w] = [0.25 * k, (m01 + m10) / k, (m02 + m20) / k, (m21 - m12) / k];
  } else if (m11 > m22) {
    const k = 2 * Math.sqrt(Math.max(0, 1 + m11 - m00 - m22));
    [x, y, z, w] = [(m01 + m10) / k, 0.25 * k, (m12 + m21) / k, (m02 - m20) / k];
  } else {
    const k = 2 * Math.sqrt(Math.max(0, 1 + m22 - m00 - m11));
    [x, y, z, w] = [(m02 + m20) / k, (m12 + m21) / k, 0.25 * k, (m10 - m01) / k];
  }
  const length = Math.hypot(x, y, z, w);
  if (!(length > 0)) return false;
  [t[ti], t[ti + 1], t[ti + 2]] = [a[i + 3]!, a[i + 7]!, a[i + 11]!];
  [r[ri], r[ri + 1], r[ri + 2], r[ri + 3]] = [x / length, y / length, z / length, w / length];
  [s[si], s[si + 1], s[si + 2]] = [sx, sy, sz];
  const back = new Float64Array(12);
  affineFromTrs(back, 0, t, ti, r, ri, s, si);
  const tolerance = 1e-5 * Math.max(Math.abs(sx), sy, sz);
  for (let k = 0; k < 12; k++) {
    if (k % 4 !== 3 && Math.abs(back[k]! - a[i + k]!) > tolerance) return false;
  }
  return true;
}
