import type { Bounds } from '@umber-lens/core/engine';
import type { GripName } from './grips.js';
import { add, dot, times, type Vec } from './vectors.js';

/** Bounds of a thing that others are put against. */
export interface Neighbour {
  name: string;
  bounds: Bounds;
}

/** Where a movement ends against another thing. */
export interface BoundsSnap {
  by: Vec;
  /** In words: `left on right of quay`; undefined where nothing is near. */
  words: string | undefined;
}

const SIDES = ['min', 'middle', 'max'] as const;
const WORDS = [
  ['left', 'middle', 'right'],
  ['foot', 'middle', 'top'],
  ['back', 'middle', 'front'],
] as const;

const sideOf = ({ max, min }: Bounds, side: (typeof SIDES)[number], k: number): number =>
  side === 'middle' ? (min[k]! + max[k]!) / 2 : (side === 'min' ? min : max)[k]!; // three

/**
 * A movement that ends where sides of what is moved lie on sides of other things: faces on faces, middles on middles. Along an axis it goes on
 * along it; in a plane or freely each axis of the world is taken by itself, if the plane holds it.
 *
 * @param moving bounds of what is moved, before it moves
 * @param by metres, as the hand has it
 * @param way the direction of an axis, or the normal of a plane
 * @param reach how far off a side is still taken, metres
 */
export function snapToBounds(
  moving: Bounds,
  by: Vec,
  grip: GripName,
  way: Vec,
  neighbours: readonly Neighbour[],
  reach: number,
): BoundsSnap {
  const isAxis = grip === 'x' || grip === 'y' || grip === 'z';
  const moved = movedBounds(moving, by);
  const near = neighbours.filter(({ bounds }) => isNear(moved, bounds, reach + sizeOf(moved)));
  const found: (Found & { axis: number })[] = [];
  for (const axis of [0, 1, 2]) {
    const slope = isAxis ? way[axis]! : 1; // three
    const isFree = isAxis ? Math.abs(slope) > 0.1 : grip === 'view' || Math.abs(way[axis]!) < 0.01;
    const nearest = isFree ? nearestSide(moved, near, axis, reach * Math.abs(slope)) : undefined;
    if (nearest) found.push({ ...nearest, axis });
  }
  if (found.length === 0) return { by, words: undefined };
  const words = (list: typeof found): string => list.map((one) => one.words).join(', ');
  if (!isAxis) {
    const whole = [...by] as [number, number, number];
    for (const { axis, gap } of found) whole[axis]! += gap; // three
    return { by: whole, words: words(found) };
  }
  found.sort((a, b) => Math.abs(a.gap / way[a.axis]!) - Math.abs(b.gap / way[b.axis]!)); // three
  const [first] = found as [(typeof found)[number]];
  return { by: add(by, times(way, first.gap / way[first.axis]!)), words: words([first]) }; // three
}

interface Found {
  gap: number;
  words: string;
}

/** The pair of sides that lie nearest to each other along an axis; faces before middles where both do. */
function nearestSide(
  moved: Bounds,
  others: readonly Neighbour[],
  axis: number,
  reach: number,
): Found | undefined {
  let best: (Found & { score: number }) | undefined;
  const words = WORDS[axis]!; // three
  for (const { bounds, name } of others)
    for (const [i, own] of SIDES.entries())
      for (const [k, side] of SIDES.entries()) {
        if ((own === 'middle') !== (side === 'middle')) continue;
        const gap = sideOf(bounds, side, axis) - sideOf(moved, own, axis);
        const score = Math.abs(gap) + (own === 'middle' ? reach * 0.01 : 0);
        if (Math.abs(gap) > reach || (best && best.score <= score)) continue;
        best = { gap, score, words: `${words[i]!} on ${words[k]!} of ${name}` }; // three
      }
  return best;
}

const movedBounds = ({ max, min }: Bounds, by: Vec): Bounds => ({
  min: [min[0] + by[0], min[1] + by[1], min[2] + by[2]],
  max: [max[0] + by[0], max[1] + by[1], max[2] + by[2]],
});

const sizeOf = ({ max, min }: Bounds): number => Math.sqrt(dot(spanOf(min, max), spanOf(min, max)));
const spanOf = (min: ArrayLike<number>, max: ArrayLike<number>): Vec => [
  max[0]! - min[0]!, // three each
  max[1]! - min[1]!,
  max[2]! - min[2]!,
];

/** What stands far off has no say. */
const isNear = (a: Bounds, b: Bounds, gap: number): boolean =>
  [0, 1, 2].every((k) => a.min[k]! - gap <= b.max[k]! && b.min[k]! - gap <= a.max[k]!); // three
