import type { BufferOptions, Device, DeviceBuffer } from '../../gpu/device.js';

/** A buffer that is made anew, empty, when more is asked of it. */
export class GrownBuffer {
  private made: DeviceBuffer | undefined;

  constructor(
    private readonly device: Device,
    private readonly options: Pick<BufferOptions, 'label' | 'usage' | 'writable'>,
  ) {}

  /** What `atLeast` made. */
  get buffer(): DeviceBuffer {
    return this.made!; // the caller's contract
  }

  /** @returns whether it is another one now */
  atLeast(size: number): boolean {
    if (this.made && this.made.size >= size) return false;
    this.made?.dispose();
    this.made = this.device.createBuffer({ ...this.options, size });
    return true;
  }

  /** Holds these numbers from its start on. */
  write(data: Float32Array | Uint32Array): void {
    // Some room, since lists grow and shrink.
    this.atLeast(this.made && this.made.size >= data.byteLength ? 0 : (data.byteLength * 3) >> 1);
    this.device.writeBuffer(this.buffer, 0, data);
  }

  dispose(): void {
    this.made?.dispose();
    this.made = undefined;
  }
}
