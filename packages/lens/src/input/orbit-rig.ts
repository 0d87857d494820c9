import { Messages } from '#messages';
import {
  type Bounds,
  facing,
  frameBounds,
  frameNode,
  isEmptyBounds,
  LensError,
  type SceneNode,
} from '@umber-lens/core/engine';
import { Hands } from './hands.js';
import type { KeysOf } from './held-keys.js';
import { wantsLessMotion } from './reachable.js';
import { backOf, CameraRig, type Place, type Rig, type RigOptions } from './rig.js';
import { VIEW_KEYS, type ViewKey } from './view-keys.js';

export interface OrbitRigOptions extends RigOptions {
  /** Point to look at, in the world. Default the origin. */
  target?: [number, number, number];
  /** Nearest and farthest distance, metres. Default [0.001, 1e6]. */
  distanceRange?: readonly [min: number, max: number];
  /** Lowest and highest elevation above the horizon, radians. Default just short of straight down and up. */
  elevationRange?: readonly [min: number, max: number];
  /** Seconds in which a movement that was let go loses half of its speed; 0 stops at once. Default 0.08, and 0 where less motion is asked for. */
  halfLife?: number;
  /** Radians for a drag across the whole height. Default pi. */
  turnSpeed?: number;
  /** Keys that take the place of the usual ones, by `code` or `key` of keyboard events. */
  keys?: Partial<KeysOf<ViewKey>>;
}

export interface OrbitRig extends Rig {
  /** Point looked at; write to it freely. */
  readonly target: [number, number, number];
  distance: number;
  /** Radians around +Y; 0 looks along -Z. */
  azimuth: number;
  /** Radians above the horizon. */
  elevation: number;
  /** Moves so that a node's subtree, or a box, fills the view; the way of looking stays. */
  frame(what: SceneNode | Bounds): void;
}

const STRAIGHT = Math.PI / 2 - 0.001;

/**
 * Orbits a camera node around a target: drag to turn; secondary drag, shift-drag or two fingers to
 * pan; wheel or pinch to move; arrow keys to turn, with shift to pan, `+` and `-` to move.
 */
export function orbitRig(
  cameraNode: SceneNode,
  element: HTMLElement,
  options: OrbitRigOptions = {},
): OrbitRig {
  Messages.rig('orbitRig', options, element);
  return new Orbit(cameraNode, element, options);
}

class Orbit extends CameraRig implements OrbitRig {
  readonly target: [number, number, number];
  distance = 1;
  azimuth = 0;
  elevation = 0;
  private readonly limits: {
    distance: readonly [min: number, max: number];
    elevation: readonly [min: number, max: number];
    halfLife: number;
    turnSpeed: number;
  };
  private readonly hands: Hands<ViewKey>;
  /** Speeds a second: radians, radians, share of the distance, and pan in distances. */
  private readonly speed = { azimuth: 0, elevation: 0, zoom: 0, x: 0, y: 0 };
  /** What the pointers moved since the last update. */
  private readonly moved = { azimuth: 0, elevation: 0, zoom: 0, x: 0, y: 0 };

  constructor(
    cameraNode: SceneNode,
    private readonly element: HTMLElement,
    options: OrbitRigOptions,
  ) {
    if (!cameraNode.camera) {
      throw new LensError('camera/missing', `node "${cameraNode.name}" carries no camera to orbit with`);
    }
    super(cameraNode, options.resting);
    this.target = [...(options.target ?? [0, 0, 0])];
    const [lowest, highest] = options.elevationRange ?? [-STRAIGHT, STRAIGHT];
    this.limits = {
      distance: options.distanceRange ?? [1e-3, 1e6],
      elevation: [Math.max(lowest, -STRAIGHT), Math.min(highest, STRAIGHT)],
      halfLife: options.halfLife ?? 0.08,
      turnSpeed: options.turnSpeed ?? Math.PI,
    };
    const at = cameraNode.readWorldPosition([0, 0, 0]);
    this.lookFrom([0, 1, 2].map((k) => at[k]! - this.target[k]!) as [number, number, number]);
    this.hands = new Hands(
      this,
      element,
      this.release.signal,
      options,
      {
        label: 'View of a scene that turns about its middle',
        told: 'Arrow keys turn, with shift they move aside; plus and minus go near and far.',
        keys: VIEW_KEYS,
      },
      (dx, dy, isSecond) => {
        if (isSecond) return this.pan(dx, dy);
        this.moved.azimuth -= dx * this.limits.turnSpeed;
        this.moved.elevation += dy * this.limits.turnSpeed;
      },
      (by) => void (this.moved.zoom += by),
    );
    this.settle();
    if (this.isActive) this.put(0);
  }

  frame(what: SceneNode | Bounds): void {
    const isNode = 'worldBounds' in what;
    if (isEmptyBounds(isNode ? what.worldBounds() : what)) return;
    const camera = this.camera.camera!; // checked at the start; a rig without it cannot place
    const { clientWidth, clientHeight } = this.element;
    const aspect = clientWidth > 0 && clientHeight > 0 ? clientWidth / clientHeight : 1;
    const yfov = camera.type === 'perspective' ? camera.yfov : 0.8;
    const [x, y, z] = this.away();
    const options = { yfov, aspect, direction: [-x, -y, -z] } as const;
    const { target, distance, xmag, ymag } = isNode ? frameNode(what, options) : frameBounds(what, options);
    for (let k = 0; k < 3; k++) this.target[k] = target[k]!;
    this.distance = within(this.limits.distance, distance);
    if (camera.type === 'orthographic') Object.assign(camera, { xmag, ymag });
    this.stop();
    this.settle();
    if (this.isActive) this.put(0);
  }

  protected override step(delta: number): void {
    this.pressKeys(delta);
    const { moved, speed } = this;
    const halfLife = wantsLessMotion() ? 0 : this.limits.halfLife;
    const fade = halfLife > 0 ? 2 ** (-delta / halfLife) : 0;
    const { isHeld } = this.hands;
    for (const key of ['azimuth', 'elevation', 'zoom', 'x', 'y'] as const) {
      let step = moved[key];
      moved[key] = 0;
      if (isHeld || step !== 0) {
        // A hand leads: remember its speed for when it lets go. Weighing by time, not by frames,
        // lets one notch of a wheel glide by at most its own size, however short its frame was.
        if (delta > 0) speed[key] = speed[key] * fade + (step / delta) * (1 - fade);
      } else {
        // The integral of a fading speed, so that a long frame does not run past where it ends.
        step = ((speed[key] * halfLife) / Math.LN2) * (1 - fade);
        speed[key] *= fade;
        if (Math.abs(speed[key]) < 1e-4) speed[key] = 0;
      }
      this.apply(key, step);
    }
    this.settle();
  }

  /** About what is before the camera, as far away as the target was. */
  protected override adopt(place: Readonly<Place>): void {
    const back = backOf(place);
    const { distance, target } = this;
    for (let k = 0; k < 3; k++) target[k] = place.position[k]! - back[k]! * distance;
    this.lookFrom(back.map((part) => part * distance) as [number, number, number]);
    this.stop();
  }

  protected override rest(): void {
    this.hands.letGo();
  }

  /** @param away from the target to the camera */
  private lookFrom(away: [number, number, number]): void {
    this.distance = Math.hypot(...away) || 1;
    this.azimuth = Math.atan2(away[0], away[2]);
    this.elevation = Math.asin(Math.max(-1, Math.min(1, away[1] / this.distance)));
  }

  private stop(): void {
    Object.assign(this.speed, { azimuth: 0, elevation: 0, zoom: 0, x: 0, y: 0 });
  }

  private away(): [number, number, number] {
    const flat = Math.cos(this.elevation);
    return [flat * Math.sin(this.azimuth), Math.sin(this.elevation), flat * Math.cos(this.azimuth)];
  }

  private apply(key: keyof Orbit['moved'], step: number): void {
    if (step === 0) return;
    if (key === 'azimuth') this.azimuth += step;
    else if (key === 'elevation') this.elevation += step;
    else if (key === 'zoom') this.zoom(step);
    else {
      // Right and up of the view, in distances.
      const [sin, cos] = [Math.sin(this.azimuth), Math.cos(this.azimuth)];
      const lift = Math.sin(this.elevation);
      const axis = key === 'x' ? [cos, 0, -sin] : [-lift * sin, Math.cos(this.elevation), -lift * cos];
      for (let k = 0; k < 3; k++) this.target[k]! += axis[k]! * step * this.distance;
    }
  }

  private zoom(step: number): void {
    this.distance *= Math.exp(step);
    const { camera } = this.camera;
    if (camera?.type === 'orthographic') {
      camera.xmag *= Math.exp(step);
      camera.ymag *= Math.exp(step);
    }
  }

  /** Keeps within the limits, and says where the camera is then. */
  private settle(): void {
    this.distance = within(this.limits.distance, this.distance);
    this.elevation = within(this.limits.elevation, this.elevation);
    const away = this.away();
    const { target, distance, place } = this;
    place.position = target.map((part, k) => part + away[k]! * distance) as Place['position'];
    place.rotation = facing([-away[0], -away[1], -away[2]]);
  }

  /** @param dx share of the element's height */
  private pan(dx: number, dy: number): void {
    const { camera } = this.camera;
    const span =
      camera?.type === 'orthographic'
        ? (2 * camera.ymag) / this.distance
        : 2 * Math.tan((camera?.yfov ?? 0.8) / 2);
    this.moved.x -= dx * span;
    this.moved.y += dy * span;
  }

  private pressKeys(delta: number): void {
    const { hands, moved } = this;
    const [x, y] = [hands.way('left', 'right', delta), hands.way('down', 'up', delta)];
    if (hands.shift) this.pan(-x * 0.6, y * 0.6);
    else {
      moved.azimuth += x * 1.5;
      moved.elevation += y * 1.5;
    }
    moved.zoom += hands.way('near', 'far', delta) * 1.5;
  }
}

const within = ([min, max]: readonly [number, number], value: number): number =>
  Math.min(max, Math.max(min, value));
