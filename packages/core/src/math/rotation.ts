import { LensError } from '../errors/lens-error.js';
import { affineToTrs } from './affine.js';
import { cross } from './vectors.js';

/** A unit quaternion, xyzw. */
export type Rotation = [x: number, y: number, z: number, w: number];

/**
 * The rotation of a node that looks along `direction` (cameras and lights look along -Z of their
 * node) with its +Y as near to `up` as can be. Lengths do not matter.
 *
 * @throws LensError `math/no-direction` when `direction` is zero or not finite.
 */
export function facing(
  direction: readonly [number, number, number],
  up: readonly [number, number, number] = [0, 1, 0],
): Rotation {
  const length = Math.hypot(...direction);
  if (!(length > 0) || !Number.isFinite(length)) {
    throw new LensError('math/no-direction', `facing() needs a direction, got [${direction.join(', ')}]`, {
      hint: 'Give a vector with a length above zero, such as [-1, -2, -1].',
    });
  }
  const back = direction.map((v) => -v / length) as [number, number, number];
  let right = cross(up, back);
  if (Math.hypot(...right) < 1e-6 * Math.hypot(...up)) {
    // Straight up or down: any side will do, so take the axis that is least along the direction.
    right = cross(Math.abs(back[0]) < 0.9 ? [1, 0, 0] : [0, 0, 1], back);
    right = cross(back, right);
  }
  const sideLength = Math.hypot(...right);
  right = right.map((v) => v / sideLength) as [number, number, number];
  const over = cross(back, right);
  const [x, y, z] = [right, over, back];
  const affine = [x[0], y[0], z[0], 0, x[1], y[1], z[1], 0, x[2], y[2], z[2], 0];
  const rotation: Rotation = [0, 0, 0, 1];
  affineToTrs(affine, 0, [0, 0, 0], 0, rotation, 0, [1, 1, 1], 0);
  return rotation;
}

/** The rotation by `angle` radians about `axis` (right-handed; the axis need not be of unit length). */
export function axisAngle(axis: readonly [number, number, number], angle: number): Rotation {
  const length = Math.hypot(...axis);
  if (!(length > 0)) {
    throw new LensError('math/no-direction', 'axisAngle() needs an axis with a length above zero');
  }
  const s = Math.sin(angle / 2) / length;
  return [axis[0] * s, axis[1] * s, axis[2] * s, Math.cos(angle / 2)];
}
