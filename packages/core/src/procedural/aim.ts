import { LensError } from '../errors/lens-error.js';
import { affineInvert, affinePoint, affineToTrs } from '../math/affine.js';
import { multiplyRotations, slerp } from '../math/quaternions.js';
import { facing } from '../math/rotation.js';
import { cross, dot, type Vec3 } from '../math/vectors.js';
import type { SceneNode } from '../scene/scene-node.js';

/** What a node turns to: a place in the world, or another node. */
export type AimGoal = readonly [number, number, number] | SceneNode;

export interface AimOptions {
  /** Which of the node's own directions points at the goal. Default -Z, as of cameras and lights. */
  axis?: Vec3;
  /** Which way is up, in the parent's space. Default +Y. */
  up?: Vec3;
  /** How far it turns there, 0 to 1. Default 1. */
  weight?: number;
}

/**
 * Turns a node so that it points at a place in the world, whatever its parents do. A goal where the node stands changes
 * nothing.
 *
 * @throws LensError `motion/flat-parent` below a parent with a scale of zero
 */
export function aim(
  node: SceneNode,
  goal: AimGoal,
  { axis = [0, 0, -1], up = [0, 1, 0], weight = 1 }: AimOptions = {},
): void {
  const place = placeOf(goal);
  const inverse = new Float32Array(12);
  const parent = (node.parent ?? node).readWorld(new Float32Array(12));
  if (!affineInvert(inverse, 0, parent, 0))
    throw new LensError('motion/flat-parent', `the parent of "${node.name}" has a scale of zero`);
  const within = [0, 0, 0];
  affinePoint(within, inverse, 0, place[0], place[1], place[2]);
  const own = node.readTranslation([0, 0, 0]);
  const direction = within.map((v, k) => v - own[k]!) as Vec3; // three
  if (!(Math.hypot(...direction) > 1e-9)) return;
  const towards = facing(direction, up);
  const [x, y, z, w] = facing(axis, Math.abs(axis[1]) > 0.99 * Math.hypot(...axis) ? [0, 0, 1] : [0, 1, 0]);
  const wanted = product(towards, [-x, -y, -z, w]);
  const now = node.readRotation([0, 0, 0, 1]);
  slerp(now, 0, now, 0, wanted, 0, Math.min(1, Math.max(0, weight)));
  node.setRotation(now[0]!, now[1]!, now[2]!, now[3]!);
}

export interface TwoBoneIkOptions {
  /** A place in the world towards which the middle joint bends. Left out: as it is bent already. */
  pole?: AimGoal;
}

/**
 * Bends a limb of two bones so that its tip comes to a goal: `root` turns, `middle` bends, `tip` is a node below it. What is
 * too far is reached for with the limb stretched. The law of cosines places the middle joint, the shortest turns bring
 * the bones there.
 *
 * @returns metres from the tip to the goal afterwards: 0 when it was reached
 * @throws LensError `motion/limb` when the tip is not below the middle joint and this below the root, or a bone has no length
 */
export function twoBoneIk(
  root: SceneNode,
  middle: SceneNode,
  tip: SceneNode,
  goal: AimGoal,
  { pole }: TwoBoneIkOptions = {},
): number {
  if (!isBelow(middle, root) || !isBelow(tip, middle))
    throw new LensError(
      'motion/limb',
      `"${tip.name}" is no tip of a limb of "${root.name}" and "${middle.name}"`,
      {
        hint: 'The middle joint hangs below the root, the tip below the middle joint.',
      },
    );
  const [a, b, c, t] = [positionOf(root), positionOf(middle), positionOf(tip), placeOf(goal)];
  const [upper, lower] = [length(minus(b, a)), length(minus(c, b))];
  if (!(upper > 1e-9 && lower > 1e-9))
    throw new LensError('motion/limb', `a bone of the limb of "${root.name}" has no length`);
  const way = minus(t, a);
  const distance = length(way);
  if (distance < 1e-9) return length(minus(c, t));
  const along = way.map((v) => v / distance) as Vec3;
  const reached = Math.min(upper + lower, Math.max(Math.abs(upper - lower), distance));
  const x = (upper * upper - lower * lower + reached * reached) / (2 * reached);
  const side = across(pole ? minus(placeOf(pole), a) : minus(b, a), along);
  const height = Math.sqrt(Math.max(0, upper * upper - x * x));
  const elbow = a.map((v, k) => v + along[k]! * x + side[k]! * height) as Vec3; // three
  const end = a.map((v, k) => v + along[k]! * reached) as Vec3; // three
  turnTowards(root, minus(b, a), minus(elbow, a));
  const now = positionOf(middle);
  turnTowards(middle, minus(positionOf(tip), now), minus(end, now));
  return length(minus(positionOf(tip), t));
}

/** Turns a node by the shortest turn that brings one direction of the world to another. */
function turnTowards(node: SceneNode, from: Vec3, to: Vec3): void {
  const [p, q] = [length(from), length(to)];
  const cosine = dot(from, to) / (p * q);
  const axis: Vec3 =
    cosine > -0.999999
      ? cross(from, to)
      : (across([from[1], from[2], from[0]], from.map((v) => v / p) as Vec3).map((v) => v * p * q) as Vec3);
  const w = cosine > -0.999999 ? p * q * (1 + cosine) : 0;
  const size = Math.hypot(...axis, w);
  if (!(size > 0)) return;
  const turn = [...axis.map((v) => v / size), w / size];
  // The same turn as the parent sees it.
  const [x, y, z, r] = worldRotation(node.parent ?? node) as [number, number, number, number];
  const within = product(product([-x, -y, -z, r], turn), [x, y, z, r]);
  const next = product(within, node.readRotation([0, 0, 0, 1]));
  node.setRotation(next[0]!, next[1]!, next[2]!, next[3]!);
}

function worldRotation(node: SceneNode): number[] {
  const rotation = [0, 0, 0, 1];
  affineToTrs(node.readWorld(new Float32Array(12)), 0, [0, 0, 0], 0, rotation, 0, [1, 1, 1], 0);
  return rotation;
}

function isBelow(node: SceneNode, top: SceneNode): boolean {
  for (let at = node.parent; at; at = at.parent) if (at === top) return true;
  return false;
}

const placeOf = (goal: AimGoal): Vec3 => ('row' in goal ? positionOf(goal) : [goal[0], goal[1], goal[2]]);
const positionOf = (node: SceneNode): Vec3 => node.readWorldPosition([0, 0, 0]) as unknown as Vec3;
const minus = (a: Vec3, b: Vec3): Vec3 => [a[0] - b[0], a[1] - b[1], a[2] - b[2]];
const length = (v: Vec3): number => Math.hypot(v[0], v[1], v[2]);

/** What of a vector lies across a direction, of length 1; any such where there is nothing. */
function across(v: Vec3, along: Vec3): Vec3 {
  const share = dot(v, along);
  const rest = v.map((part, k) => part - share * along[k]!) as Vec3; // three
  const size = length(rest);
  if (size > 1e-6 * Math.max(1e-9, length(v))) return rest.map((part) => part / size) as Vec3;
  return across(Math.abs(along[0]) < 0.9 ? [1, 0, 0] : [0, 1, 0], along);
}

function product(a: ArrayLike<number>, b: ArrayLike<number>): number[] {
  const out = [0, 0, 0, 1];
  multiplyRotations(out, 0, a, 0, b, 0);
  return out;
}
