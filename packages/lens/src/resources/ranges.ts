/** Which parts of a row of places are taken. The first gap that is long enough is taken first. */
export class Ranges {
  /** Gaps, in order: where each begins and ends. */
  private readonly gaps: { start: number; end: number }[] = [];
  private size = 0;

  /** Places there are. */
  get capacity(): number {
    return this.size;
  }

  /** @returns where the taken part begins; undefined where no gap is so long */
  take(length: number): number | undefined {
    const i = this.gaps.findIndex(({ start, end }) => end - start >= length);
    const gap = this.gaps[i];
    if (!gap) return undefined;
    const { start } = gap;
    gap.start += length;
    if (gap.start === gap.end) this.gaps.splice(i, 1);
    return start;
  }

  /** Gives a part back that was taken. */
  give(start: number, length: number): void {
    if (length === 0) return;
    let i = this.gaps.findIndex((gap) => gap.start > start);
    if (i < 0) i = this.gaps.length;
    this.gaps.splice(i, 0, { start, end: start + length });
    for (const k of [i, i - 1]) {
      const [gap, next] = [this.gaps[k], this.gaps[k + 1]];
      if (!gap || !next || gap.end !== next.start) continue;
      gap.end = next.end;
      this.gaps.splice(k + 1, 1);
    }
  }

  /** Adds places behind the last. */
  grow(capacity: number): void {
    const before = this.size;
    this.size = capacity;
    this.give(before, capacity - before);
  }
}
