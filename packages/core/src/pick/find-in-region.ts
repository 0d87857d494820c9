import { LensError } from '../errors/lens-error.js';
import type { Bounds } from '../math/bounds.js';
import { planesOf, isCut } from '../scene/clipping.js';
import type { Scene } from '../scene/scene.js';
import type { SceneNode } from '../scene/scene-node.js';
import { eachTarget, type TargetOptions } from './targets.js';
import type { TriangleTree } from './triangle-tree.js';

/**
 * A convex part of the world: planes by xyz and distance, stride 4, that point inwards. A point p lies within where
 * dot(xyz, p) + distance >= 0 for all of them.
 */
export type ConvexRegion = ArrayLike<number>;

export interface FindOptions extends TargetOptions {
  /** Whether only nodes count that lie wholly within. Default false: some of their surface is enough. */
  contained?: boolean;
}

/** The nodes whose surface is in a box of the world, as they stand and are bent now; in the scene's order. */
export function findInBox(scene: Scene, { min, max }: Bounds, options: FindOptions = {}): SceneNode[] {
  const planes = [0, 1, 2].flatMap((k) => {
    const axis = [0, 1, 2].map((i) => (i === k ? 1 : 0));
    return [...axis, -min[k]!, ...axis.map((part) => -part), max[k]!]; // three numbers each
  });
  return findInRegion(scene, planes, options);
}

/**
 * The nodes whose surface is in a convex part of the world, as they stand and are bent now; in the scene's order.
 * `cameraFrustum` gives the one that a rectangle of a picture shows.
 *
 * @throws LensError `pick/region` for planes that are not finite numbers, four each
 */
export function findInRegion(scene: Scene, region: ConvexRegion, options: FindOptions = {}): SceneNode[] {
  const planes = Float64Array.from(region);
  if (planes.length % 4 !== 0 || !planes.every(Number.isFinite))
    throw new LensError('pick/region', `a region of ${planes.length} numbers cannot be looked into`, {
      hint: 'Give four finite numbers a plane: a normal that points inwards, and a distance.',
    });
  const { contained = false } = options;
  const lengths = Array.from(
    planes.filter((_, i) => i % 4 === 0),
    (_, i) => Math.hypot(planes[i * 4]!, planes[i * 4 + 1]!, planes[i * 4 + 2]!),
  );
  const found = new Set<SceneNode>();
  const cut = new Set<SceneNode>();
  const reaches = (x: number, y: number, z: number, radius: number): boolean =>
    contained ||
    lengths.every((length, i) => {
      const p = i * 4;
      return planes[p]! * x + planes[p + 1]! * y + planes[p + 2]! * z + planes[p + 3]! >= -radius * length; // four each
    });
  const { clipping } = scene;
  // What is cut away is in no part of the world; whether something lies wholly within goes by all of it.
  const cutPlanes = clipping && !contained ? Float64Array.from([...planes, ...planesOf(clipping)]) : planes;
  eachTarget(scene, options, reaches, ({ node, tree, world, at }) => {
    if (tree.corners.length === 0 || cut.has(node) || (!contained && found.has(node))) return;
    const own = clipping && cutPlanes !== planes && isCut(clipping, node) ? cutPlanes : planes;
    const local = new Float64Array(own.length);
    toLocal(local, own, world, at);
    if (contained ? isWithin(tree, local) : isMet(tree, local)) found.add(node);
    else if (contained) cut.add(node);
  });
  return [...found].filter((node) => !cut.has(node));
}

/** Planes of the world in a node's own space: rows of the transform by the plane. */
function toLocal(out: Float64Array, planes: Float64Array, m: ArrayLike<number>, at: number): void {
  for (let p = 0; p < planes.length; p += 4) {
    for (let k = 0; k < 4; k++) {
      out[p + k] = k === 3 ? planes[p + 3]! : 0; // four each, and twelve of the transform
      for (let row = 0; row < 3; row++) out[p + k]! += planes[p + row]! * m[at + row * 4 + k]!;
    }
  }
}

const OUTSIDE = 0;
const ACROSS = 1;
const WITHIN = 2;

/** How a node's box lies to planes: `ACROSS` may be outside all the same. */
function sideOf({ boxes }: TriangleTree, node: number, planes: Float64Array): number {
  const at = node * 6;
  let side = WITHIN;
  for (let p = 0; p < planes.length; p += 4) {
    let [least, most] = [planes[p + 3]!, planes[p + 3]!];
    for (let k = 0; k < 3; k++) {
      const a = planes[p + k]! * boxes[at + k]!;
      const b = planes[p + k]! * boxes[at + 3 + k]!;
      least += a < b ? a : b;
      most += a < b ? b : a;
    }
    if (most < 0) return OUTSIDE;
    if (least < 0) side = ACROSS;
  }
  return side;
}

/** Whether some of the surface is within planes. */
function isMet(tree: TriangleTree, planes: Float64Array): boolean {
  const { first, count, order } = tree;
  const open = [0];
  for (let node = open.pop(); node !== undefined; node = open.pop()) {
    const side = sideOf(tree, node, planes);
    if (side === OUTSIDE) continue;
    if (side === WITHIN) return true;
    const [from, size] = [first[node]!, count[node]!]; // a node
    if (size === 0) open.push(from, from + 1);
    else for (let i = from; i < from + size; i++) if (isTriangleMet(tree, order[i]!, planes)) return true;
  }
  return false;
}

/** Whether all of the surface is. */
function isWithin(tree: TriangleTree, planes: Float64Array): boolean {
  const { positions, corners, first, count, order } = tree;
  const open = [0];
  for (let node = open.pop(); node !== undefined; node = open.pop()) {
    const side = sideOf(tree, node, planes);
    if (side === OUTSIDE) return false;
    if (side === WITHIN) continue;
    const [from, size] = [first[node]!, count[node]!]; // a node
    if (size === 0) {
      open.push(from, from + 1);
      continue;
    }
    for (let i = from * 3; i < (from + size) * 3; i++) {
      const v = corners[order[Math.floor(i / 3)]! * 3 + (i % 3)]! * 3; // a corner
      for (let p = 0; p < planes.length; p += 4) if (above(planes, p, positions, v) < 0) return false;
    }
  }
  return true;
}

const above = (planes: Float64Array, p: number, points: ArrayLike<number>, v: number): number =>
  planes[p]! * points[v]! +
  planes[p + 1]! * points[v + 1]! +
  planes[p + 2]! * points[v + 2]! +
  planes[p + 3]!; // four, three

/** Cuts the triangle by one plane after the other (Sutherland and Hodgman, "Reentrant Polygon Clipping", 1974). */
function isTriangleMet(
  { positions, corners }: TriangleTree,
  triangle: number,
  planes: Float64Array,
): boolean {
  let polygon: number[] = [];
  for (let c = 0; c < 3; c++) {
    const v = corners[triangle * 3 + c]! * 3; // a triangle
    polygon.push(positions[v]!, positions[v + 1]!, positions[v + 2]!);
  }
  for (let p = 0; p < planes.length && polygon.length > 0; p += 4) {
    const kept: number[] = [];
    for (let a = 0; a < polygon.length; a += 3) {
      const b = (a + 3) % polygon.length;
      const [da, db] = [above(planes, p, polygon, a), above(planes, p, polygon, b)];
      if (da >= 0) kept.push(polygon[a]!, polygon[a + 1]!, polygon[a + 2]!); // three a corner, here and below
      if (da >= 0 === db >= 0) continue;
      const share = da / (da - db);
      for (let k = 0; k < 3; k++) kept.push(polygon[a + k]! + (polygon[b + k]! - polygon[a + k]!) * share);
    }
    polygon = kept;
  }
  return polygon.length > 0;
}
