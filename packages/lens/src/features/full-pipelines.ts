import { FEATURE, type FullMaterial } from '@umber-lens/core/engine';
import type { GpuGeometry } from '../resources/geometry-store.js';
import { bitOf, type FullUse, type Raster } from '../resources/pipeline-store.js';
import { rasterOf } from './material-state.js';
import { FLAGS, type Flag } from './flags.js';

/** How vertices come to where they are. */
export const PLACED: [name: string, bit: number][] = [
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

/** How pipelines are built for one set of flags. */
export class FullPipelines implements FullUse {
  readonly raster: Raster | undefined;
  readonly sampleCount: number | undefined;
  readonly needsPlace: boolean;
  /** Of the flags that take parts of surfaces away. */
  readonly cutBits: number;
  private readonly flags: readonly Flag[];

  /**
   * @param bits of flags
   * @param loaded counts what was loaded
   * @param load waits for what is being loaded
   */
  constructor(
    readonly material: FullMaterial,
    readonly bits: number,
    readonly loaded: number,
    readonly load: (loading: Promise<void>) => void,
  ) {
    this.flags = FLAGS.filter(({ bit }) => (bits & bit) !== 0);
    this.raster = this.flags.find(({ raster }) => raster)?.raster;
    this.sampleCount = this.flags.find(({ sampleCount }) => sampleCount)?.sampleCount;
    this.needsPlace = this.flags.some(({ needsPlace }) => needsPlace === true);
    this.cutBits = this.flags.reduce((sum, { bit, cuts }) => (cuts ? sum | bit : sum), 0);
  }

  readonly rasterOf = rasterOf;

  has({ bit }: Flag): boolean {
    return (this.bits & bit) !== 0;
  }

  /** Overrides by the flags. */
  around(): [name: string, value: boolean][] {
    return this.flags.flatMap(({ override }) => (override ? [[override, true]] : []));
  }

  /** Those of them that take parts of surfaces away. */
  cuts(): [name: string, value: boolean][] {
    return this.flags.flatMap(({ cuts, override }) => (cuts && override ? [[override, true]] : []));
  }

  constants(features: number, geometry: GpuGeometry): [name: string, value: boolean][] {
    return [
      ...LAYER_CONSTANTS.map(bitOf(features)),
      ...this.around(),
      ...this.flags.flatMap(({ constants }) => constants?.(geometry) ?? []),
    ];
  }
}
