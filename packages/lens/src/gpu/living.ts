import type { DeviceCounts } from './counts.js';

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
        onDispose?.();
      },
    });
    this.things.add(kept);
    return kept;
  }

  dispose(): void {
    for (const thing of [...this.things]) thing.dispose();
  }
}
