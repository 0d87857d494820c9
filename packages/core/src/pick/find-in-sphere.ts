import { LensError } from '../errors/lens-error.js';
import type { Vec3 } from '../math/vectors.js';
import type { Scene } from '../scene/scene.js';
import type { SceneNode } from '../scene/scene-node.js';
import { eachTarget, type TargetOptions } from './targets.js';
import type { TriangleTree } from './triangle-tree.js';

/** Where a sphere touches a primitive of a node. */
export interface SphereHit {
  node: SceneNode;
  /** Number of the primitive in the node's mesh. */
  primitive: number;
  /** Number of the copy, in a swarm; else undefined. */
  instance?: number;
  /** Number of the triangle in the primitive's geometry. */
  triangle: number;
  /** The nearest to the sphere's centre, in the world. */
  point: Vec3;
  /** From there to the centre, of length 1; the triangle's own where the centre lies on it. */
  normal: Vec3;
  /** Metres from the centre. */
  distance: number;
}

/**
 * What is within a sphere of the world, as it stands and is bent now: of each primitive of a node its nearest point, the
 * nearest of them first. Both sides of surfaces count.
 *
 * @throws LensError `pick/sphere`
 */
export function findInSphere(
  scene: Scene,
  { center, radius }: { center: Vec3; radius: number },
  options: TargetOptions = {},
): SphereHit[] {
  if (!(radius >= 0 && radius < Infinity && center.every(Number.isFinite)))
    throw new LensError('pick/sphere', `a sphere of ${radius} m about [${center.join(', ')}] holds nothing`, {
      hint: 'Give finite numbers, and a radius of 0 or more.',
    });
  const [cx, cy, cz] = center;
  const hits: SphereHit[] = [];
  const reaches = (x: number, y: number, z: number, r: number): boolean =>
    (x - cx) ** 2 + (y - cy) ** 2 + (z - cz) ** 2 <= (r + radius) ** 2 * 1.00001;
  eachTarget(scene, options, reaches, ({ node, primitive, instance, tree, world, at }) => {
    const hit = nearestOf(tree, world, at, center, radius);
    if (hit) hits.push({ node, primitive, ...(instance === undefined ? {} : { instance }), ...hit });
  });
  return hits.sort((a, b) => a.distance - b.distance);
}

function nearestOf(
  tree: TriangleTree,
  m: ArrayLike<number>,
  at: number,
  center: Vec3,
  radius: number,
): Pick<SphereHit, 'triangle' | 'point' | 'normal' | 'distance'> | undefined {
  const { positions, corners, first, count, order } = tree;
  if (corners.length === 0) return undefined;
  let most = radius;
  let triangle = -1;
  const point: Vec3 = [0, 0, 0];
  const normal: Vec3 = [0, 1, 0];
  const [a, b, c]: [Vec3, Vec3, Vec3] = [
    [0, 0, 0],
    [0, 0, 0],
    [0, 0, 0],
  ];
  const place = (out: Vec3, v: number): void => {
    const [x, y, z] = [positions[v]!, positions[v + 1]!, positions[v + 2]!]; // a vertex, and twelve of the transform
    for (let k = 0; k < 3; k++) {
      const row = at + k * 4;
      out[k] = m[row]! * x + m[row + 1]! * y + m[row + 2]! * z + m[row + 3]!;
    }
  };
  const open = [0];
  for (let node = open.pop(); node !== undefined; node = open.pop()) {
    if (distanceToBox(tree, node, m, at, center) > most) continue;
    const [from, size] = [first[node]!, count[node]!]; // a node
    if (size === 0) {
      open.push(from, from + 1);
      continue;
    }
    for (let i = from; i < from + size; i++) {
      const corner = order[i]! * 3; // a triangle, here and below
      place(a, corners[corner]! * 3);
      place(b, corners[corner + 1]! * 3);
      place(c, corners[corner + 2]! * 3);
      nearestInTriangle(nearest, center, a, b, c);
      const distance = Math.hypot(nearest[0] - center[0], nearest[1] - center[1], nearest[2] - center[2]);
      if (distance > most || (distance === most && triangle >= 0)) continue;
      most = distance;
      triangle = order[i]!;
      for (let k = 0; k < 3; k++) {
        point[k] = nearest[k]!;
        normal[k] = center[k]! - nearest[k]!;
      }
      if (distance === 0) faceNormal(normal, a, b, c);
    }
  }
  if (triangle < 0) return undefined;
  const length = Math.hypot(...normal) || 1;
  return { triangle, point, normal: normal.map((part) => part / length) as Vec3, distance: most };
}

const nearest: Vec3 = [0, 0, 0];

function faceNormal(out: Vec3, a: Vec3, b: Vec3, c: Vec3): void {
  for (let k = 0; k < 3; k++) {
    const [i, j] = [(k + 1) % 3, (k + 2) % 3];
    out[k] = (b[i]! - a[i]!) * (c[j]! - a[j]!) - (b[j]! - a[j]!) * (c[i]! - a[i]!);
  }
}

/** Metres from a place to the box, in the world, around a node's box: at most those to what is in it. */
function distanceToBox(
  { boxes }: TriangleTree,
  node: number,
  m: ArrayLike<number>,
  at: number,
  p: Vec3,
): number {
  const o = node * 6;
  let sum = 0;
  for (let row = 0; row < 3; row++) {
    let low = m[at + row * 4 + 3]!; // twelve, and six of the box
    let high = low;
    for (let k = 0; k < 3; k++) {
      const [x, y] = [m[at + row * 4 + k]! * boxes[o + k]!, m[at + row * 4 + k]! * boxes[o + 3 + k]!];
      low += x < y ? x : y;
      high += x < y ? y : x;
    }
    const off = p[row]! < low ? low - p[row]! : p[row]! > high ? p[row]! - high : 0;
    sum += off * off;
  }
  return Math.sqrt(sum);
}

/** The place of a triangle that is nearest to a point (Ericson, "Real-Time Collision Detection", 2005, 5.1.5). */
export function nearestInTriangle(out: Vec3, p: Vec3, a: Vec3, b: Vec3, c: Vec3): void {
  let [d1, d2, d3, d4, d5, d6] = [0, 0, 0, 0, 0, 0];
  for (let k = 0; k < 3; k++) {
    const [ab, ac] = [b[k]! - a[k]!, c[k]! - a[k]!]; // three each
    d1 += ab * (p[k]! - a[k]!);
    d2 += ac * (p[k]! - a[k]!);
    d3 += ab * (p[k]! - b[k]!);
    d4 += ac * (p[k]! - b[k]!);
    d5 += ab * (p[k]! - c[k]!);
    d6 += ac * (p[k]! - c[k]!);
  }
  const vc = d1 * d4 - d3 * d2;
  const vb = d5 * d2 - d1 * d6;
  const va = d3 * d6 - d5 * d4;
  let [v, w] = [0, 0];
  if (d1 <= 0 && d2 <= 0) [v, w] = [0, 0];
  else if (d3 >= 0 && d4 <= d3) [v, w] = [1, 0];
  else if (d6 >= 0 && d5 <= d6) [v, w] = [0, 1];
  else if (vc <= 0 && d1 >= 0 && d3 <= 0) v = d1 / (d1 - d3);
  else if (vb <= 0 && d2 >= 0 && d6 <= 0) w = d2 / (d2 - d6);
  else if (va <= 0 && d4 - d3 >= 0 && d5 - d6 >= 0) {
    w = (d4 - d3) / (d4 - d3 + (d5 - d6));
    v = 1 - w;
  } else {
    v = vb / (va + vb + vc);
    w = vc / (va + vb + vc);
  }
  for (let k = 0; k < 3; k++) out[k] = a[k]! + (b[k]! - a[k]!) * v + (c[k]! - a[k]!) * w;
}
