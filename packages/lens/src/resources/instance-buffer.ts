import type { DrawList } from '@umber-lens/core';
import type { Device, DeviceBuffer } from '../gpu/device.js';

/** Bytes of an instance: the slot of its transform. */
export const INSTANCE_BYTES = 4;

/** The instances of one draw list on the GPU: a number each, of which only those that changed are uploaded. */
export class InstanceBuffer {
  buffer: DeviceBuffer | undefined;

  constructor(private readonly device: Device) {}

  /** To be called after each update of the list that changed anything. */
  upload({ instances, room, changedFrom, changedTo }: DrawList): void {
    if (room === 0) return;
    if (!this.buffer || this.buffer.size < room * INSTANCE_BYTES) {
      this.buffer?.dispose();
      const size = instances.length * INSTANCE_BYTES;
      this.buffer = this.device.createBuffer({
        label: 'instances',
        usage: 'vertex',
        writable: true,
        size,
      });
      this.device.writeBuffer(this.buffer, 0, instances, 0, room);
    } else if (changedFrom < changedTo) {
      const count = changedTo - changedFrom;
      this.device.writeBuffer(this.buffer, changedFrom * INSTANCE_BYTES, instances, changedFrom, count);
    }
  }

  dispose(): void {
    this.buffer?.dispose();
    this.buffer = undefined;
  }
}
