import { GUEST_SLOT, MATERIAL_SHIFT, NONE, TRAIT_SHIFT } from '../columns/flags.js';
import type { SpanLog } from '../columns/span-log.js';
import type { Scene } from '../scene/scene.js';
import { grown } from './grown.js';

/** Where the transforms of rows lie on the GPU, for a list whose instances name places there. */
export interface TransformSlots {
  /** Slot by row. */
  readonly slots: Uint32Array;
  /** Rows that changed their slot. */
  readonly log: SpanLog;
}

/** Where the items of a draw list stand, and the words that shaders read there. */
export class ItemPositions {
  /** By position: see `DrawList.instances`. */
  instances = new Uint32Array(0);
  /** By position: the item there. */
  itemAt = new Uint32Array(0);
  /** By item: its position, or NONE. For blended ones: its place in their order. */
  position = new Int32Array(0);
  /** By item: batch * 2 + mirrored where it was put. */
  order = new Uint32Array(0);
  /** Positions in use, gaps included. */
  room = 0;
  /** Positions written: from the first to before the second. */
  changedFrom = 0;
  changedTo = 0;
  private scene: Scene | undefined;
  private slots: TransformSlots | undefined;

  /** Begins anew: nothing stands anywhere. */
  forget(scene: Scene, slots: TransformSlots | undefined): void {
    this.scene = scene;
    this.slots = slots;
    this.position.fill(NONE);
  }

  reserveItems(capacity: number): void {
    this.order = grown(this.order, capacity);
    const position = new Int32Array(capacity).fill(NONE);
    position.set(this.position);
    this.position = position;
  }

  reserve(room: number): void {
    this.room = room;
    if (this.instances.length >= room) return;
    // Whole steps of four words, as storage goes.
    const capacity = (room + (room >> 2) + 19) & ~3;
    this.instances = grown(this.instances, capacity);
    this.itemAt = grown(this.itemAt, capacity);
  }

  put(item: number, at: number): void {
    this.position[item] = at;
    this.itemAt[at] = item;
    this.instances[at] = this.wordOf(item);
    if (at < this.changedFrom) this.changedFrom = at;
    if (at >= this.changedTo) this.changedTo = at + 1;
  }

  private wordOf(item: number): number {
    const { columns, drawables, guests } = this.scene!; // set before
    const row = columns.itemRow[item]!; // an item in use
    const traits = columns.traits[row]!;
    const slot = (traits & GUEST_SLOT) !== 0 ? guests.slotOf(row) : this.slots ? this.slots.slots[row]! : row; // a row in use
    return (slot | (drawables.itemSlot[item]! << MATERIAL_SHIFT) | (traits << TRAIT_SHIFT)) >>> 0;
  }
}
