import type { NodeColumns } from '../columns/columns.js';
import { ALIVE, DIRTY, MATRIX, PLACED } from '../columns/flags.js';
import type { SceneNode } from '../scene/scene-node.js';
import type { AnimationSampler } from './animation.js';
import { sampleAtClock } from './sample.js';

/** A channel whose values go straight into the columns of a node. */
export interface DirectChannel {
  node: SceneNode;
  path: 'translation' | 'rotation' | 'scale';
  sampler: AnimationSampler;
}

const ROTATION = 0;
const TRANSLATION = 1;
const SCALE = 2;
const KINDS = { rotation: ROTATION, translation: TRANSLATION, scale: SCALE };

/**
 * Channels side by side in arrays: thousands of skeletons have tens of thousands of them a frame, and following an object
 * and its node for each would wait for the memory more than it computes.
 */
export class DirectChannels {
  private readonly samplers: readonly AnimationSampler[];
  private readonly kinds: Uint8Array;
  /** The key that each was at last. */
  private readonly hints: Uint32Array;
  /** Where the nodes stand, as long as none has come to another row. */
  private readonly rows: Int32Array;
  private rowsVersion = -1;

  constructor(private readonly channels: readonly DirectChannel[]) {
    this.samplers = channels.map(({ sampler }) => sampler);
    this.kinds = Uint8Array.from(channels, ({ path }) => KINDS[path]);
    this.hints = new Uint32Array(channels.length);
    this.rows = new Int32Array(channels.length);
  }

  /** Writes their values at the time of `clock`. */
  write(columns: NodeColumns): void {
    const { samplers, kinds, hints, rows } = this;
    if (this.rowsVersion !== columns.rowsVersion) {
      this.rowsVersion = columns.rowsVersion;
      for (let i = 0; i < rows.length; i++) rows[i] = this.channels[i]!.node.row; // parallel to them
    }
    const { flags, rotation, translation, scale } = columns;
    for (let i = 0; i < rows.length; i++) {
      const row = rows[i]!; // i < length, here and below
      // Those that were removed have none.
      if (row < 0) continue;
      const flag = flags[row]!;
      if ((flag & ALIVE) === 0) continue;
      const kind = kinds[i]!;
      const sampler = samplers[i]!;
      hints[i] =
        kind === ROTATION
          ? sampleAtClock(sampler, rotation, row * 4, 'rotation', hints[i]!)
          : sampleAtClock(sampler, kind === TRANSLATION ? translation : scale, row * 3, 'numbers', hints[i]!);
      if ((flag & (DIRTY | MATRIX | PLACED)) === DIRTY) continue;
      flags[row] = flag & ~(MATRIX | PLACED);
      columns.markDirty(row);
    }
  }
}
