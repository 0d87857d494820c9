import { temperatureColor } from '@umber-lens/core/engine';
import type { UniformBlock } from '../../resources/uniform-block.js';
import { AIR_SHOW, AIR_TONE, AIR_WHITE_BALANCE } from '../../compiled/layouts.js';
import { SHOWS } from '../debug-views/show.js';
import type { Facts, Feature, FeatureHost, FrameAt } from '../feature.js';
import { type Flag, flag } from '../flags.js';
import { toneNumber } from './look.js';

const TONED = flag({ override: 'isToned' });

/** How light is shown: the curve, and what is white. */
export class Tones implements Feature {
  private readonly air: UniformBlock;
  private kelvin = 0;
  private factors: readonly number[] = [1, 1, 1];

  constructor({ air }: FeatureHost) {
    this.air = air;
  }

  flagsFor({ settings: { look } }: Facts): readonly Flag[] {
    return (look.toneMapping ?? 'soft') === 'soft' ? [] : [TONED];
  }

  /** @throws LensError `look/tone` */
  prepare({ settings: { look, show } }: FrameAt): void {
    const { values, words } = this.air;
    words[AIR_TONE] = toneNumber(look.toneMapping);
    words[AIR_SHOW] = SHOWS.indexOf(show);
    values.set(this.whiteFactors(look.whiteBalance), AIR_WHITE_BALANCE);
  }

  /** Factors that make light of this temperature white, of the same luminance. */
  private whiteFactors(kelvin = 6504): readonly number[] {
    if (kelvin === this.kelvin) return this.factors;
    this.kelvin = kelvin;
    const tint = temperatureColor(kelvin);
    return (this.factors = kelvin === 6504 ? [1, 1, 1] : tint.map((part) => 1 / Math.max(part, 1e-3)));
  }
}
