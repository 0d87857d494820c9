import type { Device, DeviceBindGroup, DeviceBuffer } from '../../gpu/device.js';

/** A bind group of buffers, made anew when one of them is another. */
export class KeptGroup {
  private group: DeviceBindGroup | undefined;
  private readonly bound: DeviceBuffer[] = [];

  /** @param firstBytes how much of the first buffer is bound, which is moved by dynamic offsets; left out: all */
  constructor(
    private readonly device: Device,
    private readonly firstBytes?: number,
  ) {}

  /** @param buffers in the order of their bindings */
  of(buffers: readonly DeviceBuffer[]): DeviceBindGroup {
    const { bound, firstBytes } = this;
    let isSame = this.group !== undefined;
    for (let i = 0; i < buffers.length; i++) if (bound[i] !== buffers[i]) isSame = false;
    if (isSame) return this.group!; // looked at above
    this.group?.dispose();
    bound.splice(0, bound.length, ...buffers);
    return (this.group = this.device.createBindGroup({
      entries: buffers.map((buffer, binding) => ({
        binding,
        buffer,
        ...(binding === 0 && firstBytes !== undefined ? { size: firstBytes } : {}),
      })),
    }));
  }

  dispose(): void {
    this.group?.dispose();
    this.group = undefined;
  }
}
