import type {
  BindGroupEntry,
  DeviceBindGroup,
  DeviceBuffer,
  DevicePipeline,
  DeviceSampler,
  DeviceShader,
  DeviceTexture,
  RenderPipelineOptions,
  ShaderOptions,
} from '../device.js';
import type { GroupLayout } from './layouts.js';

export interface WebgpuBuffer extends DeviceBuffer {
  readonly handle: GPUBuffer;
}

export interface WebgpuTexture extends DeviceTexture {
  /** Undefined for the canvas, whose texture is another one each frame. */
  readonly handle: GPUTexture | undefined;
  /** The whole texture, for shaders. */
  view(): GPUTextureView;
  /** One picture of it, for drawing into; the first by default. */
  target(level?: number, layer?: number): GPUTextureView;
}

export interface WebgpuSampler extends DeviceSampler {
  readonly handle: GPUSampler;
}

export interface WebgpuShader extends DeviceShader {
  readonly label: string;
  readonly module: GPUShaderModule;
  readonly vertex: string;
  readonly fragment: string;
  /** By group number. */
  readonly groups: readonly GroupLayout[];
  readonly layout: GPUPipelineLayout;
  readonly outputs: ShaderOptions['outputs'];
}

export interface WebgpuBindGroup extends DeviceBindGroup {
  readonly label: string;
  /** By binding number. */
  readonly byBinding: readonly (BindGroupEntry | undefined)[];
  /** One for each layout that it was used with. */
  readonly made: Map<GroupLayout, GPUBindGroup>;
}

export interface WebgpuPipeline extends DevicePipeline {
  readonly handle: GPURenderPipeline;
  readonly shader: WebgpuShader;
  readonly topology: RenderPipelineOptions['topology'];
  readonly vertexBuffers: number;
  /** Undefined: it knows of no stencil. */
  readonly stencilReference: number | undefined;
}
