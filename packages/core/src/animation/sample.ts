import { normalizeRotation, slerp } from '../math/quaternions.js';
import type { AnimationSampler } from './animation.js';

/** What a sampler's values are, for how to go from one to the next. */
export type ValueKind = 'numbers' | 'rotation';

/**
 * Writes a sampler's value at a time into `out` from place `o` on, as glTF 2.0 says (3.11 and appendix C): before the
 * first key and behind the last the value stands still; `linear` rotations go the short way round at even speed
 * (C.4), those of `cubicspline` are brought to unit length (C.5).
 *
 * @param hint the key that the last call gave: neighbours in time are found at once
 * @returns the key at or before the time
 */
export function sampleAnimation(
  sampler: AnimationSampler,
  time: number,
  out: Float64Array | Float32Array | number[],
  o = 0,
  kind: ValueKind = 'numbers',
  hint = 0,
): number {
  clock[0] = time;
  return sampleAtClock(sampler, out, o, kind, hint);
}

/** The time for `sampleAtClock`: a number that is handed over from call to call takes memory each time. */
export const clock = new Float64Array(1);

/** The same at the time that `clock` tells. */
export function sampleAtClock(
  sampler: AnimationSampler,
  out: Float64Array | Float32Array | number[],
  o: number,
  kind: ValueKind,
  hint: number,
): number {
  const time = clock[0]!; // one
  const { input, output, components: n, interpolation } = sampler;
  const key = keyAt(input, time, hint);
  const start = input[key]!; // a key, here and below
  const isCubic = interpolation === 'cubicspline';
  const stride = isCubic ? 3 * n : n;
  const from = key * stride + (isCubic ? n : 0);
  if (time <= start || key + 1 >= input.length || interpolation === 'step') {
    for (let k = 0; k < n; k++) out[o + k] = output[from + k]!;
    return key;
  }
  const length = input[key + 1]! - start;
  const t = (time - start) / length;
  const to = from + stride;
  if (isCubic) {
    const t2 = t * t;
    const t3 = t2 * t;
    const a = 2 * t3 - 3 * t2 + 1;
    const b = length * (t3 - 2 * t2 + t);
    const c = -2 * t3 + 3 * t2;
    const d = length * (t3 - t2);
    for (let k = 0; k < n; k++) {
      // A key is in-tangent, value, out-tangent.
      out[o + k] =
        a * output[from + k]! + b * output[from + n + k]! + c * output[to + k]! + d * output[to - n + k]!;
    }
    if (kind === 'rotation') normalizeRotation(out, o);
  } else if (kind === 'rotation') {
    slerp(out, o, output, from, output, to, t);
  } else {
    for (let k = 0; k < n; k++) {
      const value = output[from + k]!;
      out[o + k] = value + (output[to + k]! - value) * t;
    }
  }
  return key;
}

/** The last key at or before a time; the first where there is none. */
function keyAt(input: Float32Array, time: number, hint: number): number {
  const last = input.length - 1;
  if (hint <= last && input[hint]! <= time) {
    if (hint === last || time < input[hint + 1]!) return hint;
    if (hint + 1 === last || time < input[hint + 2]!) return hint + 1;
  }
  let low = 0;
  let high = last;
  while (low < high) {
    const middle = (low + high + 1) >> 1;
    if (input[middle]! <= time) low = middle;
    else high = middle - 1;
  }
  return low;
}
