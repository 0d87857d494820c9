/** Copies of a swarm that stand near one another: drawn together, thinned together. */
export interface Tiles {
  count: number;
  /** Number of the first copy, and how many there are, by tile. */
  first: Uint32Array;
  copies: Uint32Array;
  /**
   * By tile, 7 each, in the swarm's space: centre xyz; radii of spheres around where the copies stand, and around all that
   * they reach; smallest and largest factor by which they are scaled.
   */
  spheres: Float32Array;
}

export const TILE_FLOATS = 7;
/** Copies of a tile at most. */
const MOST_COPIES = 1024;

/**
 * Puts copies that stand near one another side by side: halves of a box, along its longest side, until each holds few
 * enough. Within a tile the order is left to chance, so that the first so many of it stand for all.
 *
 * @param order numbers of copies; put into order
 * @param places 3 a copy, by its number
 * @param seed the same seed gives the same order
 * @returns where each tile begins, and at last the end
 */
export function makeTiles(order: Uint32Array, places: Float32Array, seed: number): number[] {
  const starts: number[] = [];
  const stack: [from: number, to: number][] = [[0, order.length]];
  while (stack.length > 0) {
    const [from, to] = stack.pop()!; // length > 0
    if (to - from <= MOST_COPIES) {
      if (to > from) {
        shuffle(order, from, to, seed + from);
        starts.push(from);
      }
      continue;
    }
    const middle = halve(order, places, from, to);
    stack.push([middle, to], [from, middle]);
  }
  starts.push(order.length);
  return starts;
}

/** Copies below the middle of the longest side come first. @returns where the others begin */
function halve(order: Uint32Array, places: Float32Array, from: number, to: number): number {
  let axis = 0;
  let widest = -1;
  let middle = 0;
  for (let k = 0; k < 3; k++) {
    let [min, max] = [Infinity, -Infinity];
    for (let i = from; i < to; i++) {
      const value = places[order[i]! * 3 + k]!; // copies in range, here and below
      if (value < min) min = value;
      if (value > max) max = value;
    }
    if (max - min <= widest) continue;
    widest = max - min;
    axis = k;
    middle = (min + max) / 2;
  }
  let left = from;
  let right = to;
  while (left < right) {
    const copy = order[left]!;
    if (places[copy * 3 + axis]! < middle) left++;
    else {
      order[left] = order[--right]!;
      order[right] = copy;
    }
  }
  // All at one place: any half will do.
  return left === from || left === to ? (from + to) >> 1 : left;
}

/** Fisher and Yates, with a generator by Park and Miller (1988). */
function shuffle(order: Uint32Array, from: number, to: number, seed: number): void {
  let state = (seed % 2147483646) + 1;
  for (let i = to - 1; i > from; i--) {
    state = (state * 48271) % 2147483647;
    const j = from + (state % (i - from + 1));
    const copy = order[i]!;
    order[i] = order[j]!;
    order[j] = copy;
  }
}
