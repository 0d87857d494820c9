import { RadixSort } from './radix-sort.js';

/** Room for sorting items by two keys of their own. */
export class ItemSorter {
  /** By item: the keys, the first before the second. */
  high = new Uint32Array(0);
  low = new Uint32Array(0);
  /** Numbers of items, for those who sort all that there are. */
  items = new Uint32Array(0);
  private readonly radix = new RadixSort();

  reserve(capacity: number): void {
    this.high = new Uint32Array(capacity);
    this.low = new Uint32Array(capacity);
    this.items = new Uint32Array(capacity);
  }

  /** @param items the first `count` of which are sorted in place */
  sort(items: Uint32Array, count: number): void {
    this.radix.sort(this.high, this.low, items, count);
  }
}
