import type { DevicePipeline } from '../gpu/device.js';
import type { PreparedBatch, PreparedScene, Way } from '../passes/prepared-scene.js';
import type { GpuGeometry } from '../resources/geometry-store.js';
import type { FullPipelines } from './full-pipelines.js';

/** Gets a batch ready to be drawn in another way. To be called outside a pass. */
export function prepareWay(
  { stores: { pipelines } }: PreparedScene,
  ready: PreparedBatch,
  way: Way,
  shape: GpuGeometry,
  full: FullPipelines,
): void {
  const { features, shader, ways } = ready;
  // Without its full shader, which may be loading, it is drawn as usual.
  if (ways[way]?.shape === shape || !pipelines.full(shader, full)) return;
  const of = (mirrored: boolean): DevicePipeline => pipelines.get(features, shape, mirrored, shader, full);
  ways[way] = { shape, pipelines: [of(false), of(true)] };
}
