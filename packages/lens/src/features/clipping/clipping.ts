import { planesOf, type SceneNode } from '@umber-lens/core/engine';
import type { PreparedScene } from '../../batches/prepared-scene.js';
import type { BindGroupEntry, Device, DeviceBuffer } from '../../gpu/device.js';
import { UniformBlock } from '../../resources/uniform-block.js';
import {
  BINDING_CLIPPING,
  BINDING_CUT_MARKS,
  CLIPPING_COUNT,
  CLIPPING_FLOATS,
  CLIPPING_IS_PARTIAL,
  CLIPPING_PLANES,
} from '../../compiled/layouts.js';
import type { Facts, Feature, FeatureHost, FrameAt } from '../feature.js';
import { type Flag, flag } from '../flags.js';
import { WANTS } from '../wants.js';

const CLIPPED = flag({ override: 'isClipped', cuts: true });

/** Planes that cut things open, of the scene or of what is below one node: wherever things are drawn. */
export class ClippedScene implements Feature {
  readonly isPlacing = true;
  /** In these frames something was cut otherwise than before. */
  changedAt = -1;
  entries: readonly BindGroupEntry[];
  private readonly device: Device;
  private readonly block: UniformBlock;
  /** A bit for each slot, where one node's things alone are cut. */
  private marks = new Uint32Array(4);
  private fresh = new Uint32Array(4);
  private buffer: DeviceBuffer;
  /** What the marks were made of: while it stays, so do they. */
  private readonly marked = { node: undefined as SceneNode | undefined, moved: -1, items: -1, slots: -1 };

  constructor({ device }: FeatureHost) {
    this.device = device;
    this.block = new UniformBlock(device, 'clipping', CLIPPING_FLOATS);
    this.buffer = this.makeBuffer();
    this.entries = this.made();
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
    const words = (slots.length >> 4) + 1; // as many slots again are given to what moves together
    let isOther = false;
    if (words > this.marks.length) {
      this.marks = new Uint32Array(words * 2);
      this.fresh = new Uint32Array(words * 2);
      this.buffer.dispose();
      this.buffer = this.makeBuffer();
      this.entries = this.made();
      isOther = true;
    }
    const { fresh } = this;
    fresh.fill(0);
    const set = ({ row }: SceneNode): void => {
      const slot = slots[row]!; // a living row
      fresh[slot >> 5]! |= 1 << (slot & 31);
    };
    set(top);
    for (const node of top.descendants()) set(node);
    isOther ||= fresh.some((word, i) => word !== this.marks[i]);
    if (!isOther) return false;
    this.marks.set(fresh);
    this.device.writeBuffer(this.buffer, 0, this.marks);
    return true;
  }

  private makeBuffer(): DeviceBuffer {
    return this.device.createBuffer({ label: 'cut marks', usage: 'storage', size: this.marks.byteLength });
  }

  private made(): BindGroupEntry[] {
    return [
      { binding: BINDING_CLIPPING, buffer: this.block.buffer },
      { binding: BINDING_CUT_MARKS, buffer: this.buffer },
    ];
  }
}
