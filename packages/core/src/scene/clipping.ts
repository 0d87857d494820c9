import { LensError } from '../errors/lens-error.js';
import type { Numbers } from '../math/vectors.js';
import type { SceneNode } from './scene-node.js';

/** Most planes that cut at once. */
export const MOST_PLANES = 6;

/**
 * Planes that cut things open: what lies behind one of them is neither drawn, nor throws shadows, nor is picked. The cuts are
 * left open: what is within is seen.
 */
export interface Clipping {
  /**
   * Up to six planes of the world, each [x, y, z, w]: a place stays where x·X + y·Y + z·Z + w is not below 0. Normals
   * need not have length 1. [0, -1, 0, 2] takes away what is above 2 m.
   */
  planes: readonly Numbers[];
  /** Only this node is cut, with all below it. Left out: everything. */
  node?: SceneNode | undefined;
}

/** The planes side by side, stride 4. @throws LensError `clipping/planes` for what are none, and for more than six */
export function planesOf({ planes }: Clipping): Float32Array {
  const isPlane = (plane: Numbers): boolean =>
    plane.length === 4 &&
    Array.from(plane).every(Number.isFinite) &&
    Math.hypot(plane[0]!, plane[1]!, plane[2]!) > 0;
  if (planes.length > MOST_PLANES || !planes.every(isPlane)) {
    const wrong = planes.findIndex((plane) => !isPlane(plane));
    throw new LensError(
      'clipping/planes',
      planes.length > MOST_PLANES
        ? `things cannot be cut by ${planes.length} planes`
        : `plane ${wrong} is [${Array.from(planes[wrong]!).join(', ')}]`, // it was found
      {
        hint: `Give up to ${MOST_PLANES} planes of four finite numbers: a normal that points to what stays, and a distance.`,
      },
    );
  }
  return Float32Array.from(planes.flatMap((plane) => Array.from(plane)));
}

/** Whether a node is cut. */
export function isCut({ node: top }: Clipping, node: SceneNode): boolean {
  if (!top) return true;
  for (let at: SceneNode | undefined = node; at; at = at.parent) if (at === top) return true;
  return false;
}

/**
 * Which part of a ray planes leave, within another part of it.
 *
 * @param planes stride 4
 * @param way of length 1
 * @param out the part: distances from the origin; the first is beyond the second where nothing is left
 */
export function clipRay(
  planes: ArrayLike<number>,
  origin: ArrayLike<number>,
  way: ArrayLike<number>,
  out: [near: number, far: number],
): void {
  for (let p = 0; p < planes.length; p += 4) {
    // Four numbers a plane, three of a place.
    const height =
      planes[p]! * origin[0]! + planes[p + 1]! * origin[1]! + planes[p + 2]! * origin[2]! + planes[p + 3]!;
    const slope = planes[p]! * way[0]! + planes[p + 1]! * way[1]! + planes[p + 2]! * way[2]!;
    if (slope > 0) out[0] = Math.max(out[0], -height / slope);
    else if (slope < 0) out[1] = Math.min(out[1], height / -slope);
    else if (height < 0) out[0] = Infinity;
  }
}
