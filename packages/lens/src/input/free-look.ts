import { LensError, type SceneNode } from '@umber-lens/core/engine';
import { type HandDefaults, Hands } from './hands.js';
import type { KeysOf } from './held-keys.js';
import { wantsLessMotion } from './reachable.js';
import { backOf, CameraRig, type Place, type RigOptions } from './rig.js';

export interface FreeLookOptions extends RigOptions {
  /** How one looks about: by dragging, or by moving the mouse once a click has locked it to the canvas. Default `drag`. */
  look?: 'drag' | 'lock';
  /** Radians for a drag across the whole height. Default pi / 2. */
  turnSpeed?: number;
  /** Metres a second. */
  speed?: number;
  /** Factor on the speed while shift is down. */
  boost?: number;
  /** Seconds in which half of a change of speed is done. Default 0.06, and 0 where less motion is asked for. */
  halfLife?: number;
}

/** What a rig does that looks about freely and moves where it looks. */
export abstract class FreeLook<A extends string> extends CameraRig {
  /** Radians around +Y; 0 looks along -Z. */
  heading = 0;
  /** Radians above the horizon. */
  pitch = 0;
  speed: number;
  protected readonly hands: Hands<A>;
  /** By two fingers, in shares of the element's height since the last step. */
  protected readonly pushed = { x: 0, y: 0 };
  protected readonly boost: number;
  private readonly turnSpeed: number;
  private readonly halfLife: number;

  constructor(
    camera: SceneNode,
    element: HTMLElement,
    options: FreeLookOptions & { keys?: Partial<KeysOf<A>> },
    defaults: HandDefaults<A> & { speed: number; boost: number },
  ) {
    if (!camera.camera)
      throw new LensError('camera/missing', `node "${camera.name}" carries no camera to look with`);
    super(camera, options.resting);
    this.speed = options.speed ?? defaults.speed;
    this.boost = options.boost ?? defaults.boost;
    this.turnSpeed = options.turnSpeed ?? Math.PI / 2;
    this.halfLife = options.halfLife ?? 0.06;
    const { signal } = this.release;
    this.hands = new Hands(
      this,
      element,
      signal,
      options,
      defaults,
      (dx, dy, isSecond) => {
        if (!isSecond) return this.turn(dx, dy);
        this.pushed.x += dx;
        this.pushed.y += dy;
      },
      (by) => this.zoom(by),
    );
    if (options.look === 'lock')
      lockPointer(
        element,
        () => this.isActive,
        (dx, dy) => this.turn(-dx, -dy),
        signal,
      );
  }

  /** Turns as a hand drags what is seen. @param dx shares of the element's height */
  private turn(dx: number, dy: number): void {
    this.heading += dx * this.turnSpeed;
    this.pitch += dy * this.turnSpeed;
  }

  /** Turns by keys and writes where the camera looks. @param x way of keys, as `y` */
  protected lookAbout(x: number, y: number): void {
    this.heading -= x * 1.8;
    this.pitch += y * 1.2;
    this.pitch = Math.max(-STRAIGHT, Math.min(STRAIGHT, this.pitch));
    const [sy, cy] = [Math.sin(this.heading / 2), Math.cos(this.heading / 2)];
    const [sx, cx] = [Math.sin(this.pitch / 2), Math.cos(this.pitch / 2)];
    this.place.rotation = [cy * sx, sy * cx, -sy * sx, cy * cx];
  }

  /** The share of a change of speed that is done in a time. */
  protected shareOf(delta: number): number {
    const halfLife = wantsLessMotion() ? 0 : this.halfLife;
    return halfLife > 0 ? 1 - 2 ** (-delta / halfLife) : 1;
  }

  protected override adopt(place: Readonly<Place>): void {
    const [x, y, z] = backOf(place);
    this.heading = Math.atan2(x, z);
    this.pitch = -Math.asin(Math.max(-1, Math.min(1, y)));
    this.place.position = [...place.position];
    this.standStill();
  }

  /** The wheel was turned, or fingers came together or apart: nothing, unless a rig has a use for it. */
  protected zoom(_by: number): void {
    // Most have none.
  }

  /** Forgets how it moved. */
  protected abstract standStill(): void;

  protected override rest(): void {
    this.hands.letGo();
    this.pushed.x = this.pushed.y = 0;
  }
}

const STRAIGHT = Math.PI / 2 - 0.001;

function lockPointer(
  element: HTMLElement,
  isActive: () => boolean,
  turn: (dx: number, dy: number) => void,
  signal: AbortSignal,
): void {
  element.addEventListener(
    'click',
    () => {
      if (!isActive() || document.pointerLockElement === element) return;
      // Browsers refuse it soon after it was left, or in a frame that may not; the next click asks again.
      Promise.resolve(element.requestPointerLock()).catch(() => undefined);
    },
    { signal },
  );
  element.addEventListener(
    'mousemove',
    ({ movementX, movementY }) => {
      if (!isActive() || document.pointerLockElement !== element) return;
      const height = element.clientHeight || 1;
      turn(movementX / height, movementY / height);
    },
    { signal },
  );
  signal.addEventListener('abort', () => {
    if (document.pointerLockElement === element) document.exitPointerLock();
  });
}
