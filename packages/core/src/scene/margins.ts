import type { Geometry } from '../geometry/geometry.js';
import type { Material } from '../material/material.js';
import { type Bounds, boundsCenter, boundsRadius } from '../math/bounds.js';

/** Metres by which a material's shader moves the vertices of a geometry at most; 0 where that is not known. */
export function marginOf({ bounds }: Geometry, { shader }: Material): number {
  const reach = shader?.reach;
  if (!reach || reach === 'unknown') return 0;
  if (reach.share === 0) return reach.fixed;
  const [x, y, z] = boundsCenter(bounds);
  const farthest = Math.hypot(x!, y!, z!) + boundsRadius(bounds); // three numbers
  return Number.isFinite(farthest) ? reach.fixed + reach.share * farthest : reach.fixed;
}

/** Bounds with a margin around them. */
export const widened = ({ min, max }: Bounds, margin: number): Bounds => ({
  min: min.map((least) => least - margin) as Bounds['min'],
  max: max.map((most) => most + margin) as Bounds['max'],
});
