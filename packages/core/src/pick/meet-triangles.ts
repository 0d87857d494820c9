import type { TriangleTree } from './triangle-tree.js';

/** What a ray meets of a geometry, in the geometry's own space. */
export interface TriangleHit {
  /** In the geometry's order. */
  triangle: number;
  /** Along the ray, in lengths of its direction. */
  distance: number;
  /** Shares of the second and the third corner. */
  u: number;
  v: number;
}

export interface RayOptions {
  /** Leaves out triangles that are seen from behind (counted clockwise): 1, from in front: -1; both: 0. */
  cull: -1 | 0 | 1;
  /** In lengths of the direction. */
  least: number;
  most: number;
}

/**
 * The nearest triangle on a ray.
 *
 * @param out takes what was found
 * @returns whether something was
 */
export function meetTriangles(
  tree: TriangleTree,
  origin: ArrayLike<number>,
  direction: ArrayLike<number>,
  options: RayOptions,
  out: TriangleHit,
): boolean {
  const { boxes, first, count, order } = tree;
  const [ox, oy, oz] = [origin[0]!, origin[1]!, origin[2]!]; // three each
  const [ix, iy, iz] = [1 / direction[0]!, 1 / direction[1]!, 1 / direction[2]!];
  let most = options.most;
  let isFound = false;
  const enter = (node: number): number => {
    const at = node * 6;
    let [near, far] = [options.least, most];
    for (let k = 0; k < 3; k++) {
      const [o, i] = k === 0 ? [ox, ix] : k === 1 ? [oy, iy] : [oz, iz];
      const a = (boxes[at + k]! - o) * i; // a node
      const b = (boxes[at + 3 + k]! - o) * i;
      // A ray within a side of the box gives 0 times infinity there, which says nothing.
      if (a === a && b === b) {
        near = Math.max(near, Math.min(a, b));
        // A hair longer, for what rounding takes off (Ize, "Robust BVH Ray Traversal", 2013).
        far = Math.min(far, Math.max(a, b) * 1.0000004);
      }
    }
    return near <= far ? near : Infinity;
  };
  const open: number[] = [0];
  while (open.length > 0) {
    const node = open.pop()!; // there is one
    if (enter(node) === Infinity) continue;
    const size = count[node]!; // a node
    if (size === 0) {
      const child = first[node]!;
      const [a, b] = [enter(child), enter(child + 1)];
      // The nearer one is looked into first.
      if (a <= b) {
        if (b < Infinity) open.push(child + 1);
        if (a < Infinity) open.push(child);
      } else {
        if (a < Infinity) open.push(child);
        open.push(child + 1);
      }
      continue;
    }
    for (let i = first[node]!; i < first[node]! + size; i++) {
      if (!meetTriangle(tree, order[i]!, origin, direction, options.cull, options.least, most, out)) continue;
      most = out.distance;
      isFound = true;
    }
  }
  return isFound;
}

/** One triangle on a ray (Möller and Trumbore, "Fast, Minimum Storage Ray/Triangle Intersection", 1997). */
export function meetTriangle(
  { positions: p, corners }: TriangleTree,
  triangle: number,
  o: ArrayLike<number>,
  d: ArrayLike<number>,
  cull: -1 | 0 | 1,
  least: number,
  most: number,
  out: TriangleHit,
): boolean {
  const a = corners[triangle * 3]! * 3; // a triangle, and vertices of it, here and below
  const b = corners[triangle * 3 + 1]! * 3;
  const c = corners[triangle * 3 + 2]! * 3;
  const e1x = p[b]! - p[a]!;
  const e1y = p[b + 1]! - p[a + 1]!;
  const e1z = p[b + 2]! - p[a + 2]!;
  const e2x = p[c]! - p[a]!;
  const e2y = p[c + 1]! - p[a + 1]!;
  const e2z = p[c + 2]! - p[a + 2]!;
  const [dx, dy, dz] = [d[0]!, d[1]!, d[2]!];
  const px = dy * e2z - dz * e2y;
  const py = dz * e2x - dx * e2z;
  const pz = dx * e2y - dy * e2x;
  const det = e1x * px + e1y * py + e1z * pz;
  // Above 0 it is seen from in front.
  if (det === 0 || det * cull < 0) return false;
  const f = 1 / det;
  const sx = o[0]! - p[a]!;
  const sy = o[1]! - p[a + 1]!;
  const sz = o[2]! - p[a + 2]!;
  const u = f * (sx * px + sy * py + sz * pz);
  if (!(u >= 0 && u <= 1)) return false;
  const qx = sy * e1z - sz * e1y;
  const qy = sz * e1x - sx * e1z;
  const qz = sx * e1y - sy * e1x;
  const v = f * (dx * qx + dy * qy + dz * qz);
  if (!(v >= 0 && u + v <= 1)) return false;
  const distance = f * (e2x * qx + e2y * qy + e2z * qz);
  if (!(distance >= least && distance < most)) return false;
  out.triangle = triangle;
  out.distance = distance;
  out.u = u;
  out.v = v;
  return true;
}
