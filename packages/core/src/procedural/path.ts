import { LensError } from '../errors/lens-error.js';
import type { Vec3 } from '../math/vectors.js';

/** A smooth way through points, measured. */
export interface SmoothPath {
  /** Metres from its beginning to its end, or once around. */
  readonly length: number;
  readonly closed: boolean;
  /** Writes the place at a distance from the beginning into `out` (3). */
  at(distance: number, out: number[] | Float32Array): void;
  /** Writes the direction there into `out` (3), of length 1. */
  directionAt(distance: number, out: number[] | Float32Array): void;
}

/** Steps between two points in which lengths are measured. */
const STEPS = 32;

/**
 * A way through points, by the centripetal Catmull-Rom spline (Yuksel, Schaefer and Keyser, "Parameterization and
 * Applications of Catmull-Rom Curves", 2011), which has no loops or cusps between them. Places are told by the distance
 * along it, so what follows it evenly is evenly fast. Beyond its ends an open way stands still; a closed one goes on.
 *
 * @throws LensError `motion/path` for fewer than two different points
 */
export function pathThrough(points: readonly Vec3[], { closed = false } = {}): SmoothPath {
  const given = points.filter((p, i) => i === 0 || distance(p, points[i - 1]!) > 0);
  if (closed && given.length > 2 && distance(given[0]!, given.at(-1)!) === 0) given.pop();
  if (given.length < 2 || !given.flat().every(Number.isFinite))
    throw new LensError('motion/path', `a path needs two different points, got ${given.length}`, {
      hint: 'Give finite numbers, three a point.',
    });
  const n = given.length;
  const spans = closed ? n : n - 1;
  const point = (i: number): Vec3 => {
    if (closed) return given[((i % n) + n) % n]!;
    if (i >= 0 && i < n) return given[i]!;
    // Beyond the ends the way goes straight on.
    const [a, b] = i < 0 ? [given[0]!, given[1]!] : [given[n - 1]!, given[n - 2]!];
    return [2 * a[0] - b[0], 2 * a[1] - b[1], 2 * a[2] - b[2]];
  };
  const on = (span: number, t: number): Vec3 =>
    centripetal(point(span - 1), point(span), point(span + 1), point(span + 2), t);
  const lengths = new Float64Array(spans * STEPS + 1);
  let before = on(0, 0);
  for (let i = 1; i < lengths.length; i++) {
    const span = Math.min(spans - 1, Math.floor((i - 1) / STEPS));
    const place = on(span, (i - span * STEPS) / STEPS);
    lengths[i] = lengths[i - 1]! + distance(before, place); // filled up to i
    before = place;
  }
  const length = lengths[lengths.length - 1]!; // at least one span
  const placeAt = (given: number): Vec3 => {
    const d = closed ? given - Math.floor(given / length) * length : Math.min(length, Math.max(0, given));
    let low = 0;
    let high = lengths.length - 1;
    while (high - low > 1) {
      const middle = (low + high) >> 1;
      if (lengths[middle]! <= d) low = middle;
      else high = middle;
    }
    const step = lengths[high]! - lengths[low]!; // in range
    const at = low + (step > 0 ? (d - lengths[low]!) / step : 0);
    const span = Math.min(spans - 1, Math.floor(at / STEPS));
    return on(span, at / STEPS - span);
  };
  return {
    length,
    closed,
    at(d, out) {
      const place = placeAt(d);
      for (let k = 0; k < 3; k++) out[k] = place[k]!; // three
    },
    directionAt(d, out) {
      const step = length * 1e-4;
      const middle = closed ? d : Math.min(length - step, Math.max(step, d));
      const [a, b] = [placeAt(middle - step), placeAt(middle + step)];
      const all = distance(a, b);
      for (let k = 0; k < 3; k++) out[k] = (b[k]! - a[k]!) / all; // three
    },
  };
}

/** Between the second and the third of four points. */
function centripetal(p0: Vec3, p1: Vec3, p2: Vec3, p3: Vec3, t: number): Vec3 {
  const knot = (a: Vec3, b: Vec3): number => Math.max(1e-6, Math.sqrt(distance(a, b)));
  const [d0, d1, d2] = [knot(p0, p1), knot(p1, p2), knot(p2, p3)];
  return [0, 1, 2].map((k) => {
    const [a, b, c, d] = [p0[k]!, p1[k]!, p2[k]!, p3[k]!];
    // Tangents of the non-uniform spline (Barry and Goldman, 1988), scaled to the span.
    const m1 = ((b - a) / d0 - (c - a) / (d0 + d1) + (c - b) / d1) * d1;
    const m2 = ((c - b) / d1 - (d - b) / (d1 + d2) + (d - c) / d2) * d1;
    const t2 = t * t;
    const t3 = t2 * t;
    return (2 * t3 - 3 * t2 + 1) * b + (t3 - 2 * t2 + t) * m1 + (3 * t2 - 2 * t3) * c + (t3 - t2) * m2;
  }) as Vec3;
}

function distance(a: Vec3, b: Vec3): number {
  return Math.hypot(a[0] - b[0], a[1] - b[1], a[2] - b[2]);
}
