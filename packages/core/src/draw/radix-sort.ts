/**
 * Sorts numbers of items by two unsigned keys, `high` before `low`: least significant digit first,
 * 11 bits a pass, stable. Digits that are the same everywhere cost no pass, and an order that is
 * right already costs one look. Nothing is allocated once it has grown to the number of items.
 */
export class RadixSort {
  private from = new Uint32Array(0);
  private to = new Uint32Array(0);
  private readonly counts = new Uint32Array(2048);

  /**
   * @param high keys by item; 22 bits count
   * @param low keys by item; 22 bits count
   * @param items the item numbers to sort, in place, the first `n` of them
   */
  sort(high: Uint32Array, low: Uint32Array, items: Uint32Array, n: number): void {
    if (isSorted(high, low, items, n)) return;
    if (this.from.length < n) {
      this.from = new Uint32Array(items.length);
      this.to = new Uint32Array(items.length);
    }
    let { from, to } = this;
    for (let i = 0; i < n; i++) from[i] = items[i]!; // i < n <= length, here and below
    for (let pass = 0; pass < 4; pass++) {
      const keys = pass < 2 ? low : high;
      if (!this.pass(keys, (pass & 1) * 11, from, to, n)) continue;
      [from, to] = [to, from];
    }
    for (let i = 0; i < n; i++) items[i] = from[i]!;
  }

  /** One counting pass; false when every item has the same digit and nothing was written. */
  private pass(keys: Uint32Array, shift: number, from: Uint32Array, to: Uint32Array, n: number): boolean {
    const { counts } = this;
    counts.fill(0);
    for (let i = 0; i < n; i++) counts[(keys[from[i]!]! >>> shift) & 2047]!++;
    if (counts[(keys[from[0]!]! >>> shift) & 2047] === n) return false;
    let start = 0;
    for (let digit = 0; digit < 2048; digit++) {
      const count = counts[digit]!;
      counts[digit] = start;
      start += count;
    }
    for (let i = 0; i < n; i++) {
      const item = from[i]!;
      to[counts[(keys[item]! >>> shift) & 2047]!++] = item;
    }
    return true;
  }
}

function isSorted(high: Uint32Array, low: Uint32Array, items: Uint32Array, n: number): boolean {
  for (let i = 1; i < n; i++) {
    const a = items[i - 1]!;
    const b = items[i]!;
    if (high[a]! > high[b]! || (high[a] === high[b] && low[a]! > low[b]!)) return false;
  }
  return true;
}
