import { NONE, type SceneNode } from '@umber-lens/core/engine';
import type { PreparedScene } from '../../batches/prepared-scene.js';
import { LIGHT_SOURCE_SEES } from '../../compiled/layouts.js';
import type { Facts, Feature, FrameAt } from '../feature.js';
import { type Flag, flag } from '../flags.js';
import type { ThingMarks } from '../thing-marks.js';
import { WANTS } from '../wants.js';

const THING_BITS = flag({ override: 'useThingBits' });

/** Lights and effects that are of some things alone: see `SceneNode.visibleTo`. */
export class Things implements Feature {
  /** What the marks were made of: while it stays, so do they. */
  private readonly marked = { scene: undefined as object | undefined, items: -1, slots: -1, links: -1 };

  constructor(private readonly marks: ThingMarks) {}

  flagsFor(facts: Facts): readonly Flag[] {
    return WANTS.things(facts) ? [THING_BITS] : [];
  }

  prepare(at: FrameAt): void {
    if (WANTS.things(at)) this.mark(at.prepared);
  }

  writeLight(_: Float32Array, words: Uint32Array, at: number, { light }: SceneNode): void {
    words[at + LIGHT_SOURCE_SEES] = light?.sees ?? 0xffffffff;
  }

  private mark({ scene, transforms: { log, slots } }: PreparedScene): void {
    const { marked } = this;
    const { columns, drawables } = scene;
    const [items, links, end] = [drawables.log.end, columns.linkVersion, log.end];
    if (marked.scene === scene && marked.items === items && marked.links === links && marked.slots === end)
      return;
    Object.assign(marked, { scene, items, links, slots: end });
    // As many slots again are given to what moves together.
    this.marks.mark(0, slots.length * 2, (bits) => {
      for (const top of scene.limitedNodes())
        for (let row = top.row; row !== NONE; row = columns.nextInSubtree(row, top.row))
          bits[slots[row]!] = scene.visibleBits(row); // a living row
    });
  }
}
