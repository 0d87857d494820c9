import { isBlended } from '../material/draw-state.js';
import { type Batch, orderOf } from '../scene/drawables.js';

/** Which batches are blended, and so drawn back to front. */
export class BatchBlending {
  /** By batch: 1 when it is blended. */
  blends = new Uint8Array(0);
  /** By batch: see `Material.drawOrder`; undefined where all are 0. */
  orders: Int8Array | undefined;
  /** By batch: which overlay it is, see `Primitive.overlays`; undefined where none is one. */
  overs: Uint8Array | undefined;
  private ordersOf = new Int8Array(0);
  private oversOf = new Uint8Array(0);
  /** How many are. */
  count = 0;

  reserve(batches: number): void {
    const blends = new Uint8Array(batches);
    blends.set(this.blends);
    this.blends = blends;
    this.ordersOf = new Int8Array(batches);
    this.oversOf = new Uint8Array(batches);
  }

  /**
   * Takes over what materials say, which may change at any time.
   *
   * @param changes hears of a batch before it is another
   */
  follow(batches: readonly (Batch | undefined)[], changes: (batch: number) => void): void {
    const { blends } = this;
    this.count = 0;
    let isOrdered = false;
    let hasOverlays = false;
    for (let i = 0; i < batches.length; i++) {
      const batch = batches[i];
      const now = batch && isBlended(batch.material) ? 1 : 0;
      this.count += now;
      const order = batch ? orderOf(batch) : 0;
      if (order !== 0) isOrdered = true;
      const over = batch ? Math.min(255, batch.apart.over) : 0;
      if (over > 0) hasOverlays = true;
      this.oversOf[i] = over;
      this.ordersOf[i] = Math.max(-8, Math.min(7, order));
      if (blends[i] === now) continue;
      changes(i);
      blends[i] = now;
    }
    this.orders = isOrdered ? this.ordersOf : undefined;
    this.overs = hasOverlays ? this.oversOf : undefined;
  }
}
