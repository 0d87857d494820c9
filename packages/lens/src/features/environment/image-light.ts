import type { BindGroupEntry, DeviceTexture } from '../../gpu/device.js';
import type { UniformBlock } from '../../resources/uniform-block.js';
import {
  AIR_INTENSITY,
  AIR_IRRADIANCE,
  AIR_ROUGHEST,
  AIR_TURN,
  BINDING_ENVIRONMENT_CUBE,
  BINDING_ENVIRONMENT_SAMPLER,
} from '../../compiled/layouts.js';
import type { Facts, Feature, FeatureHost, FrameAt } from '../feature.js';
import { type Flag, flag } from '../flags.js';
import { WANTS } from '../wants.js';
import { writeTurn } from './backdrop-pass.js';
import type { EnvironmentStore } from './environment-store.js';

const ENVIRONMENT = flag({ override: 'useEnvironment' });

/** Light from all directions, as a panorama has it. */
export class ImageLight implements Feature {
  readonly tellsStalls = true;
  entries: readonly BindGroupEntry[];
  private cube: DeviceTexture;
  private readonly air: UniformBlock;

  constructor(
    { air }: FeatureHost,
    private readonly environments: EnvironmentStore,
  ) {
    this.air = air;
    this.cube = environments.nothing;
    this.entries = this.made();
  }

  flagsFor(facts: Facts): readonly Flag[] {
    return WANTS.imageLight(facts) ? [ENVIRONMENT] : [];
  }

  prepare({ scene: { imageLight }, frame, ledger }: FrameAt): void {
    const { environments } = this;
    const { values: air } = this.air;
    let { nothing: cube } = environments;
    if (imageLight) {
      const found = environments.environment(imageLight.panorama, frame);
      if (found.milliseconds > 0) ledger.stall('environment', found.milliseconds);
      found.milliseconds = 0;
      cube = found.cube;
      const { irradiance } = found;
      for (let k = 0; k < 9; k++)
        for (let c = 0; c < 3; c++) air[AIR_IRRADIANCE + k * 4 + c] = irradiance[k * 3 + c]!; // 27 numbers
      writeTurn(air, AIR_TURN, imageLight.rotation ?? 0);
      air[AIR_INTENSITY] = imageLight.intensity ?? 1;
    }
    air[AIR_ROUGHEST] = environments.roughest;
    this.use(cube);
  }

  sweep(frame: number): void {
    const { environments } = this;
    environments.sweep(frame);
    // Pictures without light bind what was bound last.
    if (!environments.holds(this.cube)) this.use(environments.nothing);
  }

  private use(cube: DeviceTexture): void {
    if (cube === this.cube) return;
    this.cube = cube;
    this.entries = this.made();
  }

  private made(): BindGroupEntry[] {
    return [
      { binding: BINDING_ENVIRONMENT_CUBE, texture: this.cube },
      { binding: BINDING_ENVIRONMENT_SAMPLER, sampler: this.environments.cubeSampler },
    ];
  }
}
