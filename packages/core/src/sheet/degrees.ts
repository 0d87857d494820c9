import type { Rotation } from '../math/rotation.js';

const HALF = Math.PI / 360;

/**
 * The rotation of three angles: about Y first, then about the X axis that this gave, then about the Z axis that both gave. A
 * camera that is turned so looks to the left by the second, up by the first, and leans by the third.
 *
 * @param degrees about X, Y and Z
 */
export function rotationOfDegrees(degrees: ArrayLike<number>): Rotation {
  const [x, y, z] = [degrees[0]! * HALF, degrees[1]! * HALF, degrees[2]! * HALF]; // three by contract
  const [sx, cx, sy, cy, sz, cz] = [
    Math.sin(x),
    Math.cos(x),
    Math.sin(y),
    Math.cos(y),
    Math.sin(z),
    Math.cos(z),
  ];
  return [
    sx * cy * cz + cx * sy * sz,
    cx * sy * cz - sx * cy * sz,
    cx * cy * sz - sx * sy * cz,
    cx * cy * cz + sx * sy * sz,
  ];
}

/**
 * The angles of a rotation, about X, Y and Z in degrees, as `rotationOfDegrees` takes them: X from -90 to 90, the others from -180 to
 * 180. Where X is one of its ends, Z is 0.
 */
export function degreesOfRotation(rotation: ArrayLike<number>): [x: number, y: number, z: number] {
  const [x, y, z, w] = [rotation[0]!, rotation[1]!, rotation[2]!, rotation[3]!]; // four by contract
  const sine = 2 * (w * x - y * z);
  const angle = (radians: number): number => (radians * 180) / Math.PI;
  if (Math.abs(sine) > 1 - 1e-7)
    return [90 * Math.sign(sine), angle(Math.atan2(-2 * (x * z - w * y), 1 - 2 * (y * y + z * z))), 0];
  return [
    angle(Math.asin(sine)),
    angle(Math.atan2(2 * (x * z + w * y), 1 - 2 * (x * x + y * y))),
    angle(Math.atan2(2 * (x * y + w * z), 1 - 2 * (x * x + z * z))),
  ];
}
