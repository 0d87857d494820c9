/** Quaternions, xyzw, in arrays at a place. */
type Numbers = Float64Array | Float32Array | number[];

/** From one rotation to another, the short way round at even speed (Shoemake, "Animating Rotation with Quaternion Curves", 1985). */
export function slerp(
  out: Numbers,
  o: number,
  a: ArrayLike<number>,
  i: number,
  b: ArrayLike<number>,
  j: number,
  t: number,
): void {
  const ax = a[i]!; // four each
  const ay = a[i + 1]!;
  const az = a[i + 2]!;
  const aw = a[i + 3]!;
  const bx = b[j]!;
  const by = b[j + 1]!;
  const bz = b[j + 2]!;
  const bw = b[j + 3]!;
  let cosine = ax * bx + ay * by + az * bz + aw * bw;
  const sign = cosine < 0 ? -1 : 1;
  cosine *= sign;
  let u = 1 - t;
  let v = t * sign;
  // Near one another the sines vanish, and a straight line is the same to seven digits.
  if (cosine < 0.9999) {
    const angle = Math.acos(cosine);
    const scale = 1 / Math.sin(angle);
    u = Math.sin(angle * u) * scale;
    v = Math.sin(angle * t) * scale * sign;
  }
  out[o] = ax * u + bx * v;
  out[o + 1] = ay * u + by * v;
  out[o + 2] = az * u + bz * v;
  out[o + 3] = aw * u + bw * v;
  if (cosine >= 0.9999) normalizeRotation(out, o);
}

/** Brings a quaternion to unit length; nothing becomes no turn at all. */
export function normalizeRotation(q: Numbers, at: number): void {
  const length = Math.sqrt(q[at]! ** 2 + q[at + 1]! ** 2 + q[at + 2]! ** 2 + q[at + 3]! ** 2); // four, here and below
  if (!(length > 0)) {
    q[at] = q[at + 1] = q[at + 2] = 0;
    q[at + 3] = 1;
    return;
  }
  for (let k = 0; k < 4; k++) q[at + k] = q[at + k]! / length;
}

/** One rotation after another: first b, then a, as matrices are multiplied. */
export function multiplyRotations(
  out: Numbers,
  o: number,
  a: ArrayLike<number>,
  i: number,
  b: ArrayLike<number>,
  j: number,
): void {
  const ax = a[i]!; // four each
  const ay = a[i + 1]!;
  const az = a[i + 2]!;
  const aw = a[i + 3]!;
  const bx = b[j]!;
  const by = b[j + 1]!;
  const bz = b[j + 2]!;
  const bw = b[j + 3]!;
  out[o] = aw * bx + ax * bw + ay * bz - az * by;
  out[o + 1] = aw * by - ax * bz + ay * bw + az * bx;
  out[o + 2] = aw * bz + ax * by - ay * bx + az * bw;
  out[o + 3] = aw * bw - ax * bx - ay * by - az * bz;
}
