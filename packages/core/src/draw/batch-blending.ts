import type { Batch } from '../scene/drawables.js';

/** Which batches are blended, and so drawn back to front. */
export class BatchBlending {
  /** By batch: 1 when it is blended. */
  blends = new Uint8Array(0);
  /** How many are. */
  count = 0;

  reserve(batches: number): void {
    const blends = new Uint8Array(batches);
    blends.set(this.blends);
    this.blends = blends;
  }

  /**
   * Takes over what materials say, which may change at any time.
   *
   * @param changes hears of a batch before it is another
   */
  follow(batches: readonly (Batch | undefined)[], changes: (batch: number) => void): void {
    const { blends } = this;
    this.count = 0;
    for (let i = 0; i < batches.length; i++) {
      const now = batches[i]?.material.alphaMode === 'blend' ? 1 : 0;
      this.count += now;
      if (blends[i] === now) continue;
      changes(i);
      blends[i] = now;
    }
  }
}
