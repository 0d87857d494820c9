import type { DrawList } from '@umber-lens/core/engine';
import type { Device, DeviceBuffer } from '../gpu/device.js';

/** Bytes of an instance: the slot of its transform. */
export const INSTANCE_BYTES = 4;

/** The instances of one draw list on the GPU: a number each, of which only those that changed are uploaded. */
export class InstanceBuffer {
  buffer: DeviceBuffer | undefined;
  /** The same as storage, where shaders look instances up by themselves. */
  storage: DeviceBuffer | undefined;

  constructor(private readonly device: Device) {}

  /**
   * To be called after each update of the list.
   *
   * @param isChanged whether anything in it changed
   * @param asStorage whether shaders look instances up
   */
  upload(list: DrawList, isChanged: boolean, asStorage = false): void {
    const { instances, room, changedFrom, changedTo } = list;
    if (room === 0) return;
    if (asStorage && (isChanged || !this.storage)) this.uploadStorage(list);
    if (!isChanged) return;
    if (!this.buffer || this.buffer.size < room * INSTANCE_BYTES) {
      this.buffer?.dispose();
      const size = instances.length * INSTANCE_BYTES;
      this.buffer = this.device.createBuffer({ label: 'instances', usage: 'vertex', writable: true, size });
      this.device.writeBuffer(this.buffer, 0, instances, 0, room);
    } else if (changedFrom < changedTo) {
      const count = changedTo - changedFrom;
      this.device.writeBuffer(this.buffer, changedFrom * INSTANCE_BYTES, instances, changedFrom, count);
    }
  }

  dispose(): void {
    this.buffer?.dispose();
    this.storage?.dispose();
    this.buffer = this.storage = undefined;
  }

  /** Four words at a time: those are a texel, where storage is a texture. */
  private uploadStorage({ instances, changedFrom, changedTo }: DrawList): void {
    const size = instances.length * INSTANCE_BYTES;
    let [from, to] = [changedFrom & ~3, Math.min((changedTo + 3) & ~3, instances.length)];
    if (!this.storage || this.storage.size < size) {
      this.storage?.dispose();
      this.storage = this.device.createBuffer({ label: 'instances to look up', usage: 'storage', size });
      [from, to] = [0, instances.length];
    }
    if (from < to) this.device.writeBuffer(this.storage, from * INSTANCE_BYTES, instances, from, to - from);
  }
}
