/** Mixes bits well: `hash52` of the specification of ASTC, section 23.14. */
function hash(from: number): number {
  let p = from >>> 0;
  p = (p ^ (p >>> 15)) >>> 0;
  p = (p - (p << 17)) >>> 0;
  p = (p + (p << 7)) >>> 0;
  p = (p + (p << 4)) >>> 0;
  p = (p ^ (p >>> 5)) >>> 0;
  p = (p + (p << 16)) >>> 0;
  p = (p ^ (p >>> 7)) >>> 0;
  p = (p ^ (p >>> 3)) >>> 0;
  p = (p ^ (p << 6)) >>> 0;
  return (p ^ (p >>> 17)) >>> 0;
}

/**
 * Which of two or three subsets each of the sixteen pixels of a block belongs to: ASTC's partition `seed`.
 *
 * @param count subsets, 2 or 3
 */
export function astcPartition(seed: number, count: number): Uint8Array {
  const number = hash(seed + (count - 1) * 1024);
  const square = (shift: number): number => {
    const four = (number >>> shift) & 15;
    return four * four;
  };
  const near = seed & 2 ? 4 : 5;
  const far = count === 3 ? 6 : 5;
  const [first, second] = seed & 1 ? [near, far] : [far, near];
  // The z terms do nothing: blocks are flat.
  const factor = (shift: number, by: number): number => square(shift) >> by;
  const f = [
    factor(0, first),
    factor(4, second),
    factor(8, first),
    factor(12, second),
    factor(16, first),
    factor(20, second),
  ] as const;
  const out = new Uint8Array(16);
  for (let i = 0; i < 16; i++) {
    // Small blocks are looked at in double size.
    const x = (i & 3) * 2;
    const y = (i >> 2) * 2;
    const a = (f[0] * x + f[1] * y + (number >>> 14)) & 63;
    const b = (f[2] * x + f[3] * y + (number >>> 10)) & 63;
    const c = count < 3 ? 0 : (f[4] * x + f[5] * y + (number >>> 6)) & 63;
    out[i] = a >= b && a >= c ? 0 : b >= c ? 1 : 2;
  }
  return out;
}
