import type { Device, DeviceBuffer } from '../gpu/device.js';

/** Of each: bits of what sees it, and whether planes cut it. */
const WORDS = 2;
const ALL = 0xffffffff;

/** Marks of things, by the slots of their transforms: shaders have room for one buffer of them. */
export class ThingMarks {
  buffer: DeviceBuffer;
  private words = this.blank(4);
  private readonly fresh: [Uint32Array, Uint32Array] = [new Uint32Array(4).fill(ALL), new Uint32Array(4)];

  constructor(private readonly device: Device) {
    this.buffer = this.made();
  }

  /**
   * Marks anew what one of both says.
   *
   * @param which 0: bits of what sees a thing, all where nothing is said; 1: whether it is cut
   * @param slots how many there may be
   * @param write writes what is marked, by slot
   * @returns whether a mark is other than before
   */
  mark(which: 0 | 1, slots: number, write: (marks: Uint32Array) => void): boolean {
    const grows = slots * WORDS > this.words.length;
    if (grows) this.grow(slots * 2);
    let isOther = grows;
    const marks = this.fresh[which];
    const { words } = this;
    marks.fill(which === 0 ? ALL : 0);
    write(marks);
    for (let slot = 0; slot < marks.length; slot++) {
      const at = slot * WORDS + which;
      if (words[at] === marks[slot]) continue;
      words[at] = marks[slot]!; // slot < length
      isOther = true;
    }
    if (grows) {
      this.buffer.dispose();
      this.buffer = this.made();
    } else if (isOther) this.device.writeBuffer(this.buffer, 0, words);
    return isOther;
  }

  private grow(slots: number): void {
    const grown = this.blank(slots);
    grown.set(this.words);
    this.words = grown;
    this.fresh[0] = new Uint32Array(slots);
    this.fresh[1] = new Uint32Array(slots);
  }

  private blank(slots: number): Uint32Array {
    return new Uint32Array(slots * WORDS).map((_, i) => (i % WORDS === 0 ? ALL : 0));
  }

  private made(): DeviceBuffer {
    return this.device.createBuffer({ label: 'thing marks', usage: 'storage', data: this.words });
  }
}
