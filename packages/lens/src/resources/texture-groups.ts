import type { Device, DeviceBindGroup, DeviceTexture } from '../gpu/device.js';
import { freeUnused } from './kept.js';

interface Held {
  textures: readonly DeviceTexture[];
  group: DeviceBindGroup;
  lastUsed: number;
}

/** Bind groups of textures that a frame's graph hands out, by the first of them: others are there in other frames. */
export class TextureGroups {
  private readonly held = new Map<DeviceTexture, Held>();

  constructor(
    private readonly device: Device,
    private readonly label: string,
  ) {}

  /** @param textures in the order of their bindings */
  of(textures: readonly DeviceTexture[], frame: number): DeviceBindGroup {
    const [first] = textures as [DeviceTexture, ...DeviceTexture[]];
    let found = this.held.get(first);
    if (!found || !areSame(found.textures, textures)) {
      found?.group.dispose();
      const entries = textures.map((texture, binding) => ({ binding, texture }));
      const group = this.device.createBindGroup({ label: this.label, entries });
      this.held.set(first, (found = { textures, group, lastUsed: frame }));
    }
    found.lastUsed = frame;
    return found.group;
  }

  /** Frees what no frame since `frame` has used. */
  sweep(frame: number): void {
    freeUnused(this.held, frame, ({ group }) => group.dispose());
  }
}

function areSame(some: readonly DeviceTexture[], others: readonly DeviceTexture[]): boolean {
  for (let i = 0; i < others.length; i++) if (some[i] !== others[i]) return false;
  return true;
}
