/** Spans that are remembered; who comes later looks at everything. */
const CAPACITY = 4096;

/**
 * Remembers which numbers (rows, items) changed, as spans, for readers that come by at their own pace: each keeps
 * its own place in the log. Writing and reading allocate nothing.
 */
export class SpanLog {
  /** Spans written so far: a reader's place, once it has read them all. */
  end = 0;
  private readonly first = new Uint32Array(CAPACITY);
  private readonly counts = new Uint32Array(CAPACITY);

  /** Notes numbers `first` to `first + count`. */
  add(first: number, count: number): void {
    const at = this.end % CAPACITY;
    this.first[at] = first;
    this.counts[at] = count;
    this.end++;
  }

  /** Makes every reader look at everything. */
  forget(): void {
    this.end += CAPACITY + 1;
  }

  /** Whether all that was written after `place` is still remembered. */
  holds(place: number): boolean {
    return this.end - place <= CAPACITY;
  }

  /** Numbers written after `place`, those written twice counted twice. */
  countSince(place: number): number {
    let sum = 0;
    for (let at = place; at < this.end; at++) sum += this.counts[at % CAPACITY]!; // within the capacity
    return sum;
  }

  /** The first number of the span at a place from `end - CAPACITY` on. */
  firstAt(place: number): number {
    return this.first[place % CAPACITY]!; // within the capacity
  }

  countAt(place: number): number {
    return this.counts[place % CAPACITY]!; // within the capacity
  }
}
