import { watchGone } from '#checks';
import type { DeviceCounts } from './counts.js';
import type { DeviceBuffer, DeviceTexture, MemoryOwner } from './device.js';
import { textureBytes } from './sizes.js';

type Counted = 'buffers' | 'textures' | 'samplers' | 'shaders' | 'bindGroups' | 'pipelines';

/** What was made from a device and not disposed of yet. */
export class Living {
  private readonly things = new Set<{ dispose(): void }>();

  constructor(private readonly counts: DeviceCounts) {}

  /** Counts a thing, and gives it a `dispose` that works once. */
  keep<T extends object>(kind: Counted, thing: T, onDispose?: () => void): T & { dispose(): void } {
    this.counts[kind]++;
    const kept = Object.assign(thing, {
      dispose: () => {
        if (!this.things.delete(kept)) return;
        this.counts[kind]--;
        watchGone(kept);
        onDispose?.();
      },
    });
    this.things.add(kept);
    return kept;
  }

  /** Bytes of buffers and textures by their labels, the most first. */
  owners(): MemoryOwner[] {
    const found = new Map<string, MemoryOwner>();
    for (const thing of this.things as Set<Partial<DeviceBuffer | DeviceTexture>>) {
      if (thing.kind !== 'buffer' && thing.kind !== 'texture') continue;
      const { kind, label = '' } = thing;
      const bytes =
        kind === 'buffer'
          ? (thing as DeviceBuffer).size
          : ((thing as DeviceTexture).bytes ?? textureBytes(thing as DeviceTexture));
      const key = `${kind} ${label}`;
      const owner = found.get(key) ?? { kind, label, count: 0, bytes: 0 };
      owner.count++;
      owner.bytes += bytes;
      found.set(key, owner);
    }
    return [...found.values()].sort((a, b) => b.bytes - a.bytes);
  }

  dispose(): void {
    for (const thing of [...this.things]) thing.dispose();
  }
}
