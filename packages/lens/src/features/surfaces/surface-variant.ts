import { FEATURE } from '@umber-lens/core/engine';
import { KeptVariant } from '../../batches/draw-variant.js';
import type { PreparedBatch, PreparedScene } from '../../batches/prepared-scene.js';
import type { DevicePipeline, TextureFormat } from '../../gpu/device.js';
import type { GpuGeometry } from '../../resources/geometry-store.js';
import { bitOf, CONSTANTS, constantsOf, inputsOf } from '../../resources/pipeline-store.js';
import { type FullPipelines, PLACED } from '../full-pipelines.js';

/** Of what effects ask: normals and roughness; what is mirrored; velocities; bits of things. In the order of the targets of surfaces.wgsl. */
export const SURFACE_FORMATS: readonly TextureFormat[] = [
  'rgba16float',
  'rgba8unorm',
  'rgba16float',
  'rgba8unorm',
];

/** What is solid, by what its surfaces are, one sample a pixel. A pipeline is made when it is first asked for. */
export class SurfaceVariant extends KeptVariant {
  /** @param targets how many of `SURFACE_FORMATS` there are */
  constructor(private readonly targets: number) {
    super();
  }

  override takes({ batch, features, geometry }: PreparedBatch): boolean {
    const { state } = batch.kind.traits;
    return (
      (features & FEATURE.blend) === 0 &&
      state?.blend === undefined &&
      state?.depthWrite !== false &&
      batch.apart.layer === undefined &&
      geometry.topology.startsWith('triangle')
    );
  }

  override shapeOf({ geometry }: PreparedBatch): GpuGeometry {
    return geometry;
  }

  pipelineOf(ready: PreparedBatch, mirrored: number, scene: PreparedScene): DevicePipeline | undefined {
    const kept =
      this.keptOf(ready) ?? this.keep(ready, { shape: ready.geometry, pipelines: [undefined, undefined] });
    const found = (kept.pipelines[mirrored] ??= this.make(ready, mirrored === 1, scene));
    return scene.stores.pipelines.waits || found?.isReady ? found : undefined;
  }

  private make(
    { batch, features, geometry, shader: own }: PreparedBatch,
    isMirrored: boolean,
    scene: PreparedScene,
  ): DevicePipeline | undefined {
    const { pipelines: store } = scene.stores;
    const full = scene.full as FullPipelines; // scenes drawn so are built with them
    const compiled = store.full(own, full)?.surfaces;
    if (!compiled) return undefined;
    const { targets } = this;
    const { state } = batch.kind.traits;
    const usual = (features & FEATURE.doubleSided) !== 0 ? 'none' : 'back';
    const cullMode = own?.isMarched ? 'front' : (state?.cullMode ?? usual);
    const isUnlit = (features & FEATURE.unlit) !== 0 || own?.isLit === false;
    const what = `surfaces ${features} ${full.cutBits} ${targets} ${isMirrored} ${cullMode}`;
    return store.kept(compiled, `surfaces of ${own?.file ?? 'mesh'}`, what, geometry, (shader) => ({
      label: 'surfaces',
      shader,
      constants: constantsOf(
        [
          ...[...CONSTANTS, ...PLACED].map(bitOf(features)),
          ...full.cuts(),
          ['isMoving', targets > 2],
          ['isUnlit', isUnlit],
          ['useThingBits', targets > 3],
        ],
        compiled.overrides,
      ),
      ...inputsOf(geometry, own),
      depth: { format: store.formats.depth, compare: 'greater-equal', write: true },
      cullMode,
      frontFace: isMirrored ? 'cw' : 'ccw',
      targets: SURFACE_FORMATS.slice(0, targets).map((format) => ({ format })),
      sampleCount: 1,
    }));
  }
}
