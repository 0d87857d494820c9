import type { DevicePipeline } from '../gpu/device.js';
import type { GpuGeometry } from '../resources/geometry-store.js';
import type { FullUse } from '../resources/pipeline-store.js';
import type { PreparedBatch, PreparedScene } from './prepared-scene.js';

/** A way of drawing batches: in their colors, as a light sees them, as edges, as layers, as numbers. */
export interface DrawVariant {
  /** Whether it draws a batch. */
  takes(ready: PreparedBatch): boolean;
  /** What is drawn of it: its geometry, or points or edges alone. */
  shapeOf(ready: PreparedBatch): GpuGeometry;
  /**
   * What it is drawn with; undefined while nothing can be.
   *
   * @param mirrored 1 for mirrored nodes, else 0
   */
  pipelineOf(ready: PreparedBatch, mirrored: number, scene: PreparedScene): DevicePipeline | undefined;
}

/** A batch's pipelines, plain and for mirrored nodes; undefined until one draws it so. */
export type Pair = [plain: DevicePipeline | undefined, mirrored: DevicePipeline | undefined];

/** What a variant keeps of a batch. */
export interface KeptDraw {
  shape: GpuGeometry;
  /** How its pipelines were built, where that is not as the scene's are. */
  full?: FullUse;
  pipelines: Pair;
}

const inColor = (takes: DrawVariant['takes']): DrawVariant => ({
  takes,
  shapeOf: ({ shape }) => shape,
  pipelineOf: (ready, mirrored, scene) => scene.pipelineOf(ready, mirrored),
});

/** All that no other pass draws. */
export const COLOR = inColor(({ isElsewhere }) => !isElsewhere);
/** Of these, what does not ask for what lies behind it, and what does. */
export const COLOR_BEFORE = inColor(({ isElsewhere, readsBehind }) => !isElsewhere && !readsBehind);
export const COLOR_AFTER = inColor(({ isElsewhere, readsBehind }) => !isElsewhere && readsBehind);
/** What does not ask for what lies behind it, whoever else draws it. */
export const RADIANCE = inColor(({ readsBehind }) => !readsBehind);

let variants = 0;

/** A variant with pipelines of its own, which are kept with the batch. */
export abstract class KeptVariant implements DrawVariant {
  private readonly index = variants++;

  takes(ready: PreparedBatch): boolean {
    return this.keptOf(ready) !== undefined;
  }

  shapeOf(ready: PreparedBatch): GpuGeometry {
    return this.keptOf(ready)!.shape; // it takes it
  }

  abstract pipelineOf(
    ready: PreparedBatch,
    mirrored: number,
    scene: PreparedScene,
  ): DevicePipeline | undefined;

  /** Forgets what it keeps of a batch: it draws it no more. */
  leave(ready: PreparedBatch): void {
    ready.kept[this.index] = undefined;
  }

  protected keptOf(ready: PreparedBatch): KeptDraw | undefined {
    return ready.kept[this.index];
  }

  protected keep(ready: PreparedBatch, draw: KeptDraw): KeptDraw {
    return (ready.kept[this.index] = draw);
  }
}
