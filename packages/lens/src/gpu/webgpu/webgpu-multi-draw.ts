import type { DevicePipeline, RenderPass } from '../device.js';
import { MULTI_DRAW_WORDS, type MultiDraw } from '../multi-draw.js';
import type { WebgpuPass } from './webgpu-pass.js';

/**
 * WebGPU has no call for several draws but as an experiment. What is won is that nothing is set between them: instances
 * begin where each draw says, so that a draw is one call.
 */
export class WebgpuMultiDraw implements MultiDraw {
  readonly fromStorage = false;
  readonly most = Infinity;

  pipelineOf(pipeline: DevicePipeline): DevicePipeline {
    return pipeline;
  }

  draw(pass: RenderPass, draws: Uint32Array, count: number): void {
    (pass as WebgpuPass).drawSeveral(draws, count, MULTI_DRAW_WORDS);
  }
}
