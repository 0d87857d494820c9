import { fromHalfFloats, LensError, toHalfFloats } from '@umber-lens/core/engine';
import {
  alreadyInPass,
  checkAlive,
  checkBuffer,
  checkInputs,
  checkSubresource,
  checkTargets,
  checkTexture,
  checkWrite,
  watchGroup,
  watchPipeline,
  watchShader,
  watchTexture,
} from '#checks';
import type { DeviceCompute } from '../compute.js';
import type * as api from '../device.js';
import type { MultiDraw } from '../multi-draw.js';
import type { PackedTextures } from '../packed.js';
import { DeviceCounts } from '../counts.js';
import {
  bufferSize,
  FORMAT_BYTES,
  hasStencil,
  layersOf,
  levelSize,
  levelsOf,
  textureBytes,
} from '../sizes.js';
import { Living } from '../living.js';
import { Blits } from './blits.js';
import { Layouts } from './layouts.js';
import {
  canvasTexture,
  handleOf,
  oneView,
  RENDER_ATTACHMENT,
  TEXTURE_BINDING,
  TEXTURE_COPY_DST,
  TEXTURE_COPY_SRC,
} from './textures.js';
import type { WebgpuBindGroup, WebgpuBuffer, WebgpuShader } from './objects.js';
import { webgpuPipeline } from './pipeline.js';
import { WebgpuPass } from './webgpu-pass.js';

// The interface's own numbers: the objects that name them are not there in Node.
const COPY_SRC = 4;
const COPY_DST = 8;
const MAP_READ = 1;
const BUFFER_USAGE: Record<api.BufferUsage, number> = {
  index: 16,
  vertex: 32,
  uniform: 64,
  storage: 128,
  indirect: 256,
};

export interface WebgpuDeviceOptions {
  /** The canvas that is drawn into. */
  canvas?: HTMLCanvasElement;
  /** Hears of what the GPU refuses: wrong use, or too little memory. Default: the console. */
  onError?: (error: LensError) => void;
}

/** The device on WebGPU. */
export class WebgpuDevice implements api.Device {
  readonly backend = 'webgpu';
  get isSoftware(): boolean {
    const info = (this.gpu as { adapterInfo?: GPUAdapterInfo }).adapterInfo;
    return (
      info !== undefined &&
      /swiftshader|llvmpipe|software|basic render/i.test(
        `${info.vendor} ${info.architecture} ${info.device} ${info.description}`,
      )
    );
  }
  readonly limits: api.DeviceLimits;
  readonly features: ReadonlySet<api.DeviceFeature>;
  readonly counts = new DeviceCounts();
  readonly canvasTexture: api.DeviceTexture | undefined;
  /** @internal For groups of which a shader wants nothing. */
  readonly emptyGroup: WebgpuBindGroup = {
    kind: 'bind-group',
    label: 'empty',
    byBinding: [],
    made: new Map(),
    dispose: () => undefined,
  };
  /** @internal */
  readonly layouts: Layouts;
  /** @internal Whether a pass that computes is open. */
  isComputing = false;
  private compute: Promise<DeviceCompute> | undefined;
  private readonly pass = new WebgpuPass(this);
  /** @internal */
  readonly living = new Living(this.counts);
  private encoder: GPUCommandEncoder | undefined;
  private readonly blits = new Blits(this);

  /** @param gpu a device of the caller's, who also destroys it */
  constructor(
    readonly gpu: GPUDevice,
    options: WebgpuDeviceOptions = {},
  ) {
    const { limits } = gpu;
    this.limits = {
      maxTextureSize: limits.maxTextureDimension2D,
      maxSamples: 4,
      maxColorAttachments: limits.maxColorAttachments,
      uniformAlignment: limits.minUniformBufferOffsetAlignment,
      maxUniformBytes: limits.maxUniformBufferBindingSize,
    };
    this.features = new Set<api.DeviceFeature>([
      'float16-renderable',
      'float32-renderable',
      'clip-control',
      'anisotropy',
      'compute',
      'multi-draw',
      ...(gpu.features.has('timestamp-query') ? (['timestamps'] as const) : []),
      ...(gpu.features.has('depth32float-stencil8') ? (['depth32float-stencil8'] as const) : []),
    ]);
    this.layouts = new Layouts(gpu);
    this.canvasTexture = options.canvas && canvasTexture(gpu, options.canvas);
    const tell = options.onError ?? ((error: LensError) => console.error(error.toString()));
    gpu.onuncapturederror = (event) => {
      // Told once, in our words: not by the browser as well.
      event.preventDefault?.();
      const isMemory = 'GPUOutOfMemoryError' in globalThis && event.error instanceof GPUOutOfMemoryError;
      tell(new LensError(isMemory ? 'device/memory' : 'device/validation', event.error.message));
    };
  }

  createBuffer(options: api.BufferOptions): api.DeviceBuffer {
    checkBuffer(options);
    const { label = '', usage, data, writable = false } = options;
    const size = bufferSize(options);
    // Copies go by four bytes, and so does what is bound.
    const handle = this.gpu.createBuffer({
      label,
      size: (size + 3) & ~3,
      usage: BUFFER_USAGE[usage] | (writable ? BUFFER_USAGE.storage : 0) | COPY_DST | COPY_SRC,
    });
    this.counts.bufferBytes += size;
    const kept = this.living.keep('buffers', { kind: 'buffer' as const, label, usage, size, handle }, () => {
      handle.destroy();
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
    const isDrawn = options.renderable === true || mipLevelCount > 1 || sampleCount > 1;
    const handle = this.gpu.createTexture({
      label,
      size: [width, height, layers],
      format,
      mipLevelCount,
      sampleCount,
      usage:
        TEXTURE_BINDING |
        (sampleCount > 1 ? 0 : TEXTURE_COPY_SRC | TEXTURE_COPY_DST) |
        // The browser's own copies of pictures are draws, too.
        (isDrawn || !/^depth|snorm$/.test(format) ? RENDER_ATTACHMENT : 0),
    });
    const isStencil = hasStencil(format);
    let whole: GPUTextureView | undefined;
    const targets: GPUTextureView[] = [];
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
      handle,
      view: () =>
        (whole ??= handle.createView({
          dimension: shape,
          ...(isStencil ? { aspect: 'depth-only' as const } : {}),
        })),
      target: (level = 0, layer = 0) =>
        (targets[level * layers + layer] ??=
          mipLevelCount === 1 && layers === 1 && !isStencil ? texture.view() : oneView(handle, level, layer)),
    };
    this.counts.textureBytes += textureBytes(options);
    const kept = this.living.keep('textures', texture, () => {
      handle.destroy();
      this.counts.textureBytes -= textureBytes(options);
    });
    watchTexture(kept, options);
    if (options.data) this.writeTexture(kept, options.data);
    if (options.mipmaps) this.generateMipmaps(kept);
    return kept;
  }

  createSampler(options: api.SamplerOptions = {}): api.DeviceSampler {
    const { label = '', magFilter = 'linear', minFilter = 'linear', mipmapFilter = 'linear' } = options;
    const handle = this.gpu.createSampler({
      label,
      magFilter,
      minFilter,
      mipmapFilter: mipmapFilter === 'none' ? 'nearest' : mipmapFilter,
      ...(mipmapFilter === 'none' ? { lodMaxClamp: 0 } : {}),
      addressModeU: options.addressModeU ?? 'repeat',
      addressModeV: options.addressModeV ?? 'repeat',
      maxAnisotropy: options.maxAnisotropy ?? 1,
      ...(options.compare ? { compare: options.compare } : {}),
    });
    return this.living.keep('samplers', { kind: 'sampler' as const, handle });
  }

  createShader(options: api.ShaderOptions): api.DeviceShader {
    const { label = 'shader', wgsl, vertex, fragment, resources } = options;
    if (
      options.notInWebgpu !== undefined ||
      wgsl === undefined ||
      vertex === undefined ||
      fragment === undefined
    ) {
      throw new LensError(
        'shader/no-wgsl',
        `shader "${label}" has no WGSL, which WebGPU needs${options.notInWebgpu ? `: ${options.notInWebgpu}` : ''}`,
        {
          hint: 'Give wgsl with the names of its entry points, or open the lens with backend: "webgl2".',
        },
      );
    }
    if (!resources && /@group/.test(wgsl)) {
      throw new LensError('shader/no-resources', `what shader "${label}" binds is not told`, {
        hint: 'Compile it with compileModule, which lists its resources, or import the .wgsl file.',
      });
    }
    const groups = this.layouts.of(resources ?? []);
    const shader: Omit<WebgpuShader, 'dispose'> = {
      kind: 'shader',
      label,
      module: this.gpu.createShaderModule({ label, code: wgsl }),
      vertex,
      fragment,
      outputs: options.outputs,
      groups,
      layout: this.gpu.createPipelineLayout({
        label,
        bindGroupLayouts: groups.map(({ handle }) => handle),
      }),
    };
    const kept = this.living.keep('shaders', shader);
    watchShader(kept, options);
    return kept;
  }

  createBindGroup(options: api.BindGroupOptions): api.DeviceBindGroup {
    const byBinding: (api.BindGroupEntry | undefined)[] = [];
    for (const entry of options.entries) byBinding[entry.binding] = entry;
    const group: Omit<WebgpuBindGroup, 'dispose'> = {
      kind: 'bind-group',
      label: options.label ?? '',
      byBinding,
      made: new Map(),
    };
    const kept = this.living.keep('bindGroups', group, () => group.made.clear());
    watchGroup(kept, options);
    return kept;
  }

  createRenderPipeline(options: api.RenderPipelineOptions): api.DevicePipeline {
    checkTargets(options.label ?? '', (options.shader as WebgpuShader).outputs, options.targets);
    checkInputs(options);
    const kept = this.living.keep('pipelines', webgpuPipeline(this.gpu, options));
    watchPipeline(kept, options);
    return kept;
  }

  async createTimer(label = 'timer'): Promise<api.DeviceTimer | undefined> {
    if (!this.features.has('timestamps')) return undefined;
    const { WebgpuTimer } = await import('./webgpu-timer.js');
    return new WebgpuTimer(this.gpu, label, () => this.submit());
  }

  async openMultiDraw(): Promise<MultiDraw> {
    const { WebgpuMultiDraw } = await import('./webgpu-multi-draw.js');
    return new WebgpuMultiDraw();
  }

  async openPacked(): Promise<PackedTextures> {
    const { WebgpuPacked } = await import('./webgpu-packed.js');
    return new WebgpuPacked(this);
  }

  openCompute(): Promise<DeviceCompute> {
    return (this.compute ??= import('./webgpu-compute.js').then(
      ({ WebgpuCompute }) => new WebgpuCompute(this),
    ));
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
    if (bytes === 0) return;
    checkAlive(buffer, 'written to');
    this.counts.bytesUploaded += bytes;
    // What was recorded before must see what was there before.
    this.submit();
    const { handle } = buffer as WebgpuBuffer;
    if (bytes % 4 === 0) {
      this.gpu.queue.writeBuffer(handle, offset, data as AllowSharedBufferSource, first, length);
      return;
    }
    const padded = new Uint8Array((bytes + 3) & ~3);
    padded.set(new Uint8Array(data.buffer, data.byteOffset + first * data.BYTES_PER_ELEMENT, bytes));
    this.gpu.queue.writeBuffer(handle, offset, padded);
  }

  writeTexture(texture: api.DeviceTexture, data: api.TypedNumbers, at: api.Subresource = {}): void {
    checkSubresource(texture, at);
    const { level = 0, layer = 0 } = at;
    const { format } = texture;
    const width = levelSize(texture.width, level);
    const height = levelSize(texture.height, level);
    const pixel = FORMAT_BYTES[format];
    const isHalf = format.endsWith('16float') && data instanceof Float32Array;
    const given = isHalf ? data.length * 2 : data.byteLength;
    if (given !== width * height * pixel) {
      throw new LensError(
        'device/size',
        `texture "${texture.label}" takes ${width * height * pixel} bytes, got ${given}`,
      );
    }
    this.submit();
    this.gpu.queue.writeTexture(
      { texture: handleOf(texture), mipLevel: level, origin: [0, 0, layer] },
      (isHalf ? toHalfFloats(data) : data) as AllowSharedBufferSource,
      { bytesPerRow: width * pixel },
      [width, height],
    );
    this.counts.bytesUploaded += data.byteLength;
  }

  copyExternalImage(texture: api.DeviceTexture, source: object): void {
    const { width, height, format } = texture;
    this.submit();
    this.gpu.queue.copyExternalImageToTexture(
      { source: source as ImageBitmap },
      { texture: handleOf(texture), premultipliedAlpha: false },
      [width, height],
    );
    this.counts.bytesUploaded += width * height * FORMAT_BYTES[format];
  }

  generateMipmaps(texture: api.DeviceTexture): void {
    if (texture.mipLevelCount > 1) this.blits.shrink(this.recording(), texture);
  }

  async readTexture(texture: api.DeviceTexture, at: api.Subresource = {}): Promise<api.TypedNumbers> {
    checkSubresource(texture, at);
    checkAlive(texture, 'read');
    const { level = 0, layer = 0 } = at;
    const { format } = texture;
    const width = levelSize(texture.width, level);
    const height = levelSize(texture.height, level);
    const row = width * FORMAT_BYTES[format];
    const padded = Math.ceil(row / 256) * 256;
    const buffer = this.gpu.createBuffer({ size: padded * height, usage: MAP_READ | COPY_DST });
    this.recording().copyTextureToBuffer(
      { texture: handleOf(texture), mipLevel: level, origin: [0, 0, layer] },
      { buffer, bytesPerRow: padded },
      [width, height],
    );
    this.submit();
    await buffer.mapAsync(MAP_READ);
    const mapped = new Uint8Array(buffer.getMappedRange());
    const bytes = new Uint8Array(row * height);
    for (let y = 0; y < height; y++) bytes.set(mapped.subarray(y * padded, y * padded + row), y * row);
    buffer.destroy();
    if (format.endsWith('32float')) return new Float32Array(bytes.buffer);
    if (format === 'rgb10a2unorm') return new Uint32Array(bytes.buffer);
    if (format.endsWith('snorm')) return new Int8Array(bytes.buffer);
    if (format.endsWith('16float')) return fromHalfFloats(new Uint16Array(bytes.buffer));
    if (format === 'bgra8unorm') swapRedAndBlue(bytes);
    return bytes;
  }

  beginRenderPass(options: api.RenderPassOptions): api.RenderPass {
    this.checkNoPass();
    this.pass.begin(this.recording(), options);
    this.counts.passes++;
    return this.pass;
  }

  copyDepth(source: api.DeviceTexture, target: api.DeviceTexture): void {
    if (source.sampleCount === 1) this.copyTexture(source, target);
    else this.blits.copyDepth(this.recording(), source, target);
  }

  copyTexture(source: api.DeviceTexture, target: api.DeviceTexture): void {
    const { width, height } = target;
    this.recording().copyTextureToTexture({ texture: handleOf(source) }, { texture: handleOf(target) }, [
      width,
      height,
    ]);
  }

  copyBuffer(source: api.DeviceBuffer, target: api.DeviceBuffer): void {
    const [from, to] = [(source as WebgpuBuffer).handle, (target as WebgpuBuffer).handle];
    this.recording().copyBufferToBuffer(from, 0, to, 0, from.size);
  }

  openCanvas(canvas: HTMLCanvasElement): api.DeviceTexture {
    return canvasTexture(this.gpu, canvas);
  }

  submit(): void {
    if (!this.encoder) return;
    const { encoder } = this;
    this.encoder = undefined;
    this.gpu.queue.submit([encoder.finish()]);
  }

  owners(): api.MemoryOwner[] {
    return this.living.owners();
  }

  dispose(): void {
    this.living.dispose();
  }

  /** @internal @throws LensError `device/pass-open` */
  checkNoPass(): void {
    if (this.pass.isOpen || this.isComputing) throw alreadyInPass(this.pass.label);
  }

  /** @internal */
  recording(): GPUCommandEncoder {
    return (this.encoder ??= this.gpu.createCommandEncoder());
  }
}

function swapRedAndBlue(bytes: Uint8Array): void {
  for (let i = 0; i < bytes.length; i += 4) {
    const red = bytes[i + 2]!; // whole pixels
    bytes[i + 2] = bytes[i]!;
    bytes[i] = red;
  }
}
