import { Messages } from '#messages';
import { facing, type SmoothPath, pathThrough, type SceneNode, type Vec3 } from '@umber-lens/core/engine';
import { Hands } from './hands.js';
import type { KeysOf } from './held-keys.js';
import { wantsLessMotion } from './reachable.js';
import { CameraRig, type Rig, type RigOptions } from './rig.js';

export interface PathRigOptions extends RigOptions {
  /** Metres a second. Default so that the whole way takes 20 seconds. */
  speed?: number;
  /** What is looked at: a place, a node, or where the way goes. Default `ahead`. */
  lookAt?: Vec3 | SceneNode | 'ahead';
  /** Whether it begins anew at the end; closed ways do by themselves. Default false. */
  repeats?: boolean;
  /** An element on which the wheel and arrow keys move along, and the space bar halts. */
  element?: HTMLElement;
  /** Keys that take the place of the usual ones, by `code` or `key` of keyboard events. */
  keys?: Partial<KeysOf<PathKey>>;
}

export interface PathRig extends Rig {
  readonly path: SmoothPath;
  /** Metres from the beginning; write to it freely. */
  distance: number;
  /** Metres a second; below 0 it goes back. */
  speed: number;
  /** Whether it moves along by itself. Begins as false where less motion is asked for. */
  isPlaying: boolean;
}

/**
 * Moves a camera node along a smooth way, through points or along a `Path`, as fast everywhere.
 *
 * @throws LensError `motion/path` for fewer than two points
 */
export function pathRig(
  camera: SceneNode,
  way: SmoothPath | readonly Vec3[],
  options: PathRigOptions = {},
): PathRig {
  Messages.rig('pathRig', options, options.element ?? null);
  return new Along(camera, 'directionAt' in way ? way : pathThrough(way), options);
}

export type PathKey = 'on' | 'back' | 'halt';

const KEYS: KeysOf<PathKey> = {
  on: ['ArrowUp', 'ArrowRight'],
  back: ['ArrowDown', 'ArrowLeft'],
  halt: ['Space'],
};

class Along extends CameraRig implements PathRig {
  distance = 0;
  speed: number;
  isPlaying = !wantsLessMotion();
  private readonly hands: Hands<PathKey> | undefined;
  private wasHalting = false;
  private readonly ahead: Vec3 = [0, 0, 0];

  constructor(
    camera: SceneNode,
    readonly path: SmoothPath,
    private readonly options: PathRigOptions,
  ) {
    super(camera, options.resting);
    this.speed = options.speed ?? path.length / 20;
    const { element } = options;
    if (!element) return;
    this.hands = new Hands(
      this,
      element,
      this.release.signal,
      options,
      {
        label: 'View of a scene along a way',
        told: 'Arrow keys move along the way, the space bar halts.',
        keys: KEYS,
      },
      (dx, dy) => void (this.distance += (dy - dx) * path.length * 0.1),
      (by) => void (this.distance -= by * path.length * 0.1),
    );
  }

  protected override step(delta: number): void {
    const { ahead, hands, options, path, place } = this;
    const isHalting = hands?.isDown('halt') ?? false;
    if (isHalting && !this.wasHalting) this.isPlaying = !this.isPlaying;
    this.wasHalting = isHalting;
    const by = hands?.way('back', 'on', delta) ?? 0;
    if (by !== 0) this.distance += by * Math.abs(this.speed) * 2;
    else if (this.isPlaying && !hands?.isHeld) this.distance += this.speed * delta;
    const { length } = path;
    if (path.closed || options.repeats) this.distance -= Math.floor(this.distance / length) * length;
    else this.distance = Math.max(0, Math.min(length, this.distance));
    path.at(this.distance, place.position);
    const { lookAt = 'ahead' } = options;
    if (lookAt === 'ahead') path.directionAt(this.distance, ahead);
    else {
      const goal = Array.isArray(lookAt) ? lookAt : lookAt.readWorldPosition([0, 0, 0]);
      for (let k = 0; k < 3; k++) ahead[k] = goal[k]! - place.position[k]!;
    }
    // Where it is what it looks at, it keeps looking as it did.
    if (Math.hypot(...ahead) > 1e-9) place.rotation = facing(ahead);
  }

  /** Where it was before it rested; the way there is the handing over. */
  protected override adopt(): void {
    this.wasHalting = false;
  }

  protected override rest(): void {
    this.hands?.letGo();
  }
}
