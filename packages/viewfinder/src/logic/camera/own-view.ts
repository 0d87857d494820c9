import {
  type Bounds,
  type Camera,
  facing,
  frameBounds,
  isEmptyBounds,
  type SceneNode,
} from '@umber-lens/core/engine';
import { add, minus, times, turned, unit, type Vec } from '../handles/vectors.js';

/** Straight ways of looking, by what is seen. */
export const SIDES = ['front', 'back', 'left', 'right', 'top', 'bottom'] as const;
export type Side = (typeof SIDES)[number];

/** Radians about +Y, and above the horizon. */
const SIDE_ANGLES: Readonly<Record<Side, readonly [azimuth: number, elevation: number]>> = {
  front: [0, 0],
  back: [Math.PI, 0],
  left: [-Math.PI / 2, 0],
  right: [Math.PI / 2, 0],
  top: [0, Math.PI / 2],
  bottom: [0, -Math.PI / 2],
};
const STRAIGHT = Math.PI / 2;

/** The editor's own camera: around a target, from anywhere, in perspective or without. */
export class OwnView {
  target: Vec = [0, 0, 0];
  distance = 10;
  azimuth = 0.6;
  elevation = 0.4;
  isFlat = false;
  yfov = 0.8;
  znear = 0.05;
  private placed: { node?: SceneNode; by: readonly number[] } = { by: [] };

  /** From where a camera of the scene is; the target lies before it. @param reach metres */
  takeFrom(camera: SceneNode, reach: number): void {
    const m = camera.readWorld(new Float64Array(12));
    const at: Vec = [m[3]!, m[7]!, m[11]!]; // twelve
    const back = unit([m[2]!, m[6]!, m[10]!]); // as above
    const given = camera.camera;
    if (given?.type === 'perspective') {
      this.yfov = given.yfov;
      this.znear = given.znear;
    }
    this.distance = Math.max(0.1, reach);
    this.target = add(at, back, -this.distance);
    this.azimuth = Math.atan2(back[0], back[2]);
    this.elevation = Math.asin(Math.max(-1, Math.min(1, back[1])));
    this.isFlat = false;
    if (given?.type === 'orthographic') {
      this.isFlat = true;
      this.distance = given.ymag / Math.tan(this.yfov / 2);
      this.target = add(at, back, -this.distance);
    }
  }

  /** From the target to the camera, of length 1. */
  get back(): Vec {
    const flat = Math.cos(this.elevation);
    return [flat * Math.sin(this.azimuth), Math.sin(this.elevation), flat * Math.cos(this.azimuth)];
  }

  get position(): Vec {
    return add(this.target, this.back, this.distance);
  }

  get rotation(): [number, number, number, number] {
    const [half, tilt] = [this.azimuth / 2, -this.elevation / 2];
    const [sy, cy, sx, cx] = [Math.sin(half), Math.cos(half), Math.sin(tilt), Math.cos(tilt)];
    return [cy * sx, sy * cx, -sy * sx, cy * cx];
  }

  get camera(): Camera {
    const { distance, isFlat, yfov, znear } = this;
    if (!isFlat) return { type: 'perspective', yfov, znear: Math.min(znear, distance / 20) };
    const ymag = distance * Math.tan(yfov / 2);
    return { type: 'orthographic', xmag: ymag, ymag, znear: 0, zfar: 2 * this.depth };
  }

  /** How far before and behind the target a flat view reaches, metres. */
  private get depth(): number {
    return Math.max(1000, this.distance * 20);
  }

  /** Puts a camera there, unless it stands there by this view already: what is not moved has nothing to be made anew. */
  place(node: SceneNode): void {
    const { azimuth, distance, elevation, isFlat, placed, target, yfov, znear } = this;
    const now = [...target, distance, azimuth, elevation, yfov, znear, Number(isFlat)];
    if (placed.node === node && now.every((value, i) => value === placed.by[i])) return;
    this.placed = { node, by: now };
    const at = add(this.target, this.back, this.isFlat ? this.depth : this.distance);
    node.setTranslation(...(at as [number, number, number]));
    node.setRotation(...this.rotation);
    node.setCamera(this.camera);
  }

  /** @param dx share of the picture's height */
  orbit(dx: number, dy: number): void {
    this.azimuth -= dx * Math.PI;
    this.elevation = Math.max(-STRAIGHT, Math.min(STRAIGHT, this.elevation + dy * Math.PI));
  }

  /** The place under the pointer goes along. @param dx share of the picture's height */
  pan(dx: number, dy: number): void {
    const span = 2 * Math.tan(this.yfov / 2) * this.distance;
    this.target = add(add(this.target, this.right, -dx * span), this.up, dy * span);
  }

  /** @param by above 0 goes nearer */
  zoom(by: number): void {
    this.distance = Math.max(1e-3, Math.min(1e7, this.distance * Math.exp(-by)));
  }

  /** Goes along with its target. @param way right, up and ahead, metres */
  fly([right, up, ahead]: Vec): void {
    this.target = add(add(add(this.target, this.right, right), [0, 1, 0], up), this.back, -ahead);
  }

  /** Turns about where it stands. */
  lookAround(dx: number, dy: number): void {
    const { position } = this;
    this.azimuth -= dx * Math.PI;
    this.elevation = Math.max(-STRAIGHT, Math.min(STRAIGHT, this.elevation + dy * Math.PI));
    this.target = minus(position, times(this.back, this.distance));
  }

  lookFrom(side: Side): void {
    [this.azimuth, this.elevation] = SIDE_ANGLES[side];
  }

  /** Moves so that a box fills the picture. @param aspect width over height */
  frame(bounds: Bounds, aspect: number): void {
    if (isEmptyBounds(bounds)) return;
    const { distance, target } = frameBounds(bounds, {
      yfov: this.yfov,
      aspect,
      direction: times(this.back, -1) as [number, number, number],
      margin: 0.12,
    });
    this.target = target as Vec;
    this.distance = Math.max(0.05, distance);
  }

  get right(): Vec {
    return turned(this.rotation, [1, 0, 0]);
  }

  get up(): Vec {
    return turned(this.rotation, [0, 1, 0]);
  }

  /** Where it stands, for a camera of the scene to stand there, in the world. */
  get standing(): { position: Vec; rotation: readonly number[] } {
    return { position: this.position, rotation: facing(times(this.back, -1) as [number, number, number]) };
  }
}
