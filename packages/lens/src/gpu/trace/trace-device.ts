import { alreadyInPass, checkBuffer, checkTexture, checkWrite } from '#checks';
import type * as api from '../device.js';
import { DeviceCounts } from '../counts.js';
import { bufferSize, FORMAT_BYTES, layersOf, levelsOf, textureBytes } from '../sizes.js';
import { Living } from '../living.js';

/** One recorded call: its name, then its arguments in order. */
export type TraceCommand = readonly [name: string, ...rest: unknown[]];

/**
 * A device that draws nothing and writes down what it is told, so that draw calls and uploads can be
 * tested and budgeted without a GPU. `readTexture` gives zeros.
 */
export class TraceDevice implements api.Device {
  readonly backend = 'trace';
  readonly isSoftware = false;
  readonly limits: api.DeviceLimits = {
    maxTextureSize: 16384,
    maxSamples: 4,
    maxColorAttachments: 8,
    uniformAlignment: 256,
    maxUniformBytes: 65536,
  };
  readonly features: ReadonlySet<api.DeviceFeature> = new Set<api.DeviceFeature>([
    'float16-renderable',
    'clip-control',
  ]);
  readonly counts = new DeviceCounts();
  readonly canvasTexture: api.DeviceTexture;
  /** What was called, in order, while `recording` is true. */
  readonly commands: TraceCommand[] = [];
  recording = true;
  private readonly pass: TracePass;
  private readonly living = new Living(this.counts);

  constructor(size: { width: number; height: number } = { width: 640, height: 400 }) {
    this.pass = new TracePass(this);
    this.canvasTexture = {
      kind: 'texture',
      label: 'canvas',
      ...size,
      format: 'rgba8unorm',
      sampleCount: 1,
      mipLevelCount: 1,
      shape: '2d',
      layers: 1,
      dispose: () => undefined,
    };
  }

  createBuffer(options: api.BufferOptions): api.DeviceBuffer {
    checkBuffer(options);
    const { label = '', usage, data } = options;
    const size = bufferSize(options);
    this.record('createBuffer', label, usage, size);
    this.counts.bufferBytes += size;
    const kept = this.living.keep('buffers', { kind: 'buffer' as const, label, usage, size }, () => {
      this.counts.bufferBytes -= size;
    });
    if (data) this.writeBuffer(kept, 0, data);
    return kept;
  }

  createTexture(options: api.TextureOptions): api.DeviceTexture {
    checkTexture(options, this.limits);
    const { label = '', width, height, format, sampleCount = 1, shape = '2d' } = options;
    const mipLevelCount = levelsOf(options);
    const layers = layersOf(options);
    this.record('createTexture', label, width, height, format);
    this.counts.textureBytes += textureBytes(options);
    const texture = {
      kind: 'texture' as const,
      label,
      width,
      height,
      format,
      mipLevelCount,
      sampleCount,
      shape,
      layers,
    };
    const kept = this.living.keep('textures', texture, () => {
      this.counts.textureBytes -= textureBytes(options);
    });
    if (options.data) this.writeTexture(kept, options.data);
    if (options.mipmaps) this.generateMipmaps(kept);
    return kept;
  }

  createSampler(): api.DeviceSampler {
    return this.living.keep('samplers', { kind: 'sampler' as const });
  }

  createShader(): api.DeviceShader {
    return this.living.keep('shaders', { kind: 'shader' as const });
  }

  createBindGroup(options: api.BindGroupOptions): api.DeviceBindGroup {
    this.record('createBindGroup', options.label ?? '');
    return this.living.keep('bindGroups', { kind: 'bind-group' as const });
  }

  createRenderPipeline(options: api.RenderPipelineOptions): api.DevicePipeline {
    this.record('createRenderPipeline', options.label ?? '');
    const pipeline = {
      kind: 'pipeline' as const,
      label: options.label ?? '',
      topology: options.topology,
      isReady: true,
      ready: () => Promise.resolve(),
    };
    return this.living.keep('pipelines', pipeline);
  }

  createTimer(): Promise<undefined> {
    return Promise.resolve(undefined);
  }

  openMultiDraw(): Promise<undefined> {
    return Promise.resolve(undefined);
  }

  openPacked(): Promise<undefined> {
    return Promise.resolve(undefined);
  }

  openCompute(): Promise<undefined> {
    return Promise.resolve(undefined);
  }

  writeBuffer(
    buffer: api.DeviceBuffer,
    offset: number,
    data: api.TypedNumbers,
    first = 0,
    length = data.length - first,
  ): void {
    const bytes = length * data.BYTES_PER_ELEMENT;
    checkWrite(buffer.size, offset, bytes, buffer.label);
    this.counts.bytesUploaded += bytes;
    if (this.recording) this.commands.push(['writeBuffer', buffer.label, offset, bytes]);
  }

  writeTexture(texture: api.DeviceTexture, data: api.TypedNumbers): void {
    this.counts.bytesUploaded += data.byteLength;
    this.record('writeTexture', texture.label, data.byteLength);
  }

  copyExternalImage(texture: api.DeviceTexture): void {
    const bytes = texture.width * texture.height * FORMAT_BYTES[texture.format];
    this.counts.bytesUploaded += bytes;
    this.record('copyExternalImage', texture.label, bytes);
  }

  generateMipmaps(texture: api.DeviceTexture): void {
    this.record('generateMipmaps', texture.label);
  }

  readTexture({ format, height, width }: api.DeviceTexture): Promise<api.TypedNumbers> {
    const isFloat = format.endsWith('float');
    return Promise.resolve(
      isFloat ? new Float32Array(width * height * 4) : new Uint8Array(width * height * FORMAT_BYTES[format]),
    );
  }

  beginRenderPass(options: api.RenderPassOptions): api.RenderPass {
    if (this.pass.isOpen) throw alreadyInPass();
    this.pass.isOpen = true;
    this.counts.passes++;
    if (this.recording) this.commands.push(['beginRenderPass', options.label ?? '']);
    return this.pass;
  }

  copyDepth(source: api.DeviceTexture, target: api.DeviceTexture): void {
    this.record('copyDepth', source.label, target.label);
  }

  copyTexture(source: api.DeviceTexture, target: api.DeviceTexture): void {
    this.record('copyTexture', source.label, target.label);
  }

  copyBuffer(source: api.DeviceBuffer, target: api.DeviceBuffer): void {
    this.record('copyBuffer', source.label, target.label);
  }

  submit(): void {
    if (this.recording) this.commands.push(['submit']);
  }

  owners(): api.MemoryOwner[] {
    return this.living.owners();
  }

  dispose(): void {
    this.living.dispose();
  }

  /** @internal */
  record(...command: TraceCommand): void {
    if (this.recording) this.commands.push(command);
  }
}

class TracePass implements api.RenderPass {
  isOpen = false;
  private topology: api.RenderPipelineOptions['topology'];

  constructor(private readonly device: TraceDevice) {}

  setPipeline(pipeline: api.DevicePipeline): void {
    this.topology = (pipeline as api.DevicePipeline & api.RenderPipelineOptions).topology;
    this.device.counts.pipelineChanges++;
    if (this.device.recording) this.device.commands.push(['setPipeline', pipeline.label]);
  }

  setBindGroup(index: number, _group: api.DeviceBindGroup, dynamicOffset = 0): void {
    this.device.counts.bindGroupChanges++;
    if (this.device.recording) this.device.commands.push(['setBindGroup', index, dynamicOffset]);
  }

  setVertexBuffer(slot: number, buffer: api.DeviceBuffer, offset = 0): void {
    this.device.counts.vertexBufferChanges++;
    if (this.device.recording) this.device.commands.push(['setVertexBuffer', slot, buffer.label, offset]);
  }

  setIndexBuffer(buffer: api.DeviceBuffer, format: 'uint16' | 'uint32'): void {
    if (this.device.recording) this.device.commands.push(['setIndexBuffer', buffer.label, format]);
  }

  setBlendConstant(rgba: ArrayLike<number>): void {
    if (this.device.recording) this.device.commands.push(['setBlendConstant', ...Array.from(rgba)]);
  }

  setViewport(x: number, y: number, width: number, height: number): void {
    if (this.device.recording) this.device.commands.push(['setViewport', x, y, width, height]);
  }

  setScissor(x: number, y: number, width: number, height: number): void {
    if (this.device.recording) this.device.commands.push(['setScissor', x, y, width, height]);
  }

  draw(vertexCount: number, instanceCount = 1, firstVertex = 0): void {
    this.device.counts.addDraw(this.topology, vertexCount, instanceCount);
    if (this.device.recording) this.device.commands.push(['draw', vertexCount, instanceCount, firstVertex]);
  }

  drawIndexed(indexCount: number, instanceCount = 1, firstIndex = 0): void {
    this.device.counts.addDraw(this.topology, indexCount, instanceCount);
    if (this.device.recording)
      this.device.commands.push(['drawIndexed', indexCount, instanceCount, firstIndex]);
  }

  drawIndirect(buffer: api.DeviceBuffer, offset: number): void {
    this.device.counts.addDraw(this.topology, 0, 0);
    this.device.record('drawIndirect', buffer.label, offset);
  }

  drawIndexedIndirect(buffer: api.DeviceBuffer, offset: number): void {
    this.device.counts.addDraw(this.topology, 0, 0);
    this.device.record('drawIndexedIndirect', buffer.label, offset);
  }

  pushDebugGroup(label: string): void {
    if (this.device.recording) this.device.commands.push(['pushDebugGroup', label]);
  }

  popDebugGroup(): void {
    if (this.device.recording) this.device.commands.push(['popDebugGroup']);
  }

  end(): void {
    this.isOpen = false;
    if (this.device.recording) this.device.commands.push(['end']);
  }
}
