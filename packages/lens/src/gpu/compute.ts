import type { ComputeShader } from '@umber-lens/core/engine';

export type { ComputeShader };
import type { DeviceBindGroup, DeviceBuffer, DeviceTimer } from './device.js';

/** What a device computes with, where it can. */
export interface DeviceCompute {
  /** @throws LensError `shader/entry` where the module has no such entry point */
  createPipeline(options: ComputePipelineOptions): ComputePipeline;
  /** Opens a pass; no other may be open, and nothing else may be called until its `end`. */
  beginPass(options?: ComputePassOptions): ComputePass;
  /**
   * Reads a buffer back, when the GPU is done with what was handed to it.
   *
   * @param offset in bytes, a multiple of 4; default 0
   * @param size bytes, a multiple of 4; default the rest
   */
  readBuffer(buffer: DeviceBuffer, offset?: number, size?: number): Promise<ArrayBuffer>;
}

export interface ComputePipelineOptions {
  label?: string;
  /** A module in WGSL, with what it binds: what the compiler gives, or the import of a `.wgsl` file. */
  shader: ComputeShader;
  /** Values of the shader's overrides, by name. */
  constants?: Readonly<Record<string, number | boolean>>;
}

export interface ComputePipeline {
  readonly kind: 'compute-pipeline';
  readonly label: string;
  dispose(): void;
}

export interface ComputePassOptions {
  label?: string;
  /** Takes the time of this pass. */
  timer?: DeviceTimer;
}

export interface ComputePass {
  setPipeline(pipeline: ComputePipeline): void;
  /** @param dynamicOffset bytes added to the offset of the group's first uniform buffer */
  setBindGroup(index: number, group: DeviceBindGroup, dynamicOffset?: number): void;
  /** Runs so many workgroups in each direction. Each dispatch sees what those before it wrote. */
  dispatch(x: number, y?: number, z?: number): void;
  end(): void;
}
