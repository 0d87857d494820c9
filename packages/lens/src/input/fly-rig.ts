import { Messages } from '#messages';
import type { SceneNode } from '@umber-lens/core/engine';
import { FreeLook, type FreeLookOptions } from './free-look.js';
import type { KeysOf } from './held-keys.js';
import { type Rig, standing } from './rig.js';

export type FlyKey =
  | 'forward'
  | 'back'
  | 'left'
  | 'right'
  | 'up'
  | 'down'
  | 'turnLeft'
  | 'turnRight'
  | 'lookUp'
  | 'lookDown'
  | 'boost';

export interface FlyRigOptions extends FreeLookOptions {
  /** Metres a second; the wheel changes it. Default 4. */
  speed?: number;
  /** Factor on the speed while shift is down. Default 4. */
  boost?: number;
  /** Keys that take the place of the usual ones, by `code` or `key` of keyboard events. */
  keys?: Partial<KeysOf<FlyKey>>;
}

export interface FlyRig extends Rig {
  /** Radians around +Y; 0 looks along -Z. */
  heading: number;
  /** Radians above the horizon. */
  pitch: number;
  /** Metres a second. */
  speed: number;
}

const KEYS: KeysOf<FlyKey> = {
  forward: ['KeyW', 'ArrowUp'],
  back: ['KeyS', 'ArrowDown'],
  left: ['KeyA'],
  right: ['KeyD'],
  up: ['KeyE', 'Space'],
  down: ['KeyQ', 'KeyC'],
  turnLeft: ['ArrowLeft'],
  turnRight: ['ArrowRight'],
  lookUp: ['PageUp'],
  lookDown: ['PageDown'],
  boost: ['ShiftLeft', 'ShiftRight'],
};

/**
 * Flies a camera node where it looks, through everything: W, A, S and D by their places on the keyboard, up and down arrow,
 * E and Q to rise and sink, shift to hurry; drag, or left and right arrow, to look about; two fingers to move; the wheel for
 * the speed.
 */
export function flyRig(camera: SceneNode, element: HTMLElement, options: FlyRigOptions = {}): FlyRig {
  Messages.rig('flyRig', options, element);
  return new Fly(camera, element, options);
}

class Fly extends FreeLook<FlyKey> implements FlyRig {
  private readonly flown = [0, 0, 0];

  constructor(camera: SceneNode, element: HTMLElement, options: FlyRigOptions) {
    const defaults = {
      speed: 4,
      boost: 4,
      label: 'View of a scene to fly through',
      keys: KEYS,
      told: 'W, A, S and D or up and down arrow fly, E and Q rise and sink, left and right arrow and page up and down look about.',
    };
    super(camera, element, options, defaults);
    this.adopt(standing(camera));
  }

  protected override step(delta: number): void {
    const { flown, hands, place, pushed } = this;
    this.lookAbout(hands.way('turnLeft', 'turnRight', delta), hands.way('lookDown', 'lookUp', delta));
    const wish = [
      hands.between('left', 'right'),
      hands.between('down', 'up'),
      hands.between('forward', 'back'),
    ];
    const length = Math.max(1, Math.hypot(...wish));
    const speed = this.speed * (hands.isDown('boost') ? this.boost : 1);
    const [sin, cos] = [Math.sin(this.heading), Math.cos(this.heading)];
    const [lift, flat] = [Math.sin(this.pitch), Math.cos(this.pitch)];
    const toWorld = (x: number, y: number, z: number): number[] => [
      cos * x + sin * flat * z,
      y - lift * z,
      -sin * x + cos * flat * z,
    ];
    const share = this.shareOf(delta);
    const wanted = toWorld(wish[0]! / length, wish[1]! / length, wish[2]! / length);
    // Two fingers take hold of what is some metres away.
    const hand = toWorld(-pushed.x * this.speed, pushed.y * this.speed, 0);
    pushed.x = pushed.y = 0;
    for (let k = 0; k < 3; k++) {
      const before = flown[k]!; // three, here and below
      flown[k]! += (wanted[k]! * speed - before) * share;
      place.position[k]! += ((before + flown[k]!) / 2) * delta + hand[k]!;
    }
  }

  protected override standStill(): void {
    this.flown.fill(0);
  }

  protected override zoom(by: number): void {
    this.speed *= Math.exp(-by);
  }
}
