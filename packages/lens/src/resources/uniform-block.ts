import type { Device, DeviceBuffer } from '../gpu/device.js';

/** A uniform buffer with its numbers in script; what has not changed is not sent. */
export class UniformBlock {
  readonly buffer: DeviceBuffer;
  readonly values: Float32Array;
  /** The same numbers as whole ones. */
  readonly words: Uint32Array;
  /** What the GPU has; a number that is none differs from all. */
  private readonly uploaded: Float32Array;

  constructor(
    private readonly device: Device,
    label: string,
    floats: number,
  ) {
    // Blocks of WebGL2 are whole steps of four floats.
    this.values = new Float32Array(Math.ceil(floats / 4) * 4);
    this.words = new Uint32Array(this.values.buffer);
    this.uploaded = new Float32Array(this.values.length).fill(Number.NaN);
    this.buffer = device.createBuffer({ label, usage: 'uniform', size: this.values.byteLength });
  }

  /** Sends the first `count` numbers if one of them changed. To be called outside a pass. @returns whether that was so */
  upload(count = this.values.length): boolean {
    const { values, uploaded } = this;
    let i = 0;
    while (i < count && values[i] === uploaded[i]) i++;
    if (i === count) return false;
    for (; i < count; i++) uploaded[i] = values[i]!; // within both
    this.device.writeBuffer(this.buffer, 0, values, 0, count);
    return true;
  }
}
