import { LOCATION } from '@umber-lens/core/engine';
import type { DrawVariant } from '../../batches/draw-variant.js';
import type { GpuGeometry } from '../../resources/geometry-store.js';
import type { Raster } from '../../resources/pipeline-store.js';
import type { Facts, Feature, FeatureHost, FrameAt } from '../feature.js';
import { type Flag, flag } from '../flags.js';
import type { FullPipelines } from '../full-pipelines.js';
import { WANTS } from '../wants.js';
import { Way } from '../way.js';
import type { ShownQuantity } from './show.js';
import { Skeletons } from './skeletons.js';

/** Every surface adds to what is there: overdraw can be seen. */
const ADDED: Raster = {
  compare: 'always',
  write: false,
  blend: {
    color: { srcFactor: 'one', dstFactor: 'one' },
    alpha: { srcFactor: 'one', dstFactor: 'one-minus-src-alpha' },
  },
};

/** Every draw has a colour of its own, set as the pass's constant. */
const COLORED: Raster = {
  compare: 'greater-equal',
  write: true,
  blend: {
    color: { srcFactor: 'constant', dstFactor: 'zero' },
    alpha: { srcFactor: 'one', dstFactor: 'zero' },
  },
};

const INSPECTED = flag({
  override: 'isInspected',
  needsPlace: true,
  // Tangents are looked at whether the material has a use for them or not.
  constants: (geometry) => [['hasTangent', hasTangents(geometry)]],
});
const OVERDRAW = flag({ raster: ADDED });
const DRAWS = flag({ raster: COLORED });
const WIRES = flag({ override: 'isWire' });
const MORE: Partial<Record<ShownQuantity, Flag>> = { overdraw: OVERDRAW, draws: DRAWS, wireframe: WIRES };

/** Ways of looking at a scene otherwise than by its light: single quantities, points, edges, draw calls. */
export class DebugViews implements Feature {
  over: DrawVariant | undefined;
  private readonly edges = new Way();
  private readonly skeletons: Skeletons;

  constructor(private readonly host: FeatureHost) {
    this.skeletons = new Skeletons(host.device);
  }

  flagsFor(facts: Facts): readonly Flag[] {
    const more = MORE[facts.settings.show];
    return WANTS.debugViews(facts) ? [INSPECTED, ...(more ? [more] : [])] : [];
  }

  prepare({ prepared, frame, settings: { show } }: FrameAt, full: FullPipelines): void {
    const drawsEdges = show === 'clay-edges';
    this.over = drawsEdges ? this.edges : undefined;
    prepared.colorOf = show === 'draws' ? colorOf : undefined;
    if (show !== 'points' && show !== 'wireframe' && !drawsEdges) return;
    const over = drawsEdges ? this.host.pipelinesFor(full.bits | WIRES.bit) : undefined;
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
      } else if (skeleton !== ready.geometry) this.edges.prepare(prepared, ready, skeleton, over);
    }
  }

  letGo(frame: number): void {
    this.skeletons.sweep(frame);
  }

  sweep(frame: number): void {
    this.skeletons.sweep(frame);
  }
}

/** Whether vertices bring tangents along: what they lack is read from zeros, without a stride. */
function hasTangents({ layouts }: GpuGeometry): boolean {
  return layouts.some(
    ({ arrayStride, attributes }) =>
      arrayStride > 0 && attributes.some(({ shaderLocation }) => shaderLocation === LOCATION.tangent),
  );
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
