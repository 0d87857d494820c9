import type { Device, DeviceTexture, TextureOptions } from '../gpu/device.js';

/** Textures that live within a frame, kept from frame to frame while their size stays. */
export class TransientTextures {
  private readonly held = new Map<string, { texture: DeviceTexture; lastUsed: number }>();

  constructor(private readonly device: Device) {}

  /** The texture of this name at this size; two sizes in turn (canvas and target) are both kept. */
  get(name: string, frame: number, options: Omit<TextureOptions, 'label'>): DeviceTexture {
    for (const entry of this.held.values()) {
      const { texture } = entry;
      if (texture.label === name && texture.width === options.width && texture.height === options.height) {
        entry.lastUsed = frame;
        return texture;
      }
    }
    const texture = this.device.createTexture({ ...options, label: name, renderable: true });
    this.held.set(`${name} ${options.width} ${options.height}`, { texture, lastUsed: frame });
    return texture;
  }

  sweep(frame: number): void {
    for (const [key, { texture, lastUsed }] of this.held) {
      if (lastUsed >= frame) continue;
      texture.dispose();
      this.held.delete(key);
    }
  }
}
