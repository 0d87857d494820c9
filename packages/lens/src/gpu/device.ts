import type { DeviceCompute } from './compute.js';
import type { DeviceCounts } from './counts.js';
import type { MultiDraw } from './multi-draw.js';
import type { PackedTextures } from './packed.js';
import type { ReflectedResource, StencilState } from '@umber-lens/core/engine';

/**
 * The device: buffers, textures, pipelines and passes in the shape of WebGPU, whichever interface
 * lies below. It knows nothing of scenes and can be used on its own.
 *
 * Clip space is WebGPU's everywhere: y up, depth 0..1. Textures are stored top row first, also those
 * that were drawn into, so a picture means the same on every backend.
 */
export interface Device {
  readonly backend: 'webgpu' | 'webgl2' | 'trace';
  /** Whether no GPU does the work, but the processor. */
  readonly isSoftware: boolean;
  readonly limits: DeviceLimits;
  readonly features: ReadonlySet<DeviceFeature>;
  /** What is alive, and what the commands since the last `resetCommands` have cost. */
  readonly counts: DeviceCounts;
  /** The picture on the page, to be used as a color attachment. Undefined without a canvas. */
  readonly canvasTexture: DeviceTexture | undefined;

  createBuffer(options: BufferOptions): DeviceBuffer;
  createTexture(options: TextureOptions): DeviceTexture;
  createSampler(options?: SamplerOptions): DeviceSampler;
  createShader(options: ShaderOptions): DeviceShader;
  createBindGroup(options: BindGroupOptions): DeviceBindGroup;
  createRenderPipeline(options: RenderPipelineOptions): DevicePipeline;
  /** Measures passes on the GPU. Undefined where it cannot: see the feature `timestamps`. */
  createTimer(label?: string): Promise<DeviceTimer | undefined>;
  /**
   * Passes that compute, loaded when first asked for. Undefined where the interface has none: see the feature `compute`.
   */
  openCompute(): Promise<DeviceCompute | undefined>;
  /** Several draws at once, loaded when first asked for. Undefined where the interface has none: see the feature `multi-draw`. */
  openMultiDraw(): Promise<MultiDraw | undefined>;
  /** Textures that lie packed in memory, loaded when first asked for. Undefined where there are none. */
  openPacked(): Promise<PackedTextures | undefined>;

  /**
   * Copies numbers into a buffer.
   *
   * @param offset in bytes, a multiple of 4
   * @param first first element of `data`, default 0
   * @param length number of elements, default the rest
   */
  writeBuffer(
    buffer: DeviceBuffer,
    offset: number,
    data: TypedNumbers,
    first?: number,
    length?: number,
  ): void;
  /** Writes one picture of a texture from tightly packed rows, top row first. */
  writeTexture(texture: DeviceTexture, data: TypedNumbers, at?: Subresource): void;
  /** Writes the base level from a decoded picture of the browser's. */
  copyExternalImage(texture: DeviceTexture, source: object): void;
  /** Fills the levels below the base. */
  generateMipmaps(texture: DeviceTexture): void;
  /** Reads one picture of a texture back, tightly packed, top row first. The page goes on meanwhile. */
  readTexture(texture: DeviceTexture, at?: ReadOptions): Promise<TypedNumbers>;

  /** Opens a pass; only one is open at a time, and nothing else may be called until its `end`. */
  beginRenderPass(options: RenderPassOptions): RenderPass;
  /**
   * Copies the depth of one texture into another of the same size and format with one sample; of
   * several samples the first counts.
   */
  copyDepth(source: DeviceTexture, target: DeviceTexture): void;
  /** Copies the base level of one texture into another of the same size and format, with one sample each. */
  copyTexture(source: DeviceTexture, target: DeviceTexture): void;
  /** Copies the bytes of a storage buffer to the beginning of another that has as many or more. */
  copyBuffer(source: DeviceBuffer, target: DeviceBuffer): void;
  /** Hands the recorded work to the GPU. */
  submit(): void;
  /** The picture of a further canvas, where the GPU shows more than one. @throws LensError `lens/canvas` */
  openCanvas?(canvas: HTMLCanvasElement): DeviceTexture;

  /** Who holds memory on the GPU: bytes of buffers and textures by their labels, the most first. */
  owners(): MemoryOwner[];

  /** Whether the GPU is gone already, though nobody was told yet. */
  readonly isGone?: boolean;

  /** Frees everything that was made from this device. */
  dispose(): void;
}

/** What buffers or textures of one label take together. */
export interface MemoryOwner {
  kind: 'buffer' | 'texture';
  label: string;
  count: number;
  bytes: number;
}

export type TypedNumbers =
  | Int8Array
  | Uint8Array
  | Uint8ClampedArray
  | Int16Array
  | Uint16Array
  | Int32Array
  | Uint32Array
  | Float32Array;

export type DeviceFeature =
  /** `rgba16float` can be drawn into. */
  | 'float16-renderable'
  /** `rgba32float` can be drawn into. */
  | 'float32-renderable'
  /** There are textures of this format. */
  | 'depth32float-stencil8'
  /** The depth range is 0..1 in hardware; otherwise shaders remap it, at a loss of precision. */
  | 'clip-control'
  | 'anisotropy'
  /** `createTimer` gives timers. */
  | 'timestamps'
  /** `openCompute` gives passes that compute, and draws may take their numbers from what these wrote. */
  | 'compute'
  /** `openMultiDraw` gives several draws at once. */
  | 'multi-draw';

export interface DeviceLimits {
  maxTextureSize: number;
  maxSamples: number;
  maxColorAttachments: number;
  /** Offsets of uniform bindings are multiples of it. Bytes. */
  uniformAlignment: number;
  maxUniformBytes: number;
}

/** `storage` buffers are read by shaders, `indirect` ones hold the numbers of draws. */
export type BufferUsage = 'vertex' | 'index' | 'uniform' | 'storage' | 'indirect';

export interface BufferOptions {
  label?: string;
  usage: BufferUsage;
  /**
   * Whether passes that compute may read and write it besides, as `var<storage, read_write>`. Default false: it is written
   * from outside alone.
   */
  writable?: boolean;
  /** Bytes. May be left out where `data` is given. */
  size?: number;
  /** What it holds from the start. */
  data?: TypedNumbers;
}

export interface DeviceBuffer {
  readonly kind: 'buffer';
  readonly label: string;
  readonly usage: BufferUsage;
  readonly size: number;
  dispose(): void;
}

export type TextureFormat =
  | 'r8unorm'
  | 'rg8unorm'
  | 'r8snorm'
  | 'rg8snorm'
  | 'rgba8snorm'
  | 'rgb10a2unorm'
  | 'r16float'
  | 'rg16float'
  | 'r32float'
  | 'rgba8unorm'
  | 'rgba8unorm-srgb'
  | 'bgra8unorm'
  | 'rgba16float'
  | 'rgba32float'
  | 'depth32float'
  | 'depth24plus'
  | 'depth32float-stencil8'
  | 'depth24plus-stencil8';

/**
 * `cube` has six square layers in the order +X, -X, +Y, -Y, +Z, -Z and is read by a direction; `2d-array` has
 * as many as `layers` says.
 */
export type TextureShape = '2d' | 'cube' | '2d-array';

/** One picture of a texture: a layer at a level of detail. Both default to 0. */
export interface Subresource {
  level?: number;
  layer?: number;
}

/** What is read back. */
export interface ReadOptions extends Subresource {
  /** Has the page stand still until it is there, where the interface can (WebGL2): for whoever measures times. Default false. */
  blocks?: boolean;
}

export interface TextureOptions {
  label?: string;
  /** Default `2d`. */
  shape?: TextureShape;
  /** Of a `2d-array`; 1 or more. */
  layers?: number;
  width: number;
  height: number;
  format: TextureFormat;
  /** Default 1; `mipLevels(width, height)` gives a full set. */
  mipLevelCount?: number;
  /** 1 or more. Above 1 the texture can only be drawn into and resolved. */
  sampleCount?: number;
  /** May be a color or depth attachment. Default false. */
  renderable?: boolean;
  /** What its base level holds from the start: tightly packed rows, top row first. */
  data?: TypedNumbers;
  /** A full set of levels below the base, filled from `data`. */
  mipmaps?: boolean;
}

export interface DeviceTexture {
  readonly kind: 'texture';
  readonly label: string;
  readonly width: number;
  readonly height: number;
  readonly format: TextureFormat;
  readonly sampleCount: number;
  readonly mipLevelCount: number;
  readonly shape: TextureShape;
  readonly layers: number;
  /** What it takes, where it is packed; `format` says how shaders see it then. */
  readonly bytes?: number;
  /** What takes the distances of what is drawn into it, where somebody asked for them. */
  metres?: DeviceTexture;
  /** Samples of a pixel while it is drawn into, where it is not the usual number. */
  samples?: number;
  dispose(): void;
}

export interface SamplerOptions {
  label?: string;
  magFilter?: 'nearest' | 'linear';
  minFilter?: 'nearest' | 'linear';
  mipmapFilter?: 'none' | 'nearest' | 'linear';
  addressModeU?: AddressMode;
  addressModeV?: AddressMode;
  /** Makes it a comparison sampler, for depth textures. */
  compare?: CompareFunction;
  /** 1 to 16. Default 1. */
  maxAnisotropy?: number;
}

export type AddressMode = 'repeat' | 'clamp-to-edge' | 'mirror-repeat';

export interface DeviceSampler {
  readonly kind: 'sampler';
  dispose(): void;
}

/**
 * Shader text for both stages, in the languages of the interfaces it is for. What the compiler gives
 * (`compileModule`, or the import of a `.wgsl` file) fits as it is and has both.
 */
export interface ShaderOptions {
  label?: string;
  /** For WebGPU: a module with both entry points. */
  wgsl?: string;
  /** Names of the entry points in `wgsl`. */
  vertex?: string;
  fragment?: string;
  /** What `wgsl` binds. */
  resources?: readonly ReflectedResource[];
  /** What the fragment stage writes; pipelines are held against it. */
  outputs?: readonly { location: number; type: string }[];
  /**
   * For WebGL2, in GLSL ES 3.00. `gl_Position` is written as for WebGPU (y up, depth 0..1); the device
   * adds what turns it into the target's own space.
   */
  glsl?: { vertex: GlslStage; fragment: GlslStage };
  /** Why there is no GLSL. */
  notInWebgl2?: string;
  /** Why there is no WGSL. */
  notInWebgpu?: string;
}

/** One stage in GLSL ES 3.00, with what it binds. */
export interface GlslStage {
  text: string;
  /** Where each uniform block is bound: name to group and binding. */
  blocks?: Readonly<Record<string, readonly [group: number, binding: number]>>;
  /** Where the texture and the sampler of each GLSL sampler are bound. */
  samplers?: Readonly<
    Record<string, { texture: readonly [number, number]; sampler?: readonly [number, number] }>
  >;
  /** Storage buffers, read from `usampler2D` of four words a texel, and where their length in bytes goes. */
  storage?: Readonly<Record<string, { binding: readonly [number, number]; lengthUniform: string }>>;
  /** Pipeline constants: the macro that gives each its value. */
  overrides?: Readonly<Record<string, string>>;
}

export interface DeviceShader {
  readonly kind: 'shader';
  dispose(): void;
}

export interface BindGroupOptions {
  label?: string;
  entries: readonly BindGroupEntry[];
}

export type BindGroupEntry =
  /** `offset` may be moved by the dynamic offset of `setBindGroup`. Bytes. */
  | { binding: number; buffer: DeviceBuffer; offset?: number; size?: number }
  | { binding: number; texture: DeviceTexture }
  | { binding: number; sampler: DeviceSampler };

export interface DeviceBindGroup {
  readonly kind: 'bind-group';
  dispose(): void;
}

export type VertexFormat =
  | `${'float32' | 'uint32'}${'' | 'x2' | 'x3' | 'x4'}`
  | `${'unorm' | 'snorm' | 'uint' | 'sint'}${'8' | '16'}${'' | 'x2' | 'x3' | 'x4'}`;

export interface VertexBufferLayout {
  /** Bytes from one element to the next. 0: all have the first one. */
  arrayStride: number;
  stepMode?: 'vertex' | 'instance';
  attributes: readonly { shaderLocation: number; format: VertexFormat; offset: number }[];
}

export interface BlendComponent {
  srcFactor: BlendFactor;
  dstFactor: BlendFactor;
  /** Of both, multiplied by their factors; `min` and `max` take them as they are. Default `add`. */
  operation?: BlendOperation;
}

export const BLEND_FACTORS = [
  'zero',
  'one',
  'src',
  'one-minus-src',
  'src-alpha',
  'one-minus-src-alpha',
  'dst',
  'one-minus-dst',
  'dst-alpha',
  'one-minus-dst-alpha',
  'src-alpha-saturated',
  'constant',
  'one-minus-constant',
] as const;
export type BlendFactor = (typeof BLEND_FACTORS)[number];

export const BLEND_OPERATIONS = ['add', 'subtract', 'reverse-subtract', 'min', 'max'] as const;
export type BlendOperation = (typeof BLEND_OPERATIONS)[number];

export type CompareFunction =
  'always' | 'greater' | 'greater-equal' | 'less' | 'less-equal' | 'equal' | 'not-equal' | 'never';

export interface RenderPipelineOptions {
  label?: string;
  shader: DeviceShader;
  /** Values of the shader's overrides, by name. */
  constants?: Readonly<Record<string, number | boolean>>;
  vertexBuffers?: readonly VertexBufferLayout[];
  topology?: 'point-list' | 'line-list' | 'line-strip' | 'triangle-list' | 'triangle-strip';
  /** Needed for strips that are drawn with indices. */
  stripIndexFormat?: 'uint16' | 'uint32';
  /** Default `none`. */
  cullMode?: 'none' | 'back' | 'front';
  frontFace?: 'ccw' | 'cw';
  /** Left out: no depth test and no depth writes. */
  depth?: {
    format: TextureFormat;
    compare: CompareFunction;
    write: boolean;
    /** Steps added to depths, and how many more a pixel of slope. Default 0. */
    bias?: number;
    biasSlopeScale?: number;
    /** Left out: what a stencil holds is neither asked nor changed. */
    stencil?: StencilState;
  };
  /** One a color attachment; left out: one without blending. */
  targets?: readonly {
    format: TextureFormat;
    blend?: { color: BlendComponent; alpha: BlendComponent };
    /**
     * Which channels are written: all, none (also where the shader has no colour for it), or the sum of 1 red, 2 green, 4 blue and 8
     * alpha. All targets have the same. Default true.
     */
    write?: boolean | number;
  }[];
  sampleCount?: number;
  /** Made beside the script, where the interface can. Who draws with it before it is ready waits. Default false. */
  async?: boolean;
}

export interface DevicePipeline {
  readonly kind: 'pipeline';
  readonly label: string;
  /** Whether drawing with it waits for nothing. */
  readonly isReady: boolean;
  /** Settles when it is. @throws LensError what is wrong with its shader: `shader/compile`, `shader/pipeline` */
  ready(): Promise<void>;
  dispose(): void;
}

export interface ColorAttachment extends Subresource {
  texture: DeviceTexture;
  /** Receives the samples of a multisampled texture, averaged. */
  resolveTarget?: DeviceTexture;
  /** Linear RGBA to start from; left out: what the texture holds is kept. */
  clearValue?: ArrayLike<number>;
  /** False: what was drawn need not be kept (after a resolve). Default true. */
  store?: boolean;
}

/** The time that the last pass with this timer took on the GPU. */
export interface DeviceTimer {
  readonly kind: 'timer';
  readonly label: string;
  /** Milliseconds, as soon as the GPU is done with the passes submitted so far; undefined when none was timed. */
  milliseconds(): Promise<number | undefined>;
  dispose(): void;
}

export interface RenderPassOptions {
  label?: string;
  /** Takes the time of this pass. */
  timer?: DeviceTimer;
  colorAttachments: readonly ColorAttachment[];
  depthAttachment?: DepthAttachment;
}

export interface DepthAttachment {
  texture: DeviceTexture;
  /** Which layer of an array is drawn into; default 0. */
  layer?: number;
  /** Depth to start from, and stencil values of 0 with it; left out: what the texture holds is kept. */
  clearValue?: number;
  /** False: it need not be kept. Default true. */
  store?: boolean;
}

export interface RenderPass {
  setPipeline(pipeline: DevicePipeline): void;
  /** @param dynamicOffset bytes added to the offset of the group's first buffer */
  setBindGroup(index: number, group: DeviceBindGroup, dynamicOffset?: number): void;
  setVertexBuffer(slot: number, buffer: DeviceBuffer, offset?: number): void;
  setIndexBuffer(buffer: DeviceBuffer, format: 'uint16' | 'uint32'): void;
  /** What the blend factor `constant` is: linear RGBA. To be set in every pass that uses it. */
  setBlendConstant(rgba: ArrayLike<number>): void;
  /** Pixels, y from the top. */
  setViewport(x: number, y: number, width: number, height: number): void;
  /** Nothing is drawn outside of it: within the target. Pixels, y from the top. At the beginning of a pass: the whole target. */
  setScissor(x: number, y: number, width: number, height: number): void;
  draw(vertexCount: number, instanceCount?: number, firstVertex?: number): void;
  drawIndexed(indexCount: number, instanceCount?: number, firstIndex?: number): void;
  /**
   * Draws by numbers that the GPU holds: as many vertices, instances, first vertex and 0, four words from `offset` on. The
   * accounts know of the draw alone. Where the feature `compute` is.
   *
   * @param offset bytes, a multiple of 4
   * @throws LensError `device/no-indirect`
   */
  drawIndirect(buffer: DeviceBuffer, offset: number): void;
  /** The same with indices: as many of them, instances, first index, what is added to each, and 0: five words. */
  drawIndexedIndirect(buffer: DeviceBuffer, offset: number): void;
  /**
   * Names what follows, until the matching `popDebugGroup`: WebGPU repeats the name in the errors of its checks,
   * and captures of a frame show it. WebGL2 has nothing of the kind and ignores it.
   */
  pushDebugGroup(label: string): void;
  popDebugGroup(): void;
  end(): void;
}
