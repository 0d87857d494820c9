import {
  alreadyInPass,
  checkAlive,
  checkBuffer,
  checkInputs,
  checkData,
  checkSubresource,
  checkTargets,
  checkTexture,
  checkWrite,
  depthCannotBeRead,
  watchGroup,
  watchPipeline,
  watchShader,
  watchTexture,
} from '#checks';
import type * as api from '../device.js';
import type { MultiDraw } from '../multi-draw.js';
import type { PackedTextures } from '../packed.js';
import { DeviceCounts } from '../counts.js';
import {
  bufferSize,
  FORMAT_BYTES,
  FORMAT_PARTS,
  layersOf,
  levelSize,
  levelsOf,
  textureBytes,
} from '../sizes.js';
import { Living } from '../living.js';
import { readBack } from './read-back.js';
import {
  blendFactor,
  blendOperation,
  stencilState,
  writeMaskOf,
  compareFunction,
  filterMode,
  textureFormat,
  topologyMode,
  vertexType,
  wrapMode,
} from './formats.js';
import type { VertexSlot, Webgl2BindGroup, Webgl2Buffer, Webgl2Pipeline, Webgl2Texture } from './objects.js';
import { Framebuffers, imageTarget } from './framebuffers.js';
import { programOf, type VertexEdit, type Webgl2Shader, webgl2Shader } from './shader.js';
import { copyStorage, createStorage, writeStorage } from './storage.js';
import type { MultiDrawExtension } from './webgl2-multi-draw.js';
import type { DisjointTimer } from './webgl2-timer.js';
import { Webgl2Pass } from './webgl2-pass.js';

interface ClipControl {
  clipControlEXT(origin: number, depth: number): void;
  readonly LOWER_LEFT_EXT: number;
  readonly ZERO_TO_ONE_EXT: number;
}

interface Anisotropy {
  readonly TEXTURE_MAX_ANISOTROPY_EXT: number;
  readonly MAX_TEXTURE_MAX_ANISOTROPY_EXT: number;
}

/** A divisor that no draw reaches: every instance has the first element. */
const EVERY_INSTANCE = 0x7fffffff;

/** The device on WebGL2. */
export class Webgl2Device implements api.Device {
  readonly backend = 'webgl2';
  get isSoftware(): boolean {
    const { gl } = this;
    // Browsers tell the true name by an extension.
    const known = gl.getExtension('WEBGL_debug_renderer_info');
    const name = String(gl.getParameter(known?.UNMASKED_RENDERER_WEBGL ?? gl.RENDERER));
    return /swiftshader|llvmpipe|software|basic render/i.test(name);
  }
  readonly limits: api.DeviceLimits;
  readonly features: ReadonlySet<api.DeviceFeature>;
  readonly counts = new DeviceCounts();
  readonly canvasTexture: api.DeviceTexture;
  /** @internal */
  readonly hasClipControl: boolean;
  private readonly anisotropy: Anisotropy | null;
  private readonly timing: DisjointTimer | null;
  /** @internal */
  readonly framebuffers: Framebuffers;
  private readonly pass: Webgl2Pass;
  /** @internal */
  readonly living = new Living(this.counts);

  /** @param gl a context of the caller's; the device expects to be its only user */
  constructor(readonly gl: WebGL2RenderingContext) {
    const features = new Set<api.DeviceFeature>(['depth32float-stencil8']);
    if (gl.getExtension('EXT_color_buffer_float'))
      features.add('float16-renderable').add('float32-renderable');
    else if (gl.getExtension('EXT_color_buffer_half_float')) features.add('float16-renderable');
    gl.getExtension('OES_texture_float_linear');
    const clipControl = gl.getExtension('EXT_clip_control') as ClipControl | null;
    clipControl?.clipControlEXT(clipControl.LOWER_LEFT_EXT, clipControl.ZERO_TO_ONE_EXT);
    if (clipControl) features.add('clip-control');
    this.hasClipControl = clipControl !== null;
    this.anisotropy = gl.getExtension('EXT_texture_filter_anisotropic');
    if (this.anisotropy) features.add('anisotropy');
    this.timing = gl.getExtension('EXT_disjoint_timer_query_webgl2') as DisjointTimer | null;
    if (this.timing) features.add('timestamps');
    if (gl.getSupportedExtensions()?.includes('WEBGL_multi_draw')) features.add('multi-draw');
    this.features = features;
    this.limits = {
      maxTextureSize: gl.getParameter(gl.MAX_TEXTURE_SIZE) as number,
      maxSamples: gl.getParameter(gl.MAX_SAMPLES) as number,
      maxColorAttachments: gl.getParameter(gl.MAX_COLOR_ATTACHMENTS) as number,
      uniformAlignment: gl.getParameter(gl.UNIFORM_BUFFER_OFFSET_ALIGNMENT) as number,
      maxUniformBytes: gl.getParameter(gl.MAX_UNIFORM_BLOCK_SIZE) as number,
    };
    gl.pixelStorei(gl.UNPACK_ALIGNMENT, 1);
    gl.pixelStorei(gl.PACK_ALIGNMENT, 1);
    gl.pixelStorei(gl.UNPACK_COLORSPACE_CONVERSION_WEBGL, gl.NONE);
    this.framebuffers = new Framebuffers(gl, features);
    this.pass = new Webgl2Pass(this);
    this.canvasTexture = canvasTexture(gl);
  }

  createBuffer(options: api.BufferOptions): api.DeviceBuffer {
    checkBuffer(options);
    const { gl } = this;
    const { label = '', usage, data } = options;
    const size = bufferSize(options);
    if (usage === 'storage') {
      const kept = this.createStorage(label, size);
      if (data) this.writeBuffer(kept, 0, data);
      return kept;
    }
    const target =
      usage === 'index' ? gl.ELEMENT_ARRAY_BUFFER : usage === 'uniform' ? gl.UNIFORM_BUFFER : gl.ARRAY_BUFFER;
    const handle = gl.createBuffer();
    gl.bindBuffer(target, handle);
    gl.bufferData(target, size, gl.DYNAMIC_DRAW);
    this.pass.invalidate();
    this.counts.bufferBytes += size;
    const buffer = { kind: 'buffer' as const, label, usage, size, handle, target, storage: undefined };
    const kept = this.living.keep('buffers', buffer, () => {
      gl.deleteBuffer(handle);
      this.counts.bufferBytes -= size;
    });
    if (data) this.writeBuffer(kept, 0, data);
    return kept;
  }

  private createStorage(label: string, size: number): api.DeviceBuffer {
    const { gl } = this;
    const { maxTextureSize } = this.limits;
    const storage = createStorage(gl, label, size, maxTextureSize, (handle) => this.bindForUpload(handle));
    this.counts.bufferBytes += size;
    const usage = 'storage' as const;
    const buffer = { kind: 'buffer' as const, label, usage, size, handle: null, target: 0, storage };
    return this.living.keep('buffers', buffer, () => {
      gl.deleteTexture(storage.handle);
      this.pass.invalidate();
      this.counts.bufferBytes -= size;
    });
  }

  createTexture(options: api.TextureOptions): api.DeviceTexture {
    checkTexture(options, this.limits);
    const { gl } = this;
    const { label = '', width, height, format, sampleCount = 1, shape = '2d' } = options;
    const mipLevelCount = levelsOf(options);
    const layers = layersOf(options);
    const target = bindTarget(gl, shape);
    const external = textureFormat(gl, format);
    let handle: WebGLTexture | null = null;
    let renderbuffer: WebGLRenderbuffer | null = null;
    if (sampleCount > 1) {
      renderbuffer = gl.createRenderbuffer();
      gl.bindRenderbuffer(gl.RENDERBUFFER, renderbuffer);
      gl.renderbufferStorageMultisample(gl.RENDERBUFFER, sampleCount, external.internal, width, height);
    } else {
      handle = gl.createTexture();
      this.bindForUpload(handle, target);
      if (shape === '2d-array')
        gl.texStorage3D(target, mipLevelCount, external.internal, width, height, layers);
      else gl.texStorage2D(target, mipLevelCount, external.internal, width, height);
      // Read without a sampler (texelFetch) it must be complete by itself.
      gl.texParameteri(target, gl.TEXTURE_MIN_FILTER, gl.NEAREST);
      gl.texParameteri(target, gl.TEXTURE_MAG_FILTER, gl.NEAREST);
    }
    const texture: Omit<Webgl2Texture, 'dispose'> = {
      kind: 'texture',
      label,
      width,
      height,
      format,
      sampleCount,
      mipLevelCount,
      shape,
      layers,
      handle,
      renderbuffer,
      target,
      external,
      isCanvas: false,
      isDepth: format.startsWith('depth'),
      framebuffers: [],
    };
    this.counts.textureBytes += textureBytes(options);
    const kept = this.living.keep('textures', texture, () => {
      for (const framebuffer of texture.framebuffers) gl.deleteFramebuffer(framebuffer.handle);
      gl.deleteTexture(handle);
      gl.deleteRenderbuffer(renderbuffer);
      this.pass.invalidate();
      this.counts.textureBytes -= textureBytes(options);
    });
    watchTexture(kept, options);
    if (options.data) this.writeTexture(kept, options.data);
    if (options.mipmaps) this.generateMipmaps(kept);
    return kept;
  }

  createSampler(options: api.SamplerOptions = {}): api.DeviceSampler {
    const { gl } = this;
    const handle = gl.createSampler();
    const { magFilter = 'linear', minFilter = 'linear', mipmapFilter = 'linear' } = options;
    gl.samplerParameteri(handle, gl.TEXTURE_MIN_FILTER, filterMode(gl, minFilter, mipmapFilter));
    gl.samplerParameteri(handle, gl.TEXTURE_MAG_FILTER, filterMode(gl, magFilter));
    gl.samplerParameteri(handle, gl.TEXTURE_WRAP_S, wrapMode(gl, options.addressModeU));
    gl.samplerParameteri(handle, gl.TEXTURE_WRAP_T, wrapMode(gl, options.addressModeV));
    if (options.compare) {
      gl.samplerParameteri(handle, gl.TEXTURE_COMPARE_MODE, gl.COMPARE_REF_TO_TEXTURE);
      gl.samplerParameteri(handle, gl.TEXTURE_COMPARE_FUNC, compareFunction(gl, options.compare));
    }
    if (this.anisotropy && (options.maxAnisotropy ?? 1) > 1) {
      const most = gl.getParameter(this.anisotropy.MAX_TEXTURE_MAX_ANISOTROPY_EXT) as number;
      const value = Math.min(options.maxAnisotropy ?? 1, most);
      gl.samplerParameterf(handle, this.anisotropy.TEXTURE_MAX_ANISOTROPY_EXT, value);
    }
    return this.living.keep('samplers', { kind: 'sampler' as const, handle }, () => gl.deleteSampler(handle));
  }

  createShader(options: api.ShaderOptions): api.DeviceShader {
    const shader = webgl2Shader(options);
    const kept = this.living.keep('shaders', shader, () => {
      for (const { program } of shader.programs.values()) this.gl.deleteProgram(program);
    });
    watchShader(kept, options);
    return kept;
  }

  createBindGroup(options: api.BindGroupOptions): api.DeviceBindGroup {
    const byBinding: (api.BindGroupEntry | undefined)[] = [];
    for (const entry of options.entries) byBinding[entry.binding] = entry;
    const group: Omit<Webgl2BindGroup, 'dispose'> = {
      kind: 'bind-group',
      entries: options.entries,
      byBinding,
    };
    const kept = this.living.keep('bindGroups', group);
    watchGroup(kept, options);
    return kept;
  }

  createRenderPipeline(options: api.RenderPipelineOptions): api.DevicePipeline {
    checkInputs(options);
    const made = this.makePipeline(options);
    watchPipeline(made, options);
    return made;
  }

  /** @internal */
  makePipeline(options: api.RenderPipelineOptions, vertexEdit?: VertexEdit): api.DevicePipeline {
    const { gl } = this;
    let locations = 0;
    const slots = (options.vertexBuffers ?? []).map((layout): VertexSlot => ({
      stride: layout.arrayStride,
      divisor: layout.arrayStride === 0 ? EVERY_INSTANCE : layout.stepMode === 'instance' ? 1 : 0,
      attributes: layout.attributes.map(({ shaderLocation, format, offset }) => {
        locations |= 1 << shaderLocation;
        return { ...vertexType(gl, format), location: shaderLocation, offset };
      }),
    }));
    const blend = options.targets?.[0]?.blend;
    const { cullMode = 'none', depth } = options;
    checkTargets(options.label ?? '', (options.shader as Webgl2Shader).outputs, options.targets);
    const pending = programOf(gl, options.shader as Webgl2Shader, options.constants, vertexEdit);
    let isReady = options.async !== true;
    const made = isReady
      ? Promise.resolve()
      : import('./linking.js')
          .then((module) => module.linking(gl, pending))
          .then(() => {
            isReady = true;
            // Linking binds the program.
            this.pass.invalidate();
          });
    // Whoever waits hears of what went wrong; nobody has to.
    made.catch(() => undefined);
    const pipeline: Omit<Webgl2Pipeline, 'dispose'> = {
      kind: 'pipeline',
      label: options.label ?? '',
      pending,
      get isReady() {
        return isReady;
      },
      ready: () => made,
      topology: options.topology,
      mode: topologyMode(gl, options.topology),
      slots,
      locations,
      cullFace: cullMode === 'none' ? 0 : cullMode === 'back' ? gl.BACK : gl.FRONT,
      clockwise: options.frontFace === 'cw',
      depthCompare: depth ? compareFunction(gl, depth.compare) : 0,
      depthWrite: depth?.write ?? false,
      bias: depth?.bias || depth?.biasSlopeScale ? [depth.bias ?? 0, depth.biasSlopeScale ?? 0] : undefined,
      stencil: depth?.stencil && stencilState(gl, depth.stencil),
      writeMask: writeMaskOf(options.targets?.[0]?.write),
      blend: blend && [
        ...[blend.color, blend.alpha].flatMap(({ srcFactor, dstFactor }) => [
          blendFactor(gl, srcFactor),
          blendFactor(gl, dstFactor),
        ]),
        ...[blend.color, blend.alpha].map(({ operation }) => blendOperation(gl, operation)),
      ],
    };
    return this.living.keep('pipelines', pipeline);
  }

  async openMultiDraw(): Promise<MultiDraw | undefined> {
    const extension = this.gl.getExtension('WEBGL_multi_draw') as MultiDrawExtension | null;
    if (!extension) return undefined;
    const { Webgl2MultiDraw } = await import('./webgl2-multi-draw.js');
    return new Webgl2MultiDraw(this, extension);
  }

  async openPacked(): Promise<PackedTextures> {
    const { Webgl2Packed } = await import('./webgl2-packed.js');
    return new Webgl2Packed(this);
  }

  openCompute(): Promise<undefined> {
    return Promise.resolve(undefined);
  }

  async createTimer(label = 'timer'): Promise<api.DeviceTimer | undefined> {
    if (!this.timing) return undefined;
    const { Webgl2Timer } = await import('./webgl2-timer.js');
    return new Webgl2Timer(this.gl, this.timing, label);
  }

  writeBuffer(
    buffer: api.DeviceBuffer,
    offset: number,
    data: api.TypedNumbers,
    first = 0,
    length = data.length - first,
  ): void {
    const { gl } = this;
    checkAlive(buffer, 'written to');
    const { handle, target, storage } = buffer as Webgl2Buffer;
    const bytes = length * data.BYTES_PER_ELEMENT;
    checkWrite(buffer.size, offset, bytes, buffer.label);
    if (bytes === 0) return;
    this.counts.bytesUploaded += bytes;
    if (storage) {
      this.bindForUpload(storage.handle);
      writeStorage(gl, storage, offset, data, first, length);
      return;
    }
    gl.bindBuffer(target, handle);
    gl.bufferSubData(target, offset, data, first, length);
  }

  writeTexture(texture: api.DeviceTexture, data: api.TypedNumbers, at: api.Subresource = {}): void {
    checkSubresource(texture, at);
    const { gl } = this;
    const { level = 0, layer = 0 } = at;
    const { handle, external, format, target, shape } = texture as Webgl2Texture;
    const width = levelSize(texture.width, level);
    const height = levelSize(texture.height, level);
    const expected = width * height * FORMAT_BYTES[format];
    const isFloat = external.type === gl.FLOAT;
    const given = isFloat ? data.length * (FORMAT_BYTES[format] / FORMAT_PARTS[format]) : data.byteLength;
    checkData(texture, expected, given);
    this.bindForUpload(handle, target);
    const { format: order, type } = external;
    if (shape === '2d-array')
      gl.texSubImage3D(target, level, 0, 0, layer, width, height, 1, order, type, data);
    else gl.texSubImage2D(imageTarget(gl, target, layer), level, 0, 0, width, height, order, type, data);
    this.counts.bytesUploaded += data.byteLength;
  }

  copyExternalImage(texture: api.DeviceTexture, source: object): void {
    const { gl } = this;
    const { handle, width, height, external, format } = texture as Webgl2Texture;
    this.bindForUpload(handle);
    const { format: order, type } = external;
    gl.texSubImage2D(gl.TEXTURE_2D, 0, 0, 0, width, height, order, type, source as TexImageSource);
    this.counts.bytesUploaded += width * height * FORMAT_BYTES[format];
  }

  generateMipmaps(texture: api.DeviceTexture): void {
    if (texture.mipLevelCount === 1) return;
    const { handle, target } = texture as Webgl2Texture;
    this.bindForUpload(handle, target);
    this.gl.generateMipmap(target);
  }

  async readTexture(texture: api.DeviceTexture, at: api.ReadOptions = {}): Promise<api.TypedNumbers> {
    checkSubresource(texture, at);
    checkAlive(texture, 'read');
    const { gl } = this;
    const { external, isCanvas, isDepth } = texture as Webgl2Texture;
    if (isDepth) throw depthCannotBeRead(texture);
    const width = levelSize(texture.width, at.level ?? 0);
    const height = levelSize(texture.height, at.level ?? 0);
    gl.bindFramebuffer(gl.FRAMEBUFFER, this.framebuffers.of([{ texture, ...at }], undefined));
    const isPacked = texture.format === 'rgb10a2unorm';
    const isFloat = external.type === gl.FLOAT;
    const Numbers = isFloat ? Float32Array : Uint8Array;
    const out = isPacked ? new Uint32Array(width * height) : new Numbers(width * height * 4);
    const type = isPacked ? external.type : isFloat ? gl.FLOAT : gl.UNSIGNED_BYTE;
    await readBack(gl, width, height, type, out, at.blocks);
    if (isCanvas) turnOver(out as Uint8Array, width * 4, height); // a canvas has bytes
    const parts = FORMAT_PARTS[texture.format];
    if (parts === 4 || isPacked) return out;
    // Of one or two numbers a pixel, the others are filled up.
    const cut = new Numbers(width * height * parts);
    for (let i = 0; i < cut.length; i++) cut[i] = out[Math.floor(i / parts) * 4 + (i % parts)]!; // in range
    return cut;
  }

  beginRenderPass(options: api.RenderPassOptions): api.RenderPass {
    if (this.pass.isOpen) throw alreadyInPass(this.pass.label);
    this.pass.begin(options);
    this.counts.passes++;
    return this.pass;
  }

  copyDepth(source: api.DeviceTexture, target: api.DeviceTexture): void {
    const { framebuffers, gl } = this;
    const from = framebuffers.of([], { texture: source });
    framebuffers.copy(from, framebuffers.of([], { texture: target }), target, gl.DEPTH_BUFFER_BIT);
  }

  copyTexture(source: api.DeviceTexture, target: api.DeviceTexture): void {
    const { framebuffers } = this;
    framebuffers.copy(framebuffers.ofOne(source), framebuffers.ofOne(target), target);
  }

  copyBuffer(source: api.DeviceBuffer, target: api.DeviceBuffer): void {
    const [from, to] = [(source as Webgl2Buffer).storage, (target as Webgl2Buffer).storage];
    if (!from || !to) return;
    this.bindForUpload(to.handle);
    copyStorage(this.gl, from, to);
  }

  get isGone(): boolean {
    return this.gl.isContextLost();
  }

  /** The browser hands over what was called by itself: a flush here would only make the script wait for it. */
  submit(): void {}

  owners(): api.MemoryOwner[] {
    return this.living.owners();
  }

  dispose(): void {
    this.living.dispose();
  }

  /** Has the next draw bind everything anew. @internal */
  forget(): void {
    this.pass.invalidate();
  }

  /** @internal */
  bindForUpload(handle: WebGLTexture | null, target: number = this.gl.TEXTURE_2D): void {
    // Unit 0 is rebound by the next draw that samples from it.
    this.gl.activeTexture(this.gl.TEXTURE0);
    this.gl.bindTexture(target, handle);
    this.pass.invalidate();
  }
}

/** The default framebuffer; its size is read from the context, since the canvas may be resized. */
function canvasTexture(gl: WebGL2RenderingContext): api.DeviceTexture {
  const texture = {
    kind: 'texture' as const,
    label: 'canvas',
    format: 'rgba8unorm' as const,
    sampleCount: 1,
    mipLevelCount: 1,
    shape: '2d' as const,
    layers: 1,
    get width() {
      return gl.drawingBufferWidth;
    },
    get height() {
      return gl.drawingBufferHeight;
    },
    handle: null,
    renderbuffer: null,
    target: gl.TEXTURE_2D,
    isCanvas: true,
    isDepth: false,
    external: textureFormat(gl, 'rgba8unorm'),
    framebuffers: [],
    dispose: () => undefined,
  };
  return texture;
}

function bindTarget(gl: WebGL2RenderingContext, shape: api.TextureShape): number {
  return shape === 'cube' ? gl.TEXTURE_CUBE_MAP : shape === '2d-array' ? gl.TEXTURE_2D_ARRAY : gl.TEXTURE_2D;
}

/** Swaps rows top to bottom, in place. */
function turnOver(pixels: Uint8Array | Float32Array, rowLength: number, height: number): void {
  const row = pixels.slice(0, rowLength);
  for (let y = 0; y < height >> 1; y++) {
    const [top, bottom] = [y * rowLength, (height - 1 - y) * rowLength];
    row.set(pixels.subarray(top, top + rowLength));
    pixels.copyWithin(top, bottom, bottom + rowLength);
    pixels.set(row, bottom);
  }
}
