import { type Bounds, boundsRadius, isEmptyBounds } from '../math/bounds.js';
import { facing, type Rotation } from '../math/rotation.js';

/** Where to stand so that a box fills the picture. */
export interface Framing {
  translation: [number, number, number];
  rotation: Rotation;
  /** Distance from the box's middle, metres. */
  distance: number;
  /** A near plane that cuts nothing of the box and wastes no precision. */
  znear: number;
}

/**
 * A camera place that looks along `direction` at a box and holds it whole.
 *
 * Each corner must lie inside the four side planes; the distance is the least that does so, so long
 * boxes are framed closer than their bounding sphere would be.
 *
 * @param yfov vertical field of view, radians
 * @param aspect width over height
 * @param direction way of looking; default three-quarter, from above right
 * @param margin share of the picture kept free at the edges, 0..0.5; default 0.06
 */
export function frameBounds(
  bounds: Bounds,
  yfov: number,
  aspect: number,
  direction: readonly [number, number, number] = [-0.62, -0.42, -1],
  margin = 0.06,
): Framing {
  const rotation = facing(direction);
  const box = isEmptyBounds(bounds) ? { min: [-0.5, -0.5, -0.5], max: [0.5, 0.5, 0.5] } : bounds;
  const middle = [0, 1, 2].map((k) => (box.min[k]! + box.max[k]!) / 2) as [number, number, number];
  const half = [0, 1, 2].map((k) => (box.max[k]! - box.min[k]!) / 2);
  const [x, y, z, w] = rotation;
  const right = [1 - 2 * (y * y + z * z), 2 * (x * y + z * w), 2 * (x * z - y * w)];
  const up = [2 * (x * y - z * w), 1 - 2 * (x * x + z * z), 2 * (y * z + x * w)];
  const back = [2 * (x * z + y * w), 2 * (y * z - x * w), 1 - 2 * (x * x + y * y)];
  const tanY = Math.tan(yfov / 2) * (1 - 2 * margin);
  const tanX = tanY * aspect;
  let distance = 0;
  for (let corner = 0; corner < 8; corner++) {
    const p = half.map((h, k) => (corner & (1 << k) ? h : -h));
    const along = (axis: number[]): number => p[0]! * axis[0]! + p[1]! * axis[1]! + p[2]! * axis[2]!;
    const need = Math.max(Math.abs(along(right)) / tanX, Math.abs(along(up)) / tanY);
    distance = Math.max(distance, need + along(back));
  }
  const radius = boundsRadius(box as Bounds) || 0.5;
  distance = Math.max(distance, radius * 0.1);
  return {
    translation: middle.map((m, k) => m + back[k]! * distance) as [number, number, number],
    rotation,
    distance,
    znear: Math.max((distance - radius) * 0.5, radius * 0.002, 1e-6),
  };
}
