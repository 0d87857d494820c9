import { Messages } from '#messages';
import { castRay, facing, LensError, type SceneNode, spring, type Vec3 } from '@umber-lens/core/engine';
import { Hands } from './hands.js';
import type { KeysOf } from './held-keys.js';
import { wantsLessMotion } from './reachable.js';
import { CameraRig, type Rig, type RigOptions } from './rig.js';
import { VIEW_KEYS, type ViewKey } from './view-keys.js';

export interface FollowRigOptions extends RigOptions {
  /** Where the camera is, in metres from what it follows: to its right, up, and behind it (+Z). Default [0, 2, 6]. */
  offset?: Vec3;
  /** What is looked at, in metres from what is followed. Default [0, 1, 0]. */
  lookAt?: Vec3;
  /** Whether the camera stays behind what it follows when that turns. Default true. */
  turns?: boolean;
  /** Seconds in which half of the way is caught up. Default 0.15, and 0 where less motion is asked for. */
  halfLife?: number;
  /** Comes nearer where something of the scene would stand between; what is followed itself never counts. Default false. */
  staysInSight?: boolean;
  /** An element on which drags and arrow keys look at it from elsewhere, and the wheel goes near and far. */
  element?: HTMLElement;
  /** Keys that take the place of the usual ones, by `code` or `key` of keyboard events. */
  keys?: Partial<KeysOf<ViewKey>>;
}

export interface FollowRig extends Rig {
  /** What is followed; write to it to go over to another. */
  node: SceneNode;
  /** Radians by which hands have turned the offset about +Y, and up. */
  azimuth: number;
  elevation: number;
  /** Factor on the offset. */
  distance: number;
}

/** Follows a node with a camera node, and catches up softly. */
export function followRig(camera: SceneNode, node: SceneNode, options: FollowRigOptions = {}): FollowRig {
  Messages.rig('followRig', options, options.element ?? null);
  return new Follow(camera, node, options);
}

class Follow extends CameraRig implements FollowRig {
  azimuth = 0;
  elevation = 0;
  distance = 1;
  private readonly offset: Vec3;
  private readonly lookAt: Vec3;
  private readonly options: FollowRigOptions;
  private readonly hands: Hands<ViewKey> | undefined;
  /** Heading of what is followed, and where it and the camera are, as the rig has caught up. */
  private readonly values = new Float64Array(4);
  private readonly velocities = new Float64Array(4);
  private readonly goals = new Float64Array(4);
  private isNew = true;

  constructor(
    camera: SceneNode,
    public node: SceneNode,
    options: FollowRigOptions,
  ) {
    if (node.scene !== camera.scene)
      throw new LensError('rig/follow', `"${node.name}" is not in the scene of "${camera.name}"`, {
        hint: 'An camera follows nodes of its own scene.',
      });
    super(camera, options.resting);
    this.options = options;
    this.offset = options.offset ?? [0, 2, 6];
    this.lookAt = options.lookAt ?? [0, 1, 0];
    const { element } = options;
    if (!element) return;
    this.hands = new Hands(
      this,
      element,
      this.release.signal,
      options,
      {
        label: 'View of a scene that follows something',
        told: 'Arrow keys look from elsewhere; plus and minus go near and far.',
        keys: VIEW_KEYS,
      },
      (dx, dy) => {
        this.azimuth -= dx * Math.PI;
        this.elevation += dy * Math.PI;
      },
      (by) => void (this.distance *= Math.exp(by)),
    );
  }

  protected override step(delta: number): void {
    const { goals, hands, node, options, offset, lookAt, place, values, velocities } = this;
    this.azimuth += 1.5 * (hands?.way('left', 'right', delta) ?? 0);
    this.elevation += 1.5 * (hands?.way('down', 'up', delta) ?? 0);
    this.distance *= Math.exp(1.5 * (hands?.way('near', 'far', delta) ?? 0));
    const m = node.readWorld(world);
    if (options.turns ?? true) {
      // The short way round from where it has turned to so far; who looks straight up keeps the heading.
      const heading = Math.hypot(m[2]!, m[10]!) > 1e-6 ? Math.atan2(m[2]!, m[10]!) : values[3]!; // twelve, four
      const off = heading - values[3]!;
      goals[3] = values[3]! + Math.atan2(Math.sin(off), Math.cos(off));
    }
    for (let k = 0; k < 3; k++) goals[k] = m[k * 4 + 3]!;
    const halfLife = this.isNew || wantsLessMotion() ? 0 : (options.halfLife ?? 0.15);
    spring(values, velocities, goals, delta, { halfLife });
    this.isNew = false;
    // About the place looked at, by what hands turned.
    const away = [0, 1, 2].map((k) => offset[k]! - lookAt[k]!);
    const flat = Math.hypot(away[0]!, away[2]!);
    const length = Math.hypot(flat, away[1]!) * this.distance;
    const up = Math.max(-1.55, Math.min(1.55, Math.atan2(away[1]!, flat) + this.elevation));
    this.elevation = up - Math.atan2(away[1]!, flat);
    const around = Math.atan2(away[0]!, away[2]!) + this.azimuth + values[3]!;
    const way: Vec3 = [Math.cos(up) * Math.sin(around), Math.sin(up), Math.cos(up) * Math.cos(around)];
    const [sin, cos] = [Math.sin(values[3]!), Math.cos(values[3]!)];
    const center: Vec3 = [
      values[0]! + cos * lookAt[0] + sin * lookAt[2],
      values[1]! + lookAt[1],
      values[2]! - sin * lookAt[0] + cos * lookAt[2],
    ];
    const far = options.staysInSight ? this.inSight(center, way, length) : length;
    place.position = [center[0] + way[0] * far, center[1] + way[1] * far, center[2] + way[2] * far];
    place.rotation = facing([-way[0], -way[1], -way[2]]);
  }

  private inSight(origin: Vec3, direction: Vec3, length: number): number {
    const { camera, node } = this;
    const own = new Set([node, ...node.descendants()]);
    const near = camera.camera?.znear ?? 0.1;
    const hit = castRay(
      camera.scene,
      { origin, direction },
      { far: length + near, bothSides: true, filter: (other) => !own.has(other) },
    );
    return hit ? Math.max(near, Math.min(length, hit.distance - near * 2)) : length;
  }

  /** What it follows says where the camera is; the way there is the handing over. */
  protected override adopt(): void {
    this.isNew = true;
    this.velocities.fill(0);
  }

  protected override rest(): void {
    this.hands?.letGo();
  }
}

const world = new Float32Array(12);
