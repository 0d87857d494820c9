import type { DrawList } from '@umber-lens/core/engine';
import type { DevicePipeline, RenderPass } from '../gpu/device.js';
import { MULTI_DRAW_WORDS, type MultiDraw } from '../gpu/multi-draw.js';
import type { GeometryPage } from '../resources/geometry-pages.js';
import type { GpuGeometry } from '../resources/geometry-store.js';
import type { InstanceBuffer } from '../resources/instance-buffer.js';
import type { PipelineStore } from '../resources/pipeline-store.js';
import type { PreparedBatch } from './prepared-scene.js';

/** Draws behind one another that differ in their geometry alone, gathered until another comes, and drawn at once. */
export class Together {
  private draws = new Uint32Array(64 * MULTI_DRAW_WORDS);
  private count = 0;
  // What the gathered ones have in common; set by the first.
  private pipeline!: DevicePipeline;
  private ready!: PreparedBatch;
  private page!: GeometryPage;
  /** What the first draws, in words for the errors of the GPU's own checks. */
  private label: string | undefined;

  constructor(
    private readonly multiDraw: MultiDraw,
    private readonly pipelines: PipelineStore,
  ) {}

  /** Whether instances are to be kept as storage besides. */
  get fromStorage(): boolean {
    return this.multiDraw.fromStorage;
  }

  /**
   * Gathers a draw, after the others were drawn where it does not go with them.
   *
   * @param geometry what is drawn of it
   * @param pipeline what it is drawn with
   * @param label what it is, while developing
   * @returns whether it was gathered; false for geometry that shares nothing
   */
  add(
    pass: RenderPass,
    list: DrawList,
    command: number,
    ready: PreparedBatch,
    geometry: GpuGeometry,
    pipeline: DevicePipeline,
    instances: InstanceBuffer,
    label: string | undefined,
  ): boolean {
    const { page } = geometry;
    if (!page) return false;
    if (this.count > 0 && (pipeline !== this.pipeline || page !== this.page || !isAlike(ready, this.ready)))
      this.flush(pass, instances);
    if (this.count === 0) {
      this.pipeline = pipeline;
      this.page = page;
      this.ready = ready;
      this.label = label;
    }
    const at = this.count++ * MULTI_DRAW_WORDS;
    if (this.draws.length < at + MULTI_DRAW_WORDS) {
      const grown = new Uint32Array(this.draws.length * 2);
      grown.set(this.draws);
      this.draws = grown;
    }
    const { draws } = this;
    draws[at] = geometry.count;
    draws[at + 1] = list.commandCount[command]!; // a command of the list, here and below
    draws[at + 2] = geometry.firstIndex;
    draws[at + 3] = list.commandFirst[command]!;
    if (this.count === this.multiDraw.most) this.flush(pass, instances);
    return true;
  }

  /** Draws what was gathered. Group 0 is set. */
  flush(pass: RenderPass, instances: InstanceBuffer): void {
    const { count, draws, label, multiDraw, page, pipeline, ready } = this;
    if (count === 0) return;
    this.count = 0;
    if (label !== undefined) pass.pushDebugGroup(count > 1 ? `${label}, and ${count - 1} more` : label);
    const several =
      count > 1 && (!multiDraw.fromStorage || instances.storage)
        ? this.pipelines.several(pipeline, multiDraw)
        : undefined;
    pass.setPipeline(several ?? pipeline);
    setGroups(pass, ready);
    const { slots } = page;
    for (let slot = 0; slot < slots.length; slot++) {
      const { buffer, offset } = slots[slot]!; // slot < length
      pass.setVertexBuffer(slot + 1, buffer, offset);
    }
    pass.setIndexBuffer(page.indexBuffer!, 'uint16'); // it has geometries
    const buffer = instances.buffer!; // there is something to draw
    if (several) {
      pass.setVertexBuffer(0, buffer);
      multiDraw.draw(pass, draws, count, instances.storage);
    } else {
      for (let at = 0; at < count * MULTI_DRAW_WORDS; at += MULTI_DRAW_WORDS) {
        pass.setVertexBuffer(0, buffer, draws[at + 3]! * 4); // whole draws, here and below
        pass.drawIndexed(draws[at]!, draws[at + 1]!, draws[at + 2]!);
      }
    }
    if (label !== undefined) pass.popDebugGroup();
  }
}

const isAlike = (a: PreparedBatch, b: PreparedBatch): boolean =>
  a.material.group === b.material.group && a.settings?.group === b.settings?.group && a.layers === b.layers;

/** What a batch binds besides the frame's group. */
export function setGroups(pass: RenderPass, { layers, material, settings }: PreparedBatch): void {
  pass.setBindGroup(1, material.group);
  if (settings) pass.setBindGroup(2, settings.group);
  if (layers) pass.setBindGroup(3, layers);
}
