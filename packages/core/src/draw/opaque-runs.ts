import { IN_VIEW, KEY_DEPTH, KEY_MIRRORED, NONE } from '../columns/flags.js';
import { grown } from './grown.js';
import type { KeyWatch } from './key-watch.js';
import type { ItemPositions } from './item-positions.js';
import type { ItemSorter } from './item-sorter.js';

/**
 * Opaque items by batch, each batch in a run of positions with some room behind it: first those whose faces wind as they
 * should, then the mirrored ones. What comes is put at the end of its run, so the order front to back decays; when a
 * quarter is out of order, or a run is full, all are sorted again.
 */
export class OpaqueRuns {
  /** By order (batch * 2 + mirrored): where its run begins, and how many of its positions are used. */
  first = new Uint32Array(0);
  used = new Uint32Array(0);
  count = 0;
  /** Positions of all runs, room included. */
  room = 0;
  mustSort = true;
  private roomOf = new Uint32Array(0);
  /** Changes since the last sort that left something out of order. */
  private disorder = 0;

  constructor(private readonly positions: ItemPositions) {}

  forget(): void {
    this.count = 0;
    this.mustSort = true;
  }

  reserveBatches(capacity: number): void {
    this.first = grown(this.first, capacity * 2);
    this.used = grown(this.used, capacity * 2);
    this.roomOf = grown(this.roomOf, capacity * 2);
  }

  /** An item that stands where it did came nearer or went away. */
  moved(): void {
    this.disorder++;
  }

  /** @returns whether it stands somewhere already, and not only after the next sort */
  place(item: number, order: number): boolean {
    this.count++;
    this.disorder++;
    const count = this.used[order]!; // an order of a batch, here and below
    if (this.mustSort || count === this.roomOf[order]) {
      this.mustSort = true;
      return false;
    }
    this.used[order] = count + 1;
    this.positions.put(item, this.first[order]! + count);
    return true;
  }

  /** The last of its run takes its position. */
  unplace(item: number, at: number, order: number): void {
    this.count--;
    this.disorder++;
    const end = this.first[order]! + --this.used[order]!; // an order of a batch
    const last = this.positions.itemAt[end]!; // a position in use
    if (last !== item) this.positions.put(last, at);
  }

  /** Whether so much is out of order that it is worth sorting. */
  get isDecayed(): boolean {
    return this.disorder > 64 && this.disorder * 4 > this.count;
  }

  /**
   * Puts all items in view in their runs, coarsely front to back.
   *
   * @param itemBatch by item: its batch
   * @param blends by batch: 1 for those that are not opaque
   * @param behind positions that are needed behind all runs
   */
  sort(
    { key, itemCount }: KeyWatch,
    itemBatch: Uint32Array,
    blends: Uint8Array,
    sorter: ItemSorter,
    behind: number,
  ): void {
    const { first, used, roomOf, positions } = this;
    const { high, low, items: sorted } = sorter;
    this.disorder = 0;
    this.mustSort = false;
    used.fill(0);
    let count = 0;
    for (let item = 0; item < itemCount; item++) {
      const k = key[item]!; // an item in range, here and below
      if ((k & IN_VIEW) === 0) continue;
      const batch = itemBatch[item]!;
      if (blends[batch] === 1) continue;
      const order = (batch << 1) | ((k & KEY_MIRRORED) === 0 ? 0 : 1);
      positions.order[item] = order;
      used[order]!++;
      high[item] = order;
      // 11 bits of a float tell depths apart to one part in 8: what hides others first, in a single pass.
      low[item] = (k & KEY_DEPTH) >>> 18;
      sorted[count++] = item;
    }
    this.count = count;
    sorter.sort(sorted, count);
    let at = 0;
    for (let order = 0; order < first.length; order++) {
      const inUse = used[order]!;
      first[order] = at;
      roomOf[order] = inUse === 0 ? 0 : inUse + (inUse >> 3) + 4;
      at += roomOf[order]!;
    }
    this.room = at;
    positions.reserve(at + behind);
    for (let i = 0, to = 0, last: number = NONE; i < count; i++, to++) {
      const item = sorted[i]!;
      const order = high[item]!;
      if (order !== last) to = first[(last = order)]!;
      positions.put(item, to);
    }
  }
}
