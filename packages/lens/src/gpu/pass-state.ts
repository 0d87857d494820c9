import { checkAlive, checkBindings, checkFits, checkGroup, checkPass, missing, noPipeline } from '#checks';
import type { DeviceCounts } from './counts.js';
import type { DeviceBindGroup, DeviceBuffer, DevicePipeline, RenderPassOptions } from './device.js';

export const MOST_GROUPS = 4;
export const MOST_SLOTS = 8;
const ALL_GROUPS = (1 << MOST_GROUPS) - 1;
const ALL_SLOTS = (1 << MOST_SLOTS) - 1;

/**
 * What a pass was told, and which of it the GPU does not know yet. Both backends draw by it, so that what is
 * set twice costs once; one object serves every pass of a device.
 */
export class PassState<Pipeline extends DevicePipeline, Group extends DeviceBindGroup> {
  isOpen = false;
  /** Of the pass that is open, or was last. */
  label = '';
  private into: RenderPassOptions | undefined;
  protected pipeline: Pipeline | undefined;
  protected boundPipeline: Pipeline | undefined;
  protected readonly groups: (Group | undefined)[] = new Array<undefined>(MOST_GROUPS).fill(undefined);
  protected readonly groupOffsets = new Uint32Array(MOST_GROUPS);
  /** Bit i is set when group i changed. */
  protected dirtyGroups = 0;
  protected readonly vertexBuffers: (DeviceBuffer | undefined)[] = new Array<undefined>(MOST_SLOTS).fill(
    undefined,
  );
  protected readonly vertexOffsets = new Uint32Array(MOST_SLOTS);
  /** Bit i is set when slot i changed. */
  protected dirtySlots = 0;

  constructor(private readonly ledger: DeviceCounts) {}

  /** To be called when a pass begins: it knows nothing of the one before. */
  protected reset(options: RenderPassOptions): void {
    checkPass(options);
    this.into = options;
    this.label = options.label ?? '';
    this.isOpen = true;
    this.pipeline = undefined;
    this.boundPipeline = undefined;
    this.groups.fill(undefined);
    this.vertexBuffers.fill(undefined);
    this.dirtyGroups = 0;
    this.dirtySlots = 0;
  }

  setPipeline(pipeline: DevicePipeline): void {
    if (this.pipeline === pipeline) return;
    checkFits(pipeline, this.into);
    this.pipeline = pipeline as Pipeline;
    this.ledger.pipelineChanges++;
  }

  setBindGroup(index: number, group: DeviceBindGroup, dynamicOffset = 0): void {
    if (this.groups[index] === group && this.groupOffsets[index] === dynamicOffset) return;
    checkGroup(group, this.into);
    this.groups[index] = group as Group;
    this.groupOffsets[index] = dynamicOffset;
    this.dirtyGroups |= 1 << index;
    this.ledger.bindGroupChanges++;
  }

  setVertexBuffer(slot: number, buffer: DeviceBuffer, offset = 0): void {
    if (this.vertexBuffers[slot] === buffer && this.vertexOffsets[slot] === offset) return;
    checkAlive(buffer, 'drawn');
    this.vertexBuffers[slot] = buffer;
    this.vertexOffsets[slot] = offset;
    this.dirtySlots |= 1 << slot;
    this.ledger.vertexBufferChanges++;
  }

  /** @throws LensError `device/no-pipeline` */
  protected needPipeline(): Pipeline {
    if (!this.pipeline) throw noPipeline();
    if (this.dirtyGroups !== 0) checkBindings(this.pipeline, this.groups);
    return this.pipeline;
  }

  /** A new pipeline reads other bindings and lays its vertices out differently. */
  protected bound(pipeline: Pipeline): void {
    this.boundPipeline = pipeline;
    this.dirtyGroups = ALL_GROUPS;
    this.dirtySlots = ALL_SLOTS;
  }

  /** The buffer of a slot that a pipeline reads. @throws LensError `device/missing-vertices` */
  protected needVertexBuffer(pipeline: Pipeline, slot: number): DeviceBuffer {
    const buffer = this.vertexBuffers[slot];
    if (!buffer) throw missing(pipeline, 'vertices', `a vertex buffer in slot ${slot}`);
    return buffer;
  }
}
