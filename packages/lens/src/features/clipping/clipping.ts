import { planesOf, type SceneNode } from '@umber-lens/core/engine';
import type { PreparedScene } from '../../batches/prepared-scene.js';
import type { BindGroupEntry, DeviceBuffer } from '../../gpu/device.js';
import { UniformBlock } from '../../resources/uniform-block.js';
import {
  BINDING_CLIPPING,
  BINDING_THING_MARKS,
  CLIPPING_COUNT,
  CLIPPING_FLOATS,
  CLIPPING_IS_PARTIAL,
  CLIPPING_PLANES,
} from '../../compiled/layouts.js';
import type { Facts, Feature, FeatureHost, FrameAt } from '../feature.js';
import { type Flag, flag } from '../flags.js';
import type { ThingMarks } from '../thing-marks.js';
import { WANTS } from '../wants.js';

const CLIPPED = flag({ override: 'isClipped', cuts: true, needsPlace: true });

/** Planes that cut things open, of the scene or of what is below one node: wherever things are drawn. */
export class ClippedScene implements Feature {
  readonly isPlacing = true;
  /** In these frames something was cut otherwise than before. */
  changedAt = -1;
  private readonly block: UniformBlock;
  private all: readonly BindGroupEntry[];
  private bound: DeviceBuffer | undefined;
  /** What the marks were made of: while it stays, so do they. */
  private readonly marked = { node: undefined as SceneNode | undefined, moved: -1, items: -1, slots: -1 };

  constructor(
    { device }: FeatureHost,
    private readonly marks: ThingMarks,
  ) {
    this.block = new UniformBlock(device, 'clipping', CLIPPING_FLOATS);
    this.all = this.made();
  }

  get entries(): readonly BindGroupEntry[] {
    // Others mark things as well.
    if (this.bound !== this.marks.buffer) this.all = this.made();
    return this.all;
  }

  flagsFor(facts: Facts): readonly Flag[] {
    return WANTS.clipping(facts) ? [CLIPPED] : [];
  }

  prepare({ prepared, frame }: FrameAt): void {
    this.prepareUnlit(prepared, frame);
  }

  /** @throws LensError `clipping/planes` */
  prepareUnlit({ scene, transforms }: PreparedScene, frame: number): void {
    const { clipping } = scene;
    const { values, words } = this.block;
    const node = clipping?.node;
    values.fill(0);
    if (clipping) {
      values.set(planesOf(clipping), CLIPPING_PLANES);
      words[CLIPPING_COUNT] = clipping.planes.length;
      words[CLIPPING_IS_PARTIAL] = node ? 1 : 0;
    }
    const isMarked =
      node !== undefined && this.isOther(node, transforms) && this.mark(node, transforms.slots);
    if (this.block.upload() || isMarked) this.changedAt = frame;
  }

  /** Notes what there is to mark. @returns whether it may be other than before */
  private isOther(node: SceneNode, { log }: PreparedScene['transforms']): boolean {
    const { marked } = this;
    const { drawables, updateCount: moved } = node.scene;
    const items = drawables.log.end;
    if (marked.node === node && marked.moved === moved && marked.items === items && marked.slots === log.end)
      return false;
    Object.assign(marked, { node, moved, items, slots: log.end });
    return true;
  }

  /** Marks the slots of what is cut. @returns whether they are others than before */
  private mark(top: SceneNode, slots: Uint32Array): boolean {
    // As many slots again are given to what moves together.
    return this.marks.mark(1, slots.length * 2, (cut) => {
      cut[slots[top.row]!] = 1; // a living row
      for (const { row } of top.descendants()) cut[slots[row]!] = 1; // as above
    });
  }

  private made(): BindGroupEntry[] {
    return [
      { binding: BINDING_CLIPPING, buffer: this.block.buffer },
      { binding: BINDING_THING_MARKS, buffer: (this.bound = this.marks.buffer) },
    ];
  }
}
