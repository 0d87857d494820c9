import { FEATURE, type FullMaterial } from '@umber-lens/core/engine';
import type { DevicePipeline } from '../gpu/device.js';
import { LOCATION } from '../shaders/locations.js';
import type { GpuGeometry } from '../resources/geometry-store.js';
import {
  bitOf,
  CONSTANTS,
  constantsOf,
  type FullUse,
  inputsOf,
  type PipelineStore,
  type Raster,
  type DepthDrawn,
  type ShadowThrower,
} from '../resources/pipeline-store.js';

/** How vertices come to where they are. */
const PLACED: [name: string, bit: number][] = [
  ['isBent', FEATURE.bent],
  ['isSwarm', FEATURE.swarm],
];

/** Overrides of the full mesh shader, whose layers are built in only where a material has them. */
const LAYER_CONSTANTS: [name: string, bit: number][] = [
  ['useClearcoat', FEATURE.clearcoat],
  ['useSheen', FEATURE.sheen],
  ['useSpecular', FEATURE.specular],
  ['useTransmission', FEATURE.transmission],
  ['useIridescence', FEATURE.iridescence],
  ['useAnisotropy', FEATURE.anisotropy],
  ['useDiffuseTransmission', FEATURE.diffuseTransmission],
  ...PLACED,
];

export const GATHER_FORMAT = 'rgba16float';

/** What a scene has around it that pipelines are built for. */
export const AROUND = {
  environment: 1,
  shadows: 2,
  inspected: 4,
  overdraw: 8,
  clusters: 16,
  areas: 32,
  metered: 64,
  wires: 128,
  identified: 256,
  peeled: 512,
  rest: 1024,
  probes: 2048,
  pointed: 4096,
  /** Depths were drawn before. */
  prepassed: 8192,
  /** What surfaces are made of is drawn first; all else has one sample a pixel too. */
  deferred: 16384,
  gathered: 32768,
  /** Some light that casts shadows has a size. */
  softShadows: 65536,
} as const;

const AROUND_CONSTANTS: [name: string, bit: number][] = [
  ['useEnvironment', AROUND.environment],
  ['useShadows', AROUND.shadows],
  ['useSoftShadows', AROUND.softShadows],
  ['isInspected', AROUND.inspected],
  ['useClusters', AROUND.clusters],
  ['useAreas', AROUND.areas],
  ['isMetered', AROUND.metered],
  ['isWire', AROUND.wires],
  ['useProbes', AROUND.probes],
  ['isPointed', AROUND.pointed],
  ['isGathered', AROUND.gathered],
];

/** Every surface adds to what is there: overdraw can be seen. */
const ADDED: Raster = {
  compare: 'always',
  write: false,
  blend: {
    color: { srcFactor: 'one', dstFactor: 'one' },
    alpha: { srcFactor: 'one', dstFactor: 'one-minus-src-alpha' },
  },
};

/** The nearest surface of a layer, as it is. */
const PEELED: Raster = { compare: 'greater-equal', write: true, sampleCount: 1 };

/** What lies behind the layers, sorted by things. */
const REST: Raster = {
  compare: 'always',
  write: false,
  sampleCount: 1,
  blend: {
    color: { srcFactor: 'one', dstFactor: 'one-minus-src-alpha' },
    alpha: { srcFactor: 'one', dstFactor: 'one-minus-src-alpha' },
  },
};

/** Every draw has a colour of its own, set as the pass's constant. */
const IDENTIFIED: Raster = {
  compare: 'greater-equal',
  write: true,
  blend: {
    color: { srcFactor: 'constant', dstFactor: 'zero' },
    alpha: { srcFactor: 'one', dstFactor: 'zero' },
  },
};

/** Numbers in place of colours, of whatever covers a pixel. */
const POINTED: Raster = { compare: 'greater-equal', write: true, sampleCount: 1, color: 'rgba32float' };

/** What a surface is made of, in three targets: half floats hold light of its own far above white, and directions below 0. */
const GATHERED: Raster = {
  compare: 'greater-equal',
  write: true,
  sampleCount: 1,
  color: GATHER_FORMAT,
  more: [GATHER_FORMAT, GATHER_FORMAT],
};

/** Nearest first by depths that are there already. */
const PREPASSED: Raster = { compare: 'greater-equal', write: true };

/** What matters of a material for its shadow: where it is cut out. */
const SHADOW_FEATURES =
  FEATURE.mask |
  FEATURE.baseColorTexture |
  FEATURE.color |
  FEATURE.texcoord0 |
  FEATURE.texcoord1 |
  FEATURE.bent |
  FEATURE.swarm;

/** Whether vertices bring tangents along: what they lack is read from zeros, without a stride. */
function hasTangents({ layouts }: GpuGeometry): boolean {
  return layouts.some(
    ({ arrayStride, attributes }) =>
      arrayStride > 0 && attributes.some(({ shaderLocation }) => shaderLocation === LOCATION.tangent),
  );
}

/** Pipelines for one set of what scenes have around them. */
export class FullPipelines implements FullUse {
  readonly raster: Raster | undefined;
  readonly opaque: Raster | undefined;
  readonly sampleCount: number | undefined;
  readonly hasShadows: boolean;

  /**
   * @param features bits of `AROUND`
   * @param loaded counts what was loaded
   * @param load waits for what is being loaded
   */
  constructor(
    readonly material: FullMaterial,
    readonly features: number,
    readonly loaded: number,
    readonly load: (loading: Promise<void>) => void,
  ) {
    this.raster = this.has('rest')
      ? REST
      : this.has('peeled')
        ? PEELED
        : this.has('overdraw')
          ? ADDED
          : this.has('identified')
            ? IDENTIFIED
            : this.has('pointed')
              ? POINTED
              : this.has('gathered')
                ? GATHERED
                : undefined;
    this.opaque = this.has('prepassed') ? PREPASSED : undefined;
    this.sampleCount = this.has('deferred') ? 1 : undefined;
    this.hasShadows = this.has('shadows');
  }

  has(what: keyof typeof AROUND): boolean {
    return (this.features & AROUND[what]) !== 0;
  }

  /** Overrides by what the scene has around it. */
  around(): [name: string, value: boolean][] {
    return AROUND_CONSTANTS.map(bitOf(this.features));
  }

  constants(features: number, geometry: GpuGeometry): [name: string, value: boolean][] {
    return [
      ...LAYER_CONSTANTS.map(bitOf(features)),
      ...this.around(),
      ['isPeeled', this.has('peeled')],
      // Tangents are looked at whether the material has a use for them or not.
      ...(this.has('inspected') ? ([['hasTangent', hasTangents(geometry)]] as [string, boolean][]) : []),
    ];
  }

  /** Depths from the camera, ahead of the picture; undefined while it cannot be drawn with, or for what cannot. */
  depth(ready: DepthDrawn, mirrored: boolean, store: PipelineStore): DevicePipeline | undefined {
    const { features, geometry, shader: own } = ready;
    // Marched shapes find their depths anew, copies of swarms fade into each other: both are drawn once, as usual.
    if (own?.isMarched || geometry.isSwarm || (features & FEATURE.blend) !== 0) return undefined;
    const i = mirrored ? 1 : 0;
    let found = ready.depthPipelines[i];
    if (!found) {
      const compiled = store.full(own, this)?.shadow;
      if (!compiled) return undefined;
      const matters = features & SHADOW_FEATURES;
      const sides = (features & FEATURE.doubleSided) !== 0 ? 'none' : 'back';
      const what = `depth ${matters} ${mirrored} ${sides} ${this.sampleCount ?? 0}`;
      found = store.kept(compiled, `depth of ${own?.file ?? 'mesh'}`, what, geometry, (shader) => ({
        label: 'depth',
        shader,
        constants: {
          ...constantsOf([...CONSTANTS, ...PLACED].map(bitOf(matters)), compiled.overrides),
          ...(compiled.overrides.includes('isFromLight') ? { isFromLight: false } : {}),
        },
        ...inputsOf(geometry, own),
        cullMode: sides,
        frontFace: mirrored ? 'cw' : 'ccw',
        depth: { format: store.formats.depth, compare: 'greater-equal', write: true },
        targets: [{ format: store.formats.color, write: false }],
        sampleCount: this.sampleCount ?? store.formats.sampleCount,
      }));
      ready.depthPipelines[i] = found;
    }
    return store.waits || found.isReady ? found : undefined;
  }

  shadow(ready: ShadowThrower, store: PipelineStore): DevicePipeline | undefined {
    const found = (ready.shadowPipeline ??= this.shadowFor(ready, store));
    return store.waits || found?.isReady ? found : undefined;
  }

  private shadowFor(
    { features, geometry, shader: own }: ShadowThrower,
    store: PipelineStore,
  ): DevicePipeline | undefined {
    const compiled = store.full(own, this)?.shadow;
    if (!compiled) return undefined;
    const matters = features & SHADOW_FEATURES;
    return store.kept(compiled, `shadow of ${own?.file ?? 'mesh'}`, `${matters}`, geometry, (shader) => ({
      label: 'shadow',
      shader,
      constants: constantsOf([...CONSTANTS, ...PLACED].map(bitOf(matters)), compiled.overrides),
      ...inputsOf(geometry, own),
      // Both sides throw shadows; of marched shapes the far side of the geometry asks the pixels.
      cullMode: own?.isMarched ? 'front' : 'none',
      depth: { format: store.formats.depth, compare: 'greater-equal', write: true },
      targets: [],
    }));
  }
}
