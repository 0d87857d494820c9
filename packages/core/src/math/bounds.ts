import type { Numbers } from './affine.js';

/** An axis-aligned box. Empty when any `min` is greater than its `max`. Metres. */
export interface Bounds {
  min: [number, number, number];
  max: [number, number, number];
}

/** A box that holds nothing: min is +Infinity, max is -Infinity. */
export function emptyBounds(): Bounds {
  return { min: [Infinity, Infinity, Infinity], max: [-Infinity, -Infinity, -Infinity] };
}

export function isEmptyBounds(bounds: Bounds): boolean {
  return !(
    bounds.min[0] <= bounds.max[0] &&
    bounds.min[1] <= bounds.max[1] &&
    bounds.min[2] <= bounds.max[2]
  );
}

/** Grows `bounds` to hold a point. */
export function growBounds(bounds: Bounds, x: number, y: number, z: number): void {
  const { min, max } = bounds;
  if (x < min[0]) min[0] = x;
  if (y < min[1]) min[1] = y;
  if (z < min[2]) min[2] = z;
  if (x > max[0]) max[0] = x;
  if (y > max[1]) max[1] = y;
  if (z > max[2]) max[2] = z;
}

/**
 * Grows `bounds` to hold `local` under an affine transform. Works on centre and half extent
 * (Arvo, "Transforming Axis-Aligned Bounding Boxes", Graphics Gems, 1990): 18 products, no corners.
 */
export function growByTransformed(bounds: Bounds, local: Bounds, a: ArrayLike<number>, i: number): void {
  if (isEmptyBounds(local)) return;
  for (let row = 0; row < 3; row++) {
    let low = a[i + row * 4 + 3]!;
    let high = low;
    for (let column = 0; column < 3; column++) {
      const p = a[i + row * 4 + column]! * local.min[column]!;
      const q = a[i + row * 4 + column]! * local.max[column]!;
      low += p < q ? p : q;
      high += p < q ? q : p;
    }
    if (low < bounds.min[row]!) bounds.min[row] = low;
    if (high > bounds.max[row]!) bounds.max[row] = high;
  }
}

export function boundsCenter(bounds: Bounds, out: Numbers = [0, 0, 0]): Numbers {
  for (let k = 0; k < 3; k++) out[k] = (bounds.min[k]! + bounds.max[k]!) / 2;
  return out;
}

/** Radius of the sphere about the centre that holds the box; 0 for an empty box. */
export function boundsRadius(bounds: Bounds): number {
  if (isEmptyBounds(bounds)) return 0;
  return (
    Math.hypot(bounds.max[0] - bounds.min[0], bounds.max[1] - bounds.min[1], bounds.max[2] - bounds.min[2]) /
    2
  );
}
