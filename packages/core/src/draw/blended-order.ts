import { KEY_DEPTH } from '../columns/flags.js';
import { grown } from './grown.js';
import type { ItemPositions } from './item-positions.js';
import type { ItemSorter } from './item-sorter.js';

/** Blended items, back to front, behind the opaque ones. */
export class BlendedOrder {
  items = new Uint32Array(0);
  count = 0;
  mustSort = false;

  constructor(private readonly positions: ItemPositions) {}

  forget(): void {
    this.count = 0;
    this.mustSort = true;
  }

  reserveItems(capacity: number): void {
    this.items = grown(this.items, capacity);
  }

  place(item: number): void {
    this.positions.position[item] = this.count;
    this.items[this.count++] = item;
    this.mustSort = true;
  }

  unplace(item: number, at: number): void {
    const last = this.items[--this.count]!; // it has this one
    this.items[at] = last;
    if (last !== item) this.positions.position[last] = at;
    this.mustSort = true;
  }

  /**
   * Nearest depths are told apart to one part in 8192.
   *
   * @param from the first position behind the opaque ones
   * @param places by row, its place in the tree: they count in place of depths; undefined: depths do
   * @param orders by batch: see `Material.drawOrder`; undefined where all are 0
   * @param overs by batch: see `Apart.over`; undefined where all are 0
   */
  sort(
    key: Uint32Array,
    sorter: ItemSorter,
    from: number,
    orders: Int8Array | undefined,
    overs: Uint8Array | undefined,
    places?: Uint32Array,
    itemRow?: Int32Array,
  ): void {
    const { items, count, positions } = this;
    const { high, low } = sorter;
    this.mustSort = false;
    positions.reserve(from + count);
    for (let i = 0; i < count; i++) {
      const item = items[i]!; // i < count, here and below
      const order = positions.order[item]!;
      const depth = places ? places[itemRow![item]!]! : 0x3fffff - ((key[item]! & KEY_DEPTH) >>> 8); // given together
      // Where some come before others, depths are told apart less finely.
      high[item] = orders
        ? ((orders[order >> 1]! + 8) << 18) | (places ? Math.min(depth, 0x3ffff) : depth >>> 4)
        : depth;
      // What lies over something at the same depth comes after it.
      low[item] = overs ? ((overs[order >> 1]! << 24) >>> 0) + (order & 0xffffff) : order;
    }
    sorter.sort(items, count);
    for (let i = 0; i < count; i++) {
      const item = items[i]!;
      positions.put(item, from + i);
      positions.position[item] = i;
    }
  }
}
