import { multiplyRotations, type SceneNode, slerp } from '@umber-lens/core/engine';
import { wantsLessMotion } from './reachable.js';

/** Moves a node from input or by rule. */
export interface Rig {
  /** Whether it moves its node and hears what hands do; `handOver` changes it. */
  readonly isActive: boolean;
  /** Moves the node; call it once a frame. @param delta seconds */
  update(delta: number): void;
  /** Lets go of the canvas. */
  dispose(): void;
}

/** What all rigs that hear input take. */
export interface RigOptions {
  /** Whether keys work while the canvas has the focus. Default true. */
  keyboard?: boolean;
  /** Factor on how fast held keys move and turn. Default 1. */
  keySpeed?: number;
  /** What screen readers call the canvas, where the page does not say it. */
  label?: string;
  /** Begins at rest, until something is handed over to it. Default false. */
  resting?: boolean;
}

/** Where an camera is and how it is turned, in its parent's space. */
export interface Place {
  position: [number, number, number];
  rotation: [number, number, number, number];
}

/** As a node stands now. */
export const standing = (camera: SceneNode): Place => ({
  position: camera.readTranslation([0, 0, 0]),
  rotation: camera.readRotation([0, 0, 0, 1]),
});

/** Away from where it looks: of length 1. */
export const backOf = ({ rotation: [x, y, z, w] }: Place): [number, number, number] => [
  2 * (x * z + w * y),
  2 * (y * z - w * x),
  1 - 2 * (x * x + y * y),
];

/** What is left of the way from where another rig had the camera. */
interface Remainder {
  offset: [number, number, number];
  /** A second, as the camera moved when it was taken over. */
  velocity: readonly number[];
  turn: [number, number, number, number];
  seconds: number;
  time: number;
}

/** What rigs that move a camera node share. */
export abstract class CameraRig implements Rig {
  isActive: boolean;
  protected readonly release = new AbortController();
  /** Where the rig has the camera. */
  protected readonly place: Place = { position: [0, 0, 0], rotation: [0, 0, 0, 1] };
  /** Where it was put last, and how fast it moved. */
  private readonly last = [0, 0, 0];
  private readonly velocity = [0, 0, 0];
  private remainder: Remainder | undefined;

  constructor(
    readonly camera: SceneNode,
    resting = false,
  ) {
    this.isActive = !resting;
    camera.readTranslation(this.last);
  }

  update(delta: number): void {
    if (!this.isActive) return;
    this.step(delta);
    this.put(delta);
  }

  dispose(): void {
    this.isActive = false;
    this.release.abort();
  }

  /** Moves by what came in, and writes `place`. */
  protected abstract step(delta: number): void;

  /** Takes over as much as it can of how an camera stands that another rig moved. */
  protected abstract adopt(place: Readonly<Place>): void;

  /** Lets go of what hands hold. */
  protected abstract rest(): void;

  /** Puts the camera where the rig has it, and as far from there as it still has to come. */
  protected put(delta: number): void {
    const { camera, last, place, remainder, velocity } = this;
    let { position, rotation } = place;
    if (remainder) {
      remainder.time += delta;
      const s = Math.min(1, remainder.time / remainder.seconds);
      // Hermite's cubic from the place and the speed at the beginning to nothing.
      const left = (1 + 2 * s) * (1 - s) ** 2;
      const drift = s * (1 - s) ** 2 * remainder.seconds;
      position = position.map(
        (part, k) => part + remainder.offset[k]! * left + remainder.velocity[k]! * drift,
      ) as Place['position'];
      const turn = [0, 0, 0, 1];
      slerp(turn, 0, turn, 0, remainder.turn, 0, left);
      rotation = [0, 0, 0, 1];
      multiplyRotations(rotation, 0, turn, 0, place.rotation, 0);
      if (s === 1) this.remainder = undefined;
    }
    if (delta > 0) for (let k = 0; k < 3; k++) velocity[k] = (position[k]! - last[k]!) / delta;
    for (let k = 0; k < 3; k++) last[k] = position[k]!;
    camera.setTranslation(...position);
    camera.setRotation(...rotation);
  }

  /** @internal For `handOver`. */
  yieldTo(next: CameraRig, seconds: number): void {
    const { camera, velocity } = this;
    this.isActive = false;
    this.rest();
    const from = standing(camera);
    next.isActive = true;
    if (next.camera !== camera) return;
    next.adopt(from);
    next.step(0);
    const to = next.place;
    const away = to.rotation.map((part, k) => (k < 3 ? -part : part));
    const turn: Remainder['turn'] = [0, 0, 0, 1];
    multiplyRotations(turn, 0, from.rotation, 0, away, 0);
    next.remainder =
      seconds > 0
        ? {
            offset: from.position.map((part, k) => part - to.position[k]!) as Remainder['offset'],
            velocity: [...velocity],
            turn,
            seconds,
            time: 0,
          }
        : undefined;
    next.put(0);
  }
}

/**
 * Hands the camera from one rig over to another, in mid-flight too: it moves on as it did and comes to where the other has it.
 * The first is at rest until something is handed back to it.
 *
 *     const orbit = orbitRig(camera, canvas);
 *     const walk = walkRig(camera, canvas, { resting: true });
 *     let rig: Rig = orbit;
 *     button.onclick = () => (rig = handOver(rig, rig === orbit ? walk : orbit));
 *     lens.run(({ delta }) => rig.update(delta));
 *
 * @param seconds until the camera is where the other rig has it. Default 0.8; 0 where less motion is asked for
 * @returns the other rig
 */
export function handOver<R extends Rig>(from: Rig, to: R, { seconds = 0.8 } = {}): R {
  if ((from as Rig) !== to && from instanceof CameraRig && to instanceof CameraRig)
    from.yieldTo(to, wantsLessMotion() ? 0 : seconds);
  return to;
}
