import { LensError } from '@umber-lens/core/engine';
import type {
  ComputePass,
  ComputePassOptions,
  ComputePipeline,
  ComputePipelineOptions,
  DeviceCompute,
} from '../compute.js';
import type { DeviceBindGroup, DeviceBuffer } from '../device.js';
import { bindGroupFor, type GroupLayout } from './layouts.js';
import type { WebgpuBindGroup, WebgpuBuffer } from './objects.js';
import type { WebgpuDevice } from './webgpu-device.js';
import type { WebgpuTimer } from './webgpu-timer.js';

const MAP_READ = 1;
const COPY_DST = 8;

interface WebgpuComputePipeline extends ComputePipeline {
  readonly handle: GPUComputePipeline;
  /** By group number. */
  readonly groups: readonly GroupLayout[];
}

/** Passes that compute, on WebGPU. */
export class WebgpuCompute implements DeviceCompute {
  private readonly pass: WebgpuComputePass;

  constructor(private readonly device: WebgpuDevice) {
    this.pass = new WebgpuComputePass(device);
  }

  createPipeline({ label = 'compute', shader, constants = {} }: ComputePipelineOptions): ComputePipeline {
    const { gpu, layouts, living } = this.device;
    if (!new RegExp(`\\bfn\\s+${shader.entry}\\b`).test(shader.wgsl))
      throw new LensError(
        'shader/entry',
        `shader "${shader.label ?? label}" has no entry point "${shader.entry}"`,
      );
    const groups = layouts.of(shader.resources, 'compute');
    const handle = gpu.createComputePipeline({
      label,
      layout: gpu.createPipelineLayout({ label, bindGroupLayouts: groups.map((group) => group.handle) }),
      compute: {
        module: gpu.createShaderModule({ label: shader.label ?? label, code: shader.wgsl }),
        entryPoint: shader.entry,
        constants: Object.fromEntries(
          Object.entries(constants).map(([name, value]) => [name, Number(value)]),
        ),
      },
    });
    const pipeline: Omit<WebgpuComputePipeline, 'dispose'> = {
      kind: 'compute-pipeline',
      label,
      handle,
      groups,
    };
    return living.keep('pipelines', pipeline);
  }

  beginPass(options: ComputePassOptions = {}): ComputePass {
    this.device.checkNoPass();
    this.pass.begin(options);
    return this.pass;
  }

  async readBuffer(buffer: DeviceBuffer, offset = 0, size = buffer.size - offset): Promise<ArrayBuffer> {
    const { device } = this;
    if (offset % 4 !== 0 || size % 4 !== 0 || offset < 0 || size <= 0 || offset + size > buffer.size) {
      throw new LensError(
        'device/read-out-of-bounds',
        `${size} bytes at ${offset} cannot be read of buffer "${buffer.label}" of ${buffer.size} bytes`,
        { hint: 'Both are multiples of 4 within it.' },
      );
    }
    const copy = device.gpu.createBuffer({ size, usage: MAP_READ | COPY_DST });
    device.recording().copyBufferToBuffer((buffer as WebgpuBuffer).handle, offset, copy, 0, size);
    device.submit();
    await copy.mapAsync(MAP_READ);
    const bytes = copy.getMappedRange().slice(0);
    copy.destroy();
    return bytes;
  }
}

/** One object serves every pass of a device. */
class WebgpuComputePass implements ComputePass {
  private encoder!: GPUComputePassEncoder; // set by begin
  private commands!: GPUCommandEncoder; // set by begin
  private timer: WebgpuTimer | undefined;
  private pipeline: WebgpuComputePipeline | undefined;
  private isBound = false;
  private readonly groups: (WebgpuBindGroup | undefined)[] = [];
  private readonly offsets = new Uint32Array(4);

  constructor(private readonly device: WebgpuDevice) {}

  begin({ label = 'compute', timer }: ComputePassOptions): void {
    this.device.isComputing = true;
    this.device.counts.passes++;
    this.commands = this.device.recording();
    this.timer = timer as WebgpuTimer | undefined;
    this.encoder = this.commands.beginComputePass({
      label,
      ...(this.timer ? { timestampWrites: this.timer.writes() } : {}),
    });
    this.pipeline = undefined;
    this.groups.length = 0;
  }

  setPipeline(pipeline: ComputePipeline): void {
    if (this.pipeline === pipeline) return;
    this.pipeline = pipeline as WebgpuComputePipeline;
    this.isBound = false;
    this.encoder.setPipeline(this.pipeline.handle);
  }

  setBindGroup(index: number, group: DeviceBindGroup, dynamicOffset = 0): void {
    this.groups[index] = group as WebgpuBindGroup;
    this.offsets[index] = dynamicOffset;
    this.isBound = false;
  }

  dispatch(x: number, y = 1, z = 1): void {
    const { device, groups, pipeline } = this;
    if (!pipeline) throw new LensError('device/no-pipeline', 'a dispatch needs a pipeline');
    if (!this.isBound) {
      for (let index = 0; index < pipeline.groups.length; index++) {
        const layout = pipeline.groups[index]!; // index < length
        const made = bindGroupFor(device.gpu, groups[index] ?? device.emptyGroup, layout, pipeline.label);
        this.encoder.setBindGroup(index, made, this.offsets, index, layout.movable === undefined ? 0 : 1);
      }
      this.isBound = true;
    }
    this.encoder.dispatchWorkgroups(x, y, z);
  }

  end(): void {
    this.encoder.end();
    this.device.isComputing = false;
    this.timer?.resolve(this.commands);
    this.timer = undefined;
  }
}
