import { type Scene, SpanLog, type TransformSlots } from '@umber-lens/core/engine';
import type { Device, DeviceBuffer } from '../gpu/device.js';

/** Bytes and floats of a transform: affine 3x4. */
const BYTES = 48;
const FLOATS = 12;
/** Uploads a frame beyond which rows that lie apart are brought together instead. */
const MOST_UPLOADS = 16;
/** Rows between two moved ones that are uploaded along rather than apart: about what a call costs. */
const GAP = 40;

/**
 * The world transforms of a scene on the GPU, in one buffer that all views share: instances name slots of it. A
 * row's slot is its own number, so that the column is uploaded as it lies, and only what moved of it. Rows that
 * move every frame but lie apart are given slots side by side behind the others: one upload serves them all.
 */
export class TransformStore implements TransformSlots {
  slots = new Uint32Array(0);
  readonly log = new SpanLog();
  /** Undefined until there is something to draw. */
  buffer: DeviceBuffer | undefined;
  /** Rows that have a slot by their own number. */
  private rows = 0;
  /** Rows that were brought together, in the order of their slots. */
  private together = new Uint32Array(0);
  private togetherCount = 0;
  private gathered = new Float32Array(0);
  private seen = -1;

  constructor(
    private readonly device: Device,
    private readonly scene: Scene,
  ) {}

  /** Uploads what moved since the last call. To be called outside a pass, after `scene.update`. */
  sync(): void {
    const { columns, movedRows } = this.scene;
    if (!this.buffer || columns.count > this.rows) {
      this.make(columns.capacity);
      this.uploadAll();
    } else if (this.seen !== movedRows.end) {
      const isKnown = movedRows.holds(this.seen);
      if (!isKnown || movedRows.countSince(this.seen) * 4 > columns.count) this.uploadMany(isKnown);
      else if (!this.uploadSpans()) this.uploadTogether();
    }
    this.seen = movedRows.end;
  }

  dispose(): void {
    this.buffer?.dispose();
    this.buffer = undefined;
  }

  private make(rows: number): void {
    this.buffer?.dispose();
    this.rows = rows;
    this.slots = new Uint32Array(rows);
    this.together = new Uint32Array(Math.max(256, rows >> 3));
    this.buffer = this.device.createBuffer({
      label: 'transforms',
      usage: 'storage',
      size: (rows + this.together.length) * BYTES,
    });
    this.bringHome();
  }

  /** Gives every row its own slot again. */
  private bringHome(): void {
    for (let row = 0; row < this.rows; row++) this.slots[row] = row;
    this.togetherCount = 0;
    this.log.forget();
  }

  private uploadAll(): void {
    const { columns } = this.scene;
    this.device.writeBuffer(this.buffer!, 0, columns.world, 0, columns.count * FLOATS); // made before, here and below
  }

  /** Many rows moved: their whole extent goes up as it lies. */
  private uploadMany(isKnown: boolean): void {
    const { columns, movedRows } = this.scene;
    if (this.togetherCount > 0 || !isKnown) {
      if (this.togetherCount > 0) this.bringHome();
      this.uploadAll();
      return;
    }
    let first = columns.count;
    let end = 0;
    for (let at = this.seen; at < movedRows.end; at++) {
      first = Math.min(first, movedRows.firstAt(at));
      end = Math.max(end, movedRows.firstAt(at) + movedRows.countAt(at));
    }
    this.uploadRows(first, Math.min(end, columns.count));
  }

  /** A few spans go up by themselves; false when there are too many of them, or one has moved its slots. */
  private uploadSpans(): boolean {
    const { movedRows } = this.scene;
    if (this.togetherCount > 0) return false;
    for (const isDry of [true, false]) {
      let uploads = 0;
      let first = -1;
      let end = -1;
      for (let at = this.seen; at < movedRows.end; at++) {
        const start = movedRows.firstAt(at);
        const stop = start + movedRows.countAt(at);
        if (first >= 0 && start >= first && start <= end + GAP) {
          end = Math.max(end, stop);
          continue;
        }
        if (first >= 0 && !isDry) this.uploadRows(first, end);
        if (++uploads > MOST_UPLOADS) return false;
        first = start;
        end = stop;
      }
      if (first >= 0 && !isDry) this.uploadRows(first, end);
    }
    return true;
  }

  private uploadRows(first: number, end: number): void {
    const { columns } = this.scene;
    const stop = Math.min(end, columns.count);
    if (stop <= first) return;
    this.device.writeBuffer(
      this.buffer!,
      first * BYTES,
      columns.world,
      first * FLOATS,
      (stop - first) * FLOATS,
    );
  }

  /** Brings rows that moved together behind the others, and uploads those from there. */
  private uploadTogether(): void {
    const { columns, movedRows } = this.scene;
    const { together, slots, rows } = this;
    let from = Infinity;
    let to = 0;
    for (let at = this.seen; at < movedRows.end; at++) {
      const first = movedRows.firstAt(at);
      const end = Math.min(first + movedRows.countAt(at), columns.count);
      for (let row = first; row < end; row++) {
        let place = slots[row]! - rows; // a row in range
        if (place < 0) {
          if (this.togetherCount === together.length) {
            // No more room: all go home, and those that still move come again.
            this.bringHome();
            this.uploadAll();
            return;
          }
          place = this.togetherCount++;
          together[place] = row;
          slots[row] = rows + place;
          this.log.add(row, 1);
        }
        if (place < from) from = place;
        if (place >= to) to = place + 1;
      }
    }
    if (to <= from) return;
    if (movedRows.countSince(this.seen) <= MOST_UPLOADS) {
      this.uploadEach();
      return;
    }
    const floats = (to - from) * FLOATS;
    if (this.gathered.length < floats) this.gathered = new Float32Array(together.length * FLOATS);
    const { gathered } = this;
    const { world } = columns;
    for (let place = from, o = 0; place < to; place++) {
      for (let k = 0, w = together[place]! * FLOATS; k < FLOATS; k++) gathered[o++] = world[w + k]!; // a row in range
    }
    this.device.writeBuffer(this.buffer!, (rows + from) * BYTES, gathered, 0, floats);
  }

  /** A few rows go up one by one, each to its slot. */
  private uploadEach(): void {
    const { columns, movedRows } = this.scene;
    for (let at = this.seen; at < movedRows.end; at++) {
      const first = movedRows.firstAt(at);
      const end = Math.min(first + movedRows.countAt(at), columns.count);
      for (let row = first; row < end; row++) {
        const offset = this.slots[row]! * BYTES; // a row in range
        this.device.writeBuffer(this.buffer!, offset, columns.world, row * FLOATS, FLOATS); // made before
      }
    }
  }
}
