/**
 * All that a number may be while a shader runs: one of the components of a vertex's place, or nothing, and from there on
 * between two numbers, and by at most `share` of the vertex's distance from its origin to either side. Interval arithmetic
 * (Moore, "Interval Analysis", 1966) that keeps hold of what it began with, so that `p + small` is known to be near `p`.
 */
export interface Extent {
  /** 0 to 2: x, y, z of the place; -1: none. */
  anchor: number;
  low: number;
  high: number;
  share: number;
}

export const extent = (low: number, high: number, share = 0): Extent => ({ anchor: -1, low, high, share });
export const ANYTHING = extent(-Infinity, Infinity);
export const UNIT = extent(-1, 1);
export const FROM_0_TO_1 = extent(0, 1);
export const exactly = (value: number): Extent => extent(value, value);
export const placeAt = (anchor: number): Extent => ({ anchor, low: 0, high: 0, share: 0 });

/** Without its anchor: the component of a place is at most as far away as the place. */
export const loose = ({ anchor, low, high, share }: Extent): Extent =>
  extent(low, high, share + (anchor < 0 ? 0 : 1));

/** The most that it is from 0, where no share of a place is in it; else Infinity. */
const most = ({ low, high, share, anchor }: Extent): number =>
  share > 0 || anchor >= 0 ? Infinity : Math.max(Math.abs(low), Math.abs(high));

/** 0 times anything is 0, however much there may be of it. */
const times = (a: number, b: number): number => (a === 0 || b === 0 ? 0 : a * b);

export const isPlain = ({ anchor, share }: Extent): boolean => anchor < 0 && share === 0;

export function add(a: Extent, b: Extent): Extent {
  if (a.anchor >= 0 && b.anchor >= 0) return add(loose(a), loose(b));
  const anchor = Math.max(a.anchor, b.anchor);
  return { anchor, low: a.low + b.low, high: a.high + b.high, share: a.share + b.share };
}

export function negate({ anchor, low, high, share }: Extent): Extent {
  return extent(-high, -low, share + (anchor < 0 ? 0 : 1));
}

export function subtract(a: Extent, b: Extent): Extent {
  if (a.anchor >= 0 && a.anchor === b.anchor)
    return extent(a.low - b.high, a.high - b.low, a.share + b.share);
  return add(a, negate(b));
}

export function multiply(a: Extent, b: Extent): Extent {
  const [first, second] = isPlain(b) ? [a, b] : [b, a];
  if (!isPlain(second)) return ANYTHING;
  const ends = [
    times(first.low, second.low),
    times(first.low, second.high),
    times(first.high, second.low),
    times(first.high, second.high),
  ];
  const low = Math.min(...ends);
  const high = Math.max(...ends);
  const share = times(first.share, most(second));
  if (first.anchor < 0) return extent(low, high, share);
  // c p is p and c - 1 times p: near p where c is near 1.
  const moved = Math.max(Math.abs(second.low - 1), Math.abs(second.high - 1));
  if (moved < 1) return { anchor: first.anchor, low, high, share: share + moved };
  return extent(low, high, share + most(second));
}

export function divide(a: Extent, b: Extent): Extent {
  if (!isPlain(b) || (b.low <= 0 && b.high >= 0)) return ANYTHING;
  return multiply(a, extent(1 / b.high, 1 / b.low));
}

/** All that is in either. */
export function join(a: Extent, b: Extent): Extent {
  if (a.anchor !== b.anchor) return join(loose(a), loose(b));
  return {
    anchor: a.anchor,
    low: Math.min(a.low, b.low),
    high: Math.max(a.high, b.high),
    share: Math.max(a.share, b.share),
  };
}

/** A function that never falls, of plain numbers. */
export const rising =
  (f: (x: number) => number) =>
  (a: Extent): Extent =>
    isPlain(a) ? extent(f(a.low), f(a.high)) : ANYTHING;
