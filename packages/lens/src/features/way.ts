import { KeptVariant } from '../batches/draw-variant.js';
import type { PreparedBatch, PreparedScene } from '../batches/prepared-scene.js';
import type { DevicePipeline } from '../gpu/device.js';
import type { GpuGeometry } from '../resources/geometry-store.js';
import type { FullPipelines } from './full-pipelines.js';

/** The full mesh shader with other flags: edges, layers, numbers, what surfaces are made of. It draws what was prepared for it. */
export class Way extends KeptVariant {
  /**
   * Gets a batch ready to be drawn so. While its shader is loading, or its pipelines are made beside the script, it is
   * not. To be called outside a pass.
   *
   * @returns whether it can be drawn so
   */
  prepare(
    { stores: { pipelines } }: PreparedScene,
    ready: PreparedBatch,
    shape: GpuGeometry,
    full: FullPipelines,
  ): boolean {
    const { batch, features, shader } = ready;
    const known = this.keptOf(ready);
    if (known?.shape === shape && known.full === full) return true;
    if (!pipelines.full(shader, full)) return false;
    const of = (mirrored: boolean): DevicePipeline =>
      pipelines.get(features, shape, mirrored, shader, full, batch.kind.traits.state);
    const pair: [DevicePipeline, DevicePipeline] = [of(false), of(true)];
    const isReady = pipelines.waits || pair.every((pipeline) => pipeline.isReady);
    if (isReady) this.keep(ready, { shape, full, pipelines: pair });
    return isReady;
  }

  pipelineOf(ready: PreparedBatch, mirrored: number): DevicePipeline | undefined {
    return this.keptOf(ready)!.pipelines[mirrored]; // it takes it
  }
}
