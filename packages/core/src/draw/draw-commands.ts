import { grown } from './grown.js';

/** What is drawn, one draw call after the other. */
export class DrawCommands {
  commands = 0;
  opaqueCommands = 0;
  commandBatch = new Uint32Array(0);
  commandFirst = new Uint32Array(0);
  commandCount = new Uint32Array(0);
  commandMirrored = new Uint8Array(0);

  /** @param order batch * 2 + mirrored */
  protected addCommand(order: number, first: number, count: number): void {
    const at = this.commands++;
    if (at >= this.commandBatch.length) {
      const capacity = at + (at >> 1) + 16;
      this.commandBatch = grown(this.commandBatch, capacity);
      this.commandFirst = grown(this.commandFirst, capacity);
      this.commandCount = grown(this.commandCount, capacity);
      const mirrored = new Uint8Array(capacity);
      mirrored.set(this.commandMirrored);
      this.commandMirrored = mirrored;
    }
    this.commandBatch[at] = order >> 1;
    this.commandFirst[at] = first;
    this.commandCount[at] = count;
    this.commandMirrored[at] = order & 1;
  }
}
