import type { Device, DeviceBindGroup, DeviceTexture } from '../gpu/device.js';
import { freeUnused } from './kept.js';

/** Bind groups of textures that a frame's graph hands out, by the first of them: others are there in other frames. */
export class TextureGroups {
  private readonly held = new Map<DeviceTexture, { group: DeviceBindGroup; lastUsed: number }>();

  constructor(
    private readonly device: Device,
    private readonly label: string,
  ) {}

  /** @param textures in the order of their bindings */
  of(textures: readonly DeviceTexture[], frame: number): DeviceBindGroup {
    const [first] = textures as [DeviceTexture, ...DeviceTexture[]];
    let found = this.held.get(first);
    if (!found) {
      const entries = textures.map((texture, binding) => ({ binding, texture }));
      found = { group: this.device.createBindGroup({ label: this.label, entries }), lastUsed: frame };
      this.held.set(first, found);
    }
    found.lastUsed = frame;
    return found.group;
  }

  /** Frees what no frame since `frame` has used. */
  sweep(frame: number): void {
    freeUnused(this.held, frame, ({ group }) => group.dispose());
  }
}
