import type { DeviceBuffer, DevicePipeline, RenderPass, RenderPipelineOptions } from './device.js';

/** Words of one draw: indices, instances, first index, first instance. */
export const MULTI_DRAW_WORDS = 4;

/** Several draws at once, that differ in their indices and instances alone. */
export interface MultiDraw {
  /**
   * Whether instances come from a `storage` buffer, word by word, instead of the vertex buffer of slot 0. Shaders read them as
   * usual: a whole number at one location, of which a vector has 0, 0 and 1 behind it.
   */
  readonly fromStorage: boolean;
  /** How many draws one call takes at most. */
  readonly most: number;
  /**
   * What draws several at once as a pipeline draws one; the same one where any can. To be disposed of where it is not.
   *
   * @param options those of the pipeline; its first vertex buffer is that of instances, four bytes each
   */
  pipelineOf(pipeline: DevicePipeline, options: RenderPipelineOptions): DevicePipeline;
  /**
   * Draws what a pass was told so far, several times.
   *
   * @param draws `MULTI_DRAW_WORDS` each
   * @param instances the buffer of `fromStorage`
   */
  draw(pass: RenderPass, draws: Uint32Array, count: number, instances: DeviceBuffer | undefined): void;
}
