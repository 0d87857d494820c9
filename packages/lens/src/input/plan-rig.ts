import { Messages } from '#messages';
import {
  type Bounds,
  facing,
  isEmptyBounds,
  LensError,
  nearHint,
  type SceneNode,
  type Vec3,
} from '@umber-lens/core/engine';
import { Hands } from './hands.js';
import type { KeysOf } from './held-keys.js';
import { wantsLessMotion } from './reachable.js';
import { backOf, CameraRig, type Place, type Rig, type RigOptions } from './rig.js';
import { VIEW_KEYS, type ViewKey } from './view-keys.js';

/** From where a drawing looks: a plan from above, elevations from the sides. */
export type PlanSide = 'top' | 'bottom' | 'front' | 'back' | 'left' | 'right';

/** Right and up of the picture. */
const SIDES: Record<PlanSide, { right: Vec3; up: Vec3 }> = {
  top: { right: [1, 0, 0], up: [0, 0, -1] },
  bottom: { right: [1, 0, 0], up: [0, 0, 1] },
  front: { right: [1, 0, 0], up: [0, 1, 0] },
  back: { right: [-1, 0, 0], up: [0, 1, 0] },
  left: { right: [0, 0, 1], up: [0, 1, 0] },
  right: { right: [0, 0, -1], up: [0, 1, 0] },
};

export interface PlanRigOptions extends RigOptions {
  /** From where it looks. Default `top`. */
  side?: PlanSide;
  /** Point in the picture's middle, in the world. Default the origin. */
  target?: Vec3;
  /** Metres that the picture is high. Default what the camera shows now. */
  height?: number;
  /** Lowest and highest `height`. Default [0.01, 1e5]. */
  heightRange?: readonly [min: number, max: number];
  /** Metres from the target to the camera, for cameras with parallel rays. Default in the middle of the camera's reach. */
  distance?: number;
  /** Seconds in which half of a zoom is done. Default 0.05, and 0 where less motion is asked for. */
  halfLife?: number;
  /** Keys that take the place of the usual ones, by `code` or `key` of keyboard events. */
  keys?: Partial<KeysOf<ViewKey>>;
}

export interface PlanRig extends Rig {
  /** From where it looks. */
  side: PlanSide;
  /** Point in the picture's middle, in the world; write to it freely. */
  readonly target: [number, number, number];
  /** Metres that the picture is high. */
  height: number;
  /** Moves so that a node's subtree, or a box, fills the picture. */
  frame(what: SceneNode | Bounds): void;
}

/**
 * Looks straight at a scene from above or from a side: drag, two fingers or arrow keys move the picture, the wheel and
 * pinches enlarge it about where they are, `+` and `-` about its middle. For cameras with parallel rays; with others the
 * target's plane keeps the same measure.
 *
 * @throws LensError `camera/missing`, `rig/side`
 */
export function planRig(camera: SceneNode, element: HTMLElement, options: PlanRigOptions = {}): PlanRig {
  Messages.rig('planRig', options, element);
  return new Plan(camera, element, options);
}

class Plan extends CameraRig implements PlanRig {
  readonly target: Vec3;
  height: number;
  private from: PlanSide = 'top';
  private readonly limits: {
    height: readonly [min: number, max: number];
    distance: number | undefined;
    halfLife: number;
  };
  private readonly hands: Hands<ViewKey>;
  /** Logarithm of the zoom that is still to come, and about where. */
  private zoom = { by: 0, x: 0, y: 0 };

  constructor(
    cameraNode: SceneNode,
    private readonly element: HTMLElement,
    options: PlanRigOptions,
  ) {
    if (!cameraNode.camera)
      throw new LensError('camera/missing', `node "${cameraNode.name}" carries no camera to look with`);
    super(cameraNode, options.resting);
    this.side = options.side ?? 'top';
    this.target = [...(options.target ?? [0, 0, 0])];
    this.limits = {
      height: options.heightRange ?? [0.01, 1e5],
      distance: options.distance,
      halfLife: options.halfLife ?? 0.05,
    };
    this.height = options.height ?? this.shownHeight();
    this.hands = new Hands(
      this,
      element,
      this.release.signal,
      options,
      {
        label: `View of a scene from the ${this.side}`,
        told: 'Arrow keys move the picture; plus and minus enlarge it and make it small.',
        keys: VIEW_KEYS,
      },
      (dx, dy) => this.move(-dx, dy),
      (by, x, y) => {
        this.zoom = { by: this.zoom.by + by, x, y };
      },
    );
    this.settle();
    if (this.isActive) this.put(0);
  }

  get side(): PlanSide {
    return this.from;
  }

  set side(side: PlanSide) {
    if (!(side in SIDES))
      throw new LensError('rig/side', `a plan cannot look from "${String(side)}"`, {
        hint: nearHint(String(side), Object.keys(SIDES)),
      });
    this.from = side;
  }

  frame(what: SceneNode | Bounds): void {
    const { min, max } = 'worldBounds' in what ? what.worldBounds() : what;
    if (isEmptyBounds({ min, max })) return;
    const { right, up } = SIDES[this.side];
    const span = (axis: Vec3): number =>
      axis.reduce((sum, part, k) => sum + Math.abs(part) * (max[k]! - min[k]!), 0);
    for (let k = 0; k < 3; k++) this.target[k] = (min[k]! + max[k]!) / 2;
    const { clientWidth, clientHeight } = this.element;
    const aspect = clientWidth > 0 && clientHeight > 0 ? clientWidth / clientHeight : 1;
    this.height = 1.08 * Math.max(span(up), span(right) / aspect, this.limits.height[0]);
    this.zoom.by = 0;
    this.settle();
    if (this.isActive) this.put(0);
  }

  protected override step(delta: number): void {
    const { hands, zoom } = this;
    this.move(hands.way('left', 'right', delta) * 0.6, hands.way('down', 'up', delta) * 0.6);
    const nearer = hands.way('near', 'far', delta) * 1.5;
    if (nearer !== 0) this.enlarge(nearer, 0, 0);
    const halfLife = wantsLessMotion() ? 0 : this.limits.halfLife;
    const part = halfLife > 0 ? zoom.by * (1 - 2 ** (-delta / halfLife)) : zoom.by;
    const now = Math.abs(zoom.by - part) < 1e-4 ? zoom.by : part;
    zoom.by -= now;
    if (now !== 0) this.enlarge(now, zoom.x, zoom.y);
    this.settle();
  }

  /** The middle of what the camera looks at, at the measure that it has now. */
  protected override adopt(place: Readonly<Place>): void {
    const { position } = place;
    const forward = backOf(place).map((part) => -part);
    const back = this.back();
    let [off, along] = [0, 0];
    for (let k = 0; k < 3; k++) {
      off += back[k]! * (this.target[k]! - position[k]!);
      along += back[k]! * forward[k]!;
    }
    // Where it looks at the plane through the target; who looks along that is right before its place.
    const distance = off / along;
    const isAhead = distance > 0 && distance < 1e4;
    for (let k = 0; k < 3; k++)
      this.target[k] = isAhead ? position[k]! + forward[k]! * distance : position[k]! + back[k]! * off;
    // Parallel rays show as much from everywhere.
    const isParallel = this.camera.camera?.type === 'orthographic';
    if (isParallel || isAhead) this.height = this.shownHeight(distance);
    this.zoom.by = 0;
  }

  protected override rest(): void {
    this.hands.letGo();
  }

  /** From the target to the camera: of length 1. */
  private back(): Vec3 {
    const { right, up } = SIDES[this.side];
    return [0, 1, 2].map(
      (k) => right[(k + 1) % 3]! * up[(k + 2) % 3]! - right[(k + 2) % 3]! * up[(k + 1) % 3]!,
    ) as Vec3;
  }

  private shownHeight(distance?: number): number {
    const camera = this.camera.camera!; // checked at the start
    if (camera.type === 'orthographic') return 2 * camera.ymag;
    const at = this.camera.readWorldPosition([0, 0, 0]);
    return (
      2 *
      Math.tan(camera.yfov / 2) *
      (distance ?? (Math.hypot(...at.map((v, k) => v - this.target[k]!)) || 1))
    );
  }

  /** @param x shares of the picture's height, to the right */
  private move(x: number, y: number): void {
    const { right, up } = SIDES[this.side];
    for (let k = 0; k < 3; k++) this.target[k]! += (right[k]! * x + up[k]! * y) * this.height;
  }

  /** What is at a place of the picture stays there. */
  private enlarge(by: number, x: number, y: number): void {
    const [min, max] = this.limits.height;
    const before = this.height;
    this.height = Math.max(min, Math.min(max, before * Math.exp(by)));
    const share = before / this.height - 1;
    this.move(x * share, y * share);
  }

  private settle(): void {
    const { camera: cameraNode, height, place, target } = this;
    const { up } = SIDES[this.side];
    const camera = cameraNode.camera!; // checked at the start
    const back = this.back();
    let distance = height / 2 / Math.tan((camera.type === 'perspective' ? camera.yfov : 1) / 2);
    if (camera.type === 'orthographic') {
      const { clientWidth, clientHeight } = this.element;
      const aspect = clientWidth > 0 && clientHeight > 0 ? clientWidth / clientHeight : 1;
      if (this.isActive) Object.assign(camera, { xmag: (height / 2) * aspect, ymag: height / 2 });
      distance = this.limits.distance ?? (camera.znear + camera.zfar) / 2;
    }
    place.position = target.map((part, k) => part + back[k]! * distance) as Vec3;
    place.rotation = facing([-back[0], -back[1], -back[2]], up);
  }
}
