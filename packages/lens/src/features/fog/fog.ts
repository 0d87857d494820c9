import { LensError } from '@umber-lens/core/engine';
import type { UniformBlock } from '../../resources/uniform-block.js';
import {
  AIR_FOG_COLOR,
  AIR_FOG_HEIGHT,
  AIR_FOG_KIND,
  AIR_FOG_OF_SKY,
  AIR_FOG_OVER_BACKDROP,
  AIR_FOG_REACH,
} from '../../compiled/layouts.js';
import type { Facts, Feature, FeatureHost, FrameAt } from '../feature.js';
import { type Flag, flag } from '../flags.js';
import { WANTS } from '../wants.js';

const FOG = flag({ override: 'useFog', needsPlace: true });

/** In the order of fog.wgsl, from 1 on. */
const FOGS = ['linear', 'exponential', 'squared'];

/** Air between the camera and what it sees. */
export class FogNumbers implements Feature {
  private readonly air: UniformBlock;

  constructor({ air }: FeatureHost) {
    this.air = air;
  }

  flagsFor(facts: Facts): readonly Flag[] {
    return WANTS.fog(facts) ? [FOG] : [];
  }

  /** @throws LensError `fog/kind` */
  prepare({ scene: { fog } }: FrameAt): void {
    if (!fog) return;
    const { values: air, words } = this.air;
    const kind = FOGS.indexOf(fog.type) + 1;
    if (kind === 0) {
      throw new LensError('fog/kind', `there is no fog "${fog.type}"`, {
        hint: `Use one of ${FOGS.join(', ')}.`,
      });
    }
    const isOfSky = fog.color === 'sky';
    if (fog.color !== 'sky') air.set(fog.color, AIR_FOG_COLOR);
    words[AIR_FOG_KIND] = kind;
    const { near = 1, far = 100, density = 0.02, height } = fog;
    air[AIR_FOG_REACH] = kind === 1 ? near : density;
    air[AIR_FOG_REACH + 1] = kind === 1 ? far : density;
    air[AIR_FOG_HEIGHT] = height?.base ?? 0;
    air[AIR_FOG_HEIGHT + 1] = height ? 1 / height.falloff : 0;
    air[AIR_FOG_OF_SKY] = isOfSky ? 1 : 0;
    air[AIR_FOG_OVER_BACKDROP] = fog.overBackdrop ?? (isOfSky ? 0 : 1);
  }
}
