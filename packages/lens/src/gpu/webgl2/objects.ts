import type {
  BindGroupEntry,
  DeviceBindGroup,
  DeviceBuffer,
  DevicePipeline,
  DeviceSampler,
  DeviceTexture,
  RenderPipelineOptions,
} from '../device.js';
import type { VertexType } from './formats.js';
import type { PendingProgram } from './shader.js';
import type { StorageTexture } from './storage.js';

export interface Webgl2Buffer extends DeviceBuffer {
  /** Null for storage buffers, which are textures here. */
  readonly handle: WebGLBuffer | null;
  readonly target: number;
  readonly storage: StorageTexture | undefined;
}

export interface Webgl2Texture extends DeviceTexture {
  /** One of the two: multisampled textures are renderbuffers, which cannot be sampled. */
  readonly handle: WebGLTexture | null;
  readonly renderbuffer: WebGLRenderbuffer | null;
  /** Where GL binds it. */
  readonly target: number;
  readonly isCanvas: boolean;
  readonly isDepth: boolean;
  readonly external: { internal: number; format: number; type: number };
  /** Framebuffers in which this texture is the first attachment. */
  readonly framebuffers: Framebuffer[];
}

export interface Framebuffer {
  handle: WebGLFramebuffer;
  colors: readonly Webgl2Texture[];
  /** Level and layer of the first color attachment, and layer of the depth. */
  level: number;
  layer: number;
  depth: Webgl2Texture | undefined;
  depthLayer: number;
}

export interface Webgl2Sampler extends DeviceSampler {
  readonly handle: WebGLSampler;
}

export interface Webgl2BindGroup extends DeviceBindGroup {
  readonly entries: readonly BindGroupEntry[];
  /** By binding number. */
  readonly byBinding: readonly (BindGroupEntry | undefined)[];
}

export interface VertexSlot {
  stride: number;
  /** 0 a vertex, 1 an instance; as large as can be where all have the first element. */
  divisor: number;
  attributes: readonly (VertexType & { location: number; offset: number })[];
}

export interface Webgl2Pipeline extends DevicePipeline {
  readonly pending: PendingProgram;
  readonly topology: RenderPipelineOptions['topology'];
  readonly mode: number;
  readonly slots: readonly VertexSlot[];
  /** Bit i is set when attribute location i is fed. */
  readonly locations: number;
  readonly cullFace: number;
  readonly clockwise: boolean;
  readonly depthCompare: number;
  readonly depthWrite: boolean;
  /** Steps of depth, and steps a pixel of slope; undefined: none. */
  readonly bias: readonly [units: number, slope: number] | undefined;
  /** Bits of red, green, blue and alpha. */
  readonly writeMask: number;
  /** Comparison, reference, bits that are read; what becomes of it (three times), and bits that are written. */
  readonly stencil: readonly number[] | undefined;
  /** Factors of colour (source, destination), then of alpha; then both operations. */
  readonly blend: readonly number[] | undefined;
}
