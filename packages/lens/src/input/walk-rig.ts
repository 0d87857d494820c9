import { Messages } from '#messages';
import {
  castRay,
  findInSphere,
  LensError,
  type Scene,
  type SceneNode,
  type Vec3,
} from '@umber-lens/core/engine';
import { FreeLook, type FreeLookOptions } from './free-look.js';
import type { KeysOf } from './held-keys.js';
import { type Place, type Rig, standing } from './rig.js';

export type WalkKey =
  'forward' | 'back' | 'left' | 'right' | 'turnLeft' | 'turnRight' | 'lookUp' | 'lookDown' | 'boost' | 'jump';

export interface WalkRigOptions extends FreeLookOptions {
  /** Metres a second. Default 2. */
  speed?: number;
  /** Factor on the speed while shift is down. Default 2.5. */
  boost?: number;
  /** Metres from the ground to the camera. Default 1.6. */
  height?: number;
  /** Metres that are kept from walls. Default 0.3. */
  radius?: number;
  /** Metres of a step that feet take. Default 0.35. */
  step?: number;
  /** Steepest ground that is walked on, radians. Default 0.87 (50 degrees). */
  slope?: number;
  /** Metres a second squared. Default 9.81; 0 keeps the height. */
  gravity?: number;
  /** Metres that a jump is high. Default 0: the space bar does nothing. */
  jump?: number;
  /** What is walked on and stood in the way of, by node. Default all that is shown. */
  filter?: (node: SceneNode) => boolean;
  /** Keys that take the place of the usual ones, by `code` or `key` of keyboard events. */
  keys?: Partial<KeysOf<WalkKey>>;
}

export interface WalkRig extends Rig {
  /** Radians around +Y; 0 looks along -Z. */
  heading: number;
  /** Radians above the horizon. */
  pitch: number;
  /** Metres a second. */
  speed: number;
  /** Where the feet are; write to it freely. */
  readonly feet: [number, number, number];
  /** Whether they are on the ground. */
  readonly isOnGround: boolean;
}

const KEYS: KeysOf<WalkKey> = {
  forward: ['KeyW', 'ArrowUp'],
  back: ['KeyS', 'ArrowDown'],
  left: ['KeyA'],
  right: ['KeyD'],
  turnLeft: ['ArrowLeft'],
  turnRight: ['ArrowRight'],
  lookUp: ['PageUp'],
  lookDown: ['PageDown'],
  boost: ['ShiftLeft', 'ShiftRight'],
  jump: ['Space'],
};

/** Seconds of a step at the most: longer frames take several. */
const STEP_SECONDS = 1 / 30;
/** Steps a frame at the most, so that a long one does not hang. */
const MOST_STEPS = 16;

/**
 * Walks a camera node over the scene's geometry: W, A, S and D by their places on the keyboard, up and down arrow, shift to
 * run; drag, or left and right arrow, to look about; two fingers to walk. It falls, takes steps, and slides along walls.
 * Who walks over the edge of everything comes back to where they stood.
 */
export function walkRig(camera: SceneNode, element: HTMLElement, options: WalkRigOptions = {}): WalkRig {
  Messages.rig('walkRig', options, element);
  return new Walk(camera, element, options);
}

class Walk extends FreeLook<WalkKey> implements WalkRig {
  readonly feet: Vec3 = [0, 0, 0];
  isOnGround = false;
  private readonly scene: Scene;
  private readonly body: Required<
    Pick<WalkRigOptions, 'height' | 'radius' | 'step' | 'slope' | 'gravity' | 'jump'>
  >;
  private readonly filter: ((node: SceneNode) => boolean) | undefined;
  /** Metres a second, aside, up and back. */
  private readonly walked: Vec3 = [0, 0, 0];
  /** Height of the camera, which follows steps softly. */
  private cameraHeight = 0;
  private stood: Vec3 | undefined;

  constructor(camera: SceneNode, element: HTMLElement, options: WalkRigOptions) {
    const defaults = {
      speed: 2,
      boost: 2.5,
      label: 'View of a scene to walk through',
      keys: KEYS,
      told: 'W, A, S and D or up and down arrow walk, left and right arrow and page up and down look about, shift runs.',
    };
    super(camera, element, options, defaults);
    this.scene = camera.scene;
    const { height = 1.6, radius = 0.3, step = 0.35, slope = 0.87, gravity = 9.81, jump = 0 } = options;
    if (!(radius > 0 && height > step + radius && step >= 0))
      throw new LensError(
        'rig/body',
        `nobody of ${height} m with a radius of ${radius} m takes steps of ${step} m`,
        {
          hint: 'height is above step + radius, radius above 0, step 0 or more. Metres.',
        },
      );
    this.body = { height, radius, step, slope, gravity, jump };
    this.filter = options.filter;
    this.adopt(standing(camera));
  }

  protected override step(delta: number): void {
    const { body, feet, hands, place, pushed, walked } = this;
    this.lookAbout(hands.way('turnLeft', 'turnRight', delta), hands.way('lookDown', 'lookUp', delta));
    const x = hands.between('left', 'right');
    const z = hands.between('forward', 'back');
    const length = Math.max(1, Math.hypot(x, z));
    const speed = (this.speed * (hands.isDown('boost') ? this.boost : 1)) / length;
    const [sin, cos] = [Math.sin(this.heading), Math.cos(this.heading)];
    const share = this.shareOf(delta);
    walked[0] += ((cos * x + sin * z) * speed - walked[0]) * share;
    walked[2] += ((cos * z - sin * x) * speed - walked[2]) * share;
    if (hands.isDown('jump') && this.isOnGround && body.jump > 0 && body.gravity > 0) {
      walked[1] = Math.sqrt(2 * body.gravity * body.jump);
      this.isOnGround = false;
    }
    // Two fingers pull the ground along.
    const hand = [
      (cos * -pushed.x - sin * pushed.y) * this.speed,
      (sin * pushed.x - cos * pushed.y) * this.speed,
    ] as const;
    pushed.x = pushed.y = 0;
    const way = Math.hypot(walked[0] * delta + hand[0], walked[2] * delta + hand[1]);
    const count = Math.min(
      MOST_STEPS,
      Math.max(1, Math.ceil(delta / STEP_SECONDS), Math.ceil(way / (body.radius / 2))),
    );
    if (delta > 0 || way > 0)
      for (let i = 0; i < count; i++)
        this.move(
          walked[0] * (delta / count) + hand[0] / count,
          walked[2] * (delta / count) + hand[1] / count,
          delta / count,
        );
    this.cameraHeight += (feet[1] - this.cameraHeight) * (this.isOnGround ? this.shareOf(delta) : 1);
    if (Math.abs(feet[1] - this.cameraHeight) > body.step * 2) this.cameraHeight = feet[1];
    place.position = [feet[0], this.cameraHeight + body.height, feet[2]];
  }

  protected override adopt(place: Readonly<Place>): void {
    super.adopt(place);
    for (let k = 0; k < 3; k++) this.feet[k] = place.position[k]! - (k === 1 ? this.body.height : 0);
    this.cameraHeight = this.feet[1];
    this.stood = undefined;
  }

  protected override standStill(): void {
    this.walked.fill(0);
    this.isOnGround = false;
  }

  private move(x: number, z: number, seconds: number): void {
    const { body, feet, walked } = this;
    feet[0] += x;
    feet[2] += z;
    this.keepFromWalls();
    if (body.gravity === 0) return;
    walked[1] -= body.gravity * seconds;
    const fall = walked[1] * seconds;
    const ground = this.groundBelow(Math.max(0, -fall));
    if (ground !== undefined && walked[1] <= 0) {
      feet[1] = ground;
      walked[1] = 0;
      this.isOnGround = true;
      this.stood = [...feet];
      return;
    }
    this.isOnGround = false;
    feet[1] += fall;
    this.comeBack();
  }

  /** Height of ground that feet reach: a step up, and a step or a fall down. */
  private groundBelow(fall: number): number | undefined {
    const { body, feet, filter, scene } = this;
    const above = body.step + 0.02;
    const hit = castRay(
      scene,
      { origin: [feet[0], feet[1] + above, feet[2]], direction: [0, -1, 0] },
      { far: above + (this.isOnGround ? body.step : 0.001) + fall, ...(filter ? { filter } : {}) },
    );
    return hit && hit.normal[1] >= Math.cos(body.slope) ? hit.point[1] : undefined;
  }

  /** Pushes aside out of what shins, belly and head are in. */
  private keepFromWalls(): void {
    const { body, feet, filter, scene, walked } = this;
    const { height, radius, slope, step } = body;
    const [low, high] = [step + radius, Math.max(step + radius, height - radius / 2)];
    for (let round = 0; round < 3; round++) {
      let isFree = true;
      for (const above of [low, (low + high) / 2, high]) {
        const center: Vec3 = [feet[0], feet[1] + above, feet[2]];
        for (const { normal, distance } of findInSphere(
          scene,
          { center, radius },
          filter ? { filter } : {},
        )) {
          const flat = Math.hypot(normal[0], normal[2]);
          // What can be walked on is no wall, and what is overhead stops a jump alone.
          if (normal[1] >= Math.cos(slope)) continue;
          if (normal[1] < -0.7) walked[1] = Math.min(0, walked[1]);
          if (flat < 0.2) continue;
          const by = (radius - distance + 1e-4) / flat;
          feet[0] += (normal[0] / flat) * by;
          feet[2] += (normal[2] / flat) * by;
          isFree = false;
          break;
        }
      }
      if (isFree) return;
    }
  }

  /** Who falls below everything stands where they stood. */
  private comeBack(): void {
    const { feet, scene, stood, walked } = this;
    if (!stood || feet[1] > stood[1] - 20) return;
    if (feet[1] > scene.root.worldBounds().min[1] - 5) return;
    for (let k = 0; k < 3; k++) feet[k] = stood[k]!;
    walked.fill(0);
  }
}
