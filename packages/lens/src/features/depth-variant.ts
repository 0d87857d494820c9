import { FEATURE } from '@umber-lens/core/engine';
import { KeptVariant } from '../batches/draw-variant.js';
import type { PreparedBatch, PreparedScene } from '../batches/prepared-scene.js';
import type { DevicePipeline } from '../gpu/device.js';
import type { GpuGeometry } from '../resources/geometry-store.js';
import { bitOf, CONSTANTS, constantsOf, inputsOf } from '../resources/pipeline-store.js';
import { type FullPipelines, PLACED } from './full-pipelines.js';

/** What matters of a material for its depth: where it is cut out. */
const DEPTH_FEATURES =
  FEATURE.mask |
  FEATURE.baseColorTexture |
  FEATURE.color |
  FEATURE.texcoord0 |
  FEATURE.texcoord1 |
  FEATURE.bent |
  FEATURE.swarm;

/**
 * Depth alone: as a light sees it, both sides and without a target for color; or from the camera, ahead of the picture. Made
 * when it is first asked for.
 */
export class DepthVariant extends KeptVariant {
  constructor(private readonly isFromLight: boolean) {
    super();
  }

  override takes(ready: PreparedBatch): boolean {
    if (this.isFromLight) return true;
    const { batch, features, geometry, isElsewhere, shader } = ready;
    // Marched shapes find their depths anew, copies of swarms fade into each other: both are drawn once, as usual.
    return (
      !isElsewhere &&
      // What meets depths otherwise says so where it is drawn in color.
      batch.kind.traits.state === undefined &&
      !shader?.isMarched &&
      geometry.placedBy !== 'instances' &&
      (features & FEATURE.blend) === 0
    );
  }

  override shapeOf({ geometry }: PreparedBatch): GpuGeometry {
    return geometry;
  }

  pipelineOf(ready: PreparedBatch, mirrored: number, scene: PreparedScene): DevicePipeline | undefined {
    // Which way faces wind does not matter where both sides count.
    const side = this.isFromLight ? 0 : mirrored;
    const kept =
      this.keptOf(ready) ?? this.keep(ready, { shape: ready.geometry, pipelines: [undefined, undefined] });
    const found = (kept.pipelines[side] ??= this.make(ready, side === 1, scene));
    return scene.stores.pipelines.waits || found?.isReady ? found : undefined;
  }

  private make(
    { features, geometry, shader: own }: PreparedBatch,
    isMirrored: boolean,
    scene: PreparedScene,
  ): DevicePipeline | undefined {
    const { isFromLight } = this;
    const { pipelines: store } = scene.stores;
    const full = scene.full as FullPipelines; // scenes drawn so are built with them
    const compiled = store.full(own, full)?.shadow;
    if (!compiled) return undefined;
    const matters = features & DEPTH_FEATURES;
    const { color, depth, sampleCount } = store.formats;
    const compare = { format: depth, compare: 'greater-equal', write: true } as const;
    const sides = (features & FEATURE.doubleSided) !== 0 ? 'none' : 'back';
    const kind = isFromLight ? 'shadow' : 'depth';
    const seen = isFromLight ? '' : ` ${isMirrored} ${sides} ${full.sampleCount ?? 0}`;
    const what = `${kind} ${matters} ${full.cutBits}${seen}`;
    return store.kept(compiled, `${kind} of ${own?.file ?? 'mesh'}`, what, geometry, (shader) => ({
      label: kind,
      shader,
      constants: constantsOf(
        [...[...CONSTANTS, ...PLACED].map(bitOf(matters)), ...full.cuts(), ['isFromLight', isFromLight]],
        compiled.overrides,
      ),
      ...inputsOf(geometry, own),
      depth: compare,
      ...(isFromLight
        ? // Both sides throw shadows; of marched shapes the far side of the geometry asks the pixels.
          { cullMode: own?.isMarched ? ('front' as const) : ('none' as const), targets: [] }
        : {
            cullMode: sides,
            frontFace: isMirrored ? ('cw' as const) : ('ccw' as const),
            targets: [{ format: color, write: false }],
            sampleCount: full.sampleCount ?? sampleCount,
          }),
    }));
  }
}
