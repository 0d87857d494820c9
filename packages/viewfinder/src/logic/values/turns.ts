import { degreesOfRotation, type SceneNode } from '@umber-lens/core/engine';

type Angles = [x: number, y: number, z: number];

/**
 * The angles of a rotation, as sheets have them (about Y first, then X, then Z), that are nearest to those shown before: a turn that goes
 * on past 180 degrees goes on counting.
 *
 * @param rotation a unit quaternion xyzw
 * @param before degrees about X, Y and Z
 */
export function degreesNear(rotation: ArrayLike<number>, before: ArrayLike<number>): Angles {
  const [x, y, z] = degreesOfRotation(rotation);
  // Each rotation has two sets of angles, and any number of whole turns more.
  const found = [
    [x, y, z],
    [180 - x, y + 180, z + 180],
  ].map((angles) => angles.map((angle, k) => nearTurn(angle, before[k] ?? 0)) as Angles);
  // Where X is straight up or down, only the sum or the difference of the others counts.
  if (Math.abs(Math.abs(x) - 90) < 1e-4) found.push(atPole(x, y, z, before));
  const away = (angles: Angles): number =>
    angles.reduce((sum, angle, k) => sum + Math.abs(angle - (before[k] ?? 0)), 0);
  return found.reduce((best, one) => (away(one) < away(best) - 1e-9 ? one : best));
}

const nearTurn = (angle: number, before: number): number => angle + 360 * Math.round((before - angle) / 360);

/** Keeps the Z that was shown, and has Y make up for it. */
function atPole(x: number, y: number, z: number, before: ArrayLike<number>): Angles {
  const sign = Math.sign(x);
  const kept = before[2] ?? 0;
  const around = y - sign * (z - 0) + sign * kept;
  return [nearTurn(x, before[0] ?? 0), nearTurn(around, before[1] ?? 0), kept];
}

/** The angles that were shown of each node, so that they go on without a jump. */
export class Turns {
  private readonly shown = new WeakMap<SceneNode, Angles>();

  /** Degrees about X, Y and Z. */
  of(node: SceneNode): Angles {
    const angles = degreesNear(node.readRotation([0, 0, 0, 1]), this.shown.get(node) ?? [0, 0, 0]);
    this.shown.set(node, angles);
    return angles;
  }

  /** As they were typed. */
  note(node: SceneNode, angles: readonly number[]): void {
    this.shown.set(node, [angles[0] ?? 0, angles[1] ?? 0, angles[2] ?? 0]);
  }
}
