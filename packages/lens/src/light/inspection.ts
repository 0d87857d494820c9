import type { Device } from '../gpu/device.js';
import type { PreparedScene } from '../passes/prepared-scene.js';
import { AROUND, type FullPipelines } from './full-pipelines.js';
import { prepareWay } from './ways.js';
import type { ShownQuantity } from './show.js';
import { Skeletons } from './skeletons.js';

/** Ways of looking at a scene that are more than another colour: its points, its edges, its draw calls. */
export class Inspection {
  /** Whether edges are drawn over the surfaces. */
  drawsEdges = false;
  private readonly skeletons: Skeletons;

  /** @param pipelinesFor bits of `AROUND` */
  constructor(
    device: Device,
    private readonly pipelinesFor: (features: number) => FullPipelines,
  ) {
    this.skeletons = new Skeletons(device);
  }

  /** To be called outside a pass, when the scene's batches are up to date. */
  prepare(prepared: PreparedScene, full: FullPipelines, show: ShownQuantity, frame: number): void {
    this.drawsEdges = show === 'clay-edges';
    prepared.colorOf = show === 'draws' ? colorOf : undefined;
    if (show !== 'points' && show !== 'wireframe' && !this.drawsEdges) return;
    const over = this.drawsEdges ? this.pipelinesFor(full.features | AROUND.wires) : undefined;
    for (const ready of prepared.batches) {
      // What is found by marching has no edges of its own.
      if (!ready || ready.shader?.isMarched) continue;
      const kind = show === 'points' ? 'points' : 'wires';
      const skeleton = this.skeletons.get(kind, ready.batch.geometry, ready.geometry, frame);
      if (!over) {
        if (ready.shape === skeleton) continue;
        ready.shape = skeleton;
        // Those that are at hand put other shapes together.
        ready.pipelines = [undefined, undefined];
        ready.placeholders = [undefined, undefined];
      } else if (skeleton !== ready.geometry) prepareWay(prepared, ready, 'edges', skeleton, over);
    }
  }

  sweep(frame: number): void {
    this.skeletons.sweep(frame);
  }
}

const color = new Float32Array(4);

/** A colour for a number: hues a golden section apart, so that neighbours differ. */
function colorOf(number: number): ArrayLike<number> {
  const hue = (number * 0.61803398875) % 1;
  for (let k = 0; k < 3; k++) {
    const x = Math.abs(((hue + k / 3) % 1) * 6 - 3) - 1;
    color[k] = 0.06 + 0.8 * Math.min(1, Math.max(0, x)) ** 2.2;
  }
  color[3] = 1;
  return color;
}
