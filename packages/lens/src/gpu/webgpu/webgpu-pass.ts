import { LensError } from '@umber-lens/core/engine';
import type { DeviceBuffer, RenderPass, RenderPassOptions } from '../device.js';
import { PassState } from '../pass-state.js';
import { hasStencil } from '../sizes.js';
import { bindGroupFor } from './layouts.js';
import type { WebgpuBindGroup, WebgpuBuffer, WebgpuPipeline, WebgpuTexture } from './objects.js';
import type { WebgpuTimer } from './webgpu-timer.js';
import type { WebgpuDevice } from './webgpu-device.js';

/** Translates pass calls to WebGPU. One object serves every pass of a device. */
export class WebgpuPass extends PassState<WebgpuPipeline, WebgpuBindGroup> implements RenderPass {
  private encoder!: GPURenderPassEncoder; // set by begin
  private commands!: GPUCommandEncoder; // set by begin
  private timer: WebgpuTimer | undefined;
  private indexBuffer: DeviceBuffer | undefined;
  private indexFormat = '';

  constructor(private readonly device: WebgpuDevice) {
    super(device.counts);
  }

  begin(encoder: GPUCommandEncoder, options: RenderPassOptions): void {
    if (options.colorAttachments.length === 0 && !options.depthAttachment)
      throw new LensError('device/no-attachment', 'a render pass needs an attachment to draw into');
    this.reset(options);
    this.indexBuffer = undefined;
    const { depthAttachment } = options;
    const timer = options.timer as WebgpuTimer | undefined;
    this.timer = timer;
    this.commands = encoder;
    this.encoder = encoder.beginRenderPass({
      label: options.label ?? '',
      ...(timer ? { timestampWrites: timer.writes() } : {}),
      colorAttachments: options.colorAttachments.map(
        ({ texture, level, layer, resolveTarget, clearValue, store }) => ({
          view: (texture as WebgpuTexture).target(level, layer),
          ...(resolveTarget ? { resolveTarget: (resolveTarget as WebgpuTexture).target() } : {}),
          ...(clearValue ? { clearValue: colorOf(clearValue) } : {}),
          loadOp: clearValue ? ('clear' as const) : ('load' as const),
          storeOp: store === false ? ('discard' as const) : ('store' as const),
        }),
      ) as GPURenderPassColorAttachment[],
      ...(depthAttachment
        ? {
            depthStencilAttachment: {
              view: (depthAttachment.texture as WebgpuTexture).target(0, depthAttachment.layer),
              ...(depthAttachment.clearValue === undefined
                ? { depthLoadOp: 'load' as const }
                : { depthClearValue: depthAttachment.clearValue, depthLoadOp: 'clear' as const }),
              depthStoreOp: depthAttachment.store === false ? ('discard' as const) : ('store' as const),
              ...(hasStencil(depthAttachment.texture.format)
                ? {
                    stencilLoadOp:
                      depthAttachment.clearValue === undefined ? ('load' as const) : ('clear' as const),
                    stencilStoreOp:
                      depthAttachment.store === false ? ('discard' as const) : ('store' as const),
                  }
                : {}),
            },
          }
        : {}),
    });
  }

  setIndexBuffer(buffer: DeviceBuffer, format: 'uint16' | 'uint32'): void {
    if (this.indexBuffer === buffer && this.indexFormat === format) return;
    this.indexBuffer = buffer;
    this.indexFormat = format;
    this.encoder.setIndexBuffer((buffer as WebgpuBuffer).handle, format);
  }

  setBlendConstant(rgba: ArrayLike<number>): void {
    this.encoder.setBlendConstant(colorOf(rgba));
  }

  setViewport(x: number, y: number, width: number, height: number): void {
    this.encoder.setViewport(x, y, width, height, 0, 1);
  }

  setScissor(x: number, y: number, width: number, height: number): void {
    this.encoder.setScissorRect(x, y, width, height);
  }

  draw(vertexCount: number, instanceCount = 1, firstVertex = 0): void {
    const pipeline = this.apply();
    this.device.counts.addDraw(pipeline.topology, vertexCount, instanceCount);
    this.encoder.draw(vertexCount, instanceCount, firstVertex);
  }

  drawIndexed(indexCount: number, instanceCount = 1, firstIndex = 0): void {
    const pipeline = this.apply();
    this.device.counts.addDraw(pipeline.topology, indexCount, instanceCount);
    this.encoder.drawIndexed(indexCount, instanceCount, firstIndex);
  }

  /** @internal Draws that differ in their numbers alone. */
  drawSeveral(draws: Uint32Array, count: number, words: number): void {
    const { topology } = this.apply();
    const { counts } = this.device;
    for (let at = 0; at < count * words; at += words) {
      const [indices, instances] = [draws[at]!, draws[at + 1]!]; // whole draws, here and below
      counts.addDraw(topology, indices, instances);
      this.encoder.drawIndexed(indices, instances, draws[at + 2], 0, draws[at + 3]);
    }
    counts.drawsTogether += count;
  }

  drawIndirect(buffer: DeviceBuffer, offset: number): void {
    const pipeline = this.apply();
    this.device.counts.addDraw(pipeline.topology, 0, 0);
    this.encoder.drawIndirect((buffer as WebgpuBuffer).handle, offset);
  }

  drawIndexedIndirect(buffer: DeviceBuffer, offset: number): void {
    const pipeline = this.apply();
    this.device.counts.addDraw(pipeline.topology, 0, 0);
    this.encoder.drawIndexedIndirect((buffer as WebgpuBuffer).handle, offset);
  }

  pushDebugGroup(label: string): void {
    this.encoder.pushDebugGroup(label);
  }

  popDebugGroup(): void {
    this.encoder.popDebugGroup();
  }

  end(): void {
    this.isOpen = false;
    this.encoder.end();
    this.timer?.resolve(this.commands);
    this.timer = undefined;
  }

  private apply(): WebgpuPipeline {
    const pipeline = this.needPipeline();
    if (pipeline !== this.boundPipeline) {
      this.encoder.setPipeline(pipeline.handle);
      if (pipeline.stencilReference !== undefined)
        this.encoder.setStencilReference(pipeline.stencilReference);
      this.bound(pipeline);
    }
    if (this.dirtyGroups !== 0) this.applyGroups(pipeline);
    if (this.dirtySlots !== 0) this.applySlots(pipeline);
    return pipeline;
  }

  private applySlots(pipeline: WebgpuPipeline): void {
    for (let slot = 0; slot < pipeline.vertexBuffers; slot++) {
      if (((this.dirtySlots >>> slot) & 1) === 0) continue;
      const { handle } = this.needVertexBuffer(pipeline, slot) as WebgpuBuffer;
      this.encoder.setVertexBuffer(slot, handle, this.vertexOffsets[slot]);
    }
    this.dirtySlots = 0;
  }

  private applyGroups(pipeline: WebgpuPipeline): void {
    const { groups } = pipeline.shader;
    for (let index = 0; index < groups.length; index++) {
      const layout = groups[index];
      if (!layout || ((this.dirtyGroups >>> index) & 1) === 0) continue;
      const group = this.groups[index];
      if (!group && layout.resources.length > 0) {
        const { name } = layout.resources[0]!; // length > 0
        throw new LensError(
          'device/missing-binding',
          `pipeline "${pipeline.label}" needs bind group ${index}, for "${name}"`,
        );
      }
      const made = bindGroupFor(this.device.gpu, group ?? this.device.emptyGroup, layout, pipeline.label);
      this.encoder.setBindGroup(index, made, this.groupOffsets, index, layout.movable === undefined ? 0 : 1);
    }
    this.dirtyGroups = 0;
  }
}

function colorOf(rgba: ArrayLike<number>): GPUColorDict {
  return { r: rgba[0] ?? 0, g: rgba[1] ?? 0, b: rgba[2] ?? 0, a: rgba[3] ?? 0 };
}
