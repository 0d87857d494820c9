import type { DevicePipeline } from '../gpu/device.js';
import type { PreparedBatch, PreparedScene, Way } from '../passes/prepared-scene.js';
import type { GpuGeometry } from '../resources/geometry-store.js';
import type { FullPipelines } from './full-pipelines.js';

/**
 * Gets a batch ready to be drawn in another way. While its shader is loading, or its pipelines are made beside the
 * script, it is drawn as usual. To be called outside a pass.
 */
export function prepareWay(
  { stores: { pipelines } }: PreparedScene,
  ready: PreparedBatch,
  way: Way,
  shape: GpuGeometry,
  full: FullPipelines,
): void {
  const { features, shader, ways } = ready;
  if (ways[way]?.shape === shape || !pipelines.full(shader, full)) return;
  const of = (mirrored: boolean): DevicePipeline => pipelines.get(features, shape, mirrored, shader, full);
  const pair: [DevicePipeline, DevicePipeline] = [of(false), of(true)];
  if (pipelines.waits || pair.every(({ isReady }) => isReady)) ways[way] = { shape, pipelines: pair };
}
