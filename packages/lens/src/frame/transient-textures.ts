import type { Device, DeviceTexture, TextureOptions } from '../gpu/device.js';

interface Entry {
  texture: DeviceTexture;
  slot: number;
  lastUsed: number;
}

/** Textures that live within a frame, kept from frame to frame while somebody asks for their kind. */
export class TransientTextures {
  private readonly held: Entry[] = [];

  constructor(private readonly device: Device) {}

  /**
   * A texture of this size, format and number of samples.
   *
   * @param name for messages, of whoever asks first
   * @param slot tells apart those that are wanted at the same time
   */
  get(name: string, frame: number, options: Omit<TextureOptions, 'label'>, slot = 0): DeviceTexture {
    const { width, height, format, sampleCount = 1, mipLevelCount = 1 } = options;
    for (let i = 0; i < this.held.length; i++) {
      const entry = this.held[i]!; // i < length
      const { texture } = entry;
      if (
        entry.slot === slot &&
        texture.width === width &&
        texture.height === height &&
        texture.format === format &&
        texture.sampleCount === sampleCount &&
        texture.mipLevelCount === mipLevelCount
      ) {
        entry.lastUsed = frame;
        return texture;
      }
    }
    const texture = this.device.createTexture({ ...options, label: name, renderable: true });
    this.held.push({ texture, slot, lastUsed: frame });
    return texture;
  }

  sweep(frame: number): void {
    for (let i = this.held.length - 1; i >= 0; i--) {
      const { texture, lastUsed } = this.held[i]!; // i < length
      if (lastUsed >= frame) continue;
      texture.dispose();
      this.held.splice(i, 1);
    }
  }
}
