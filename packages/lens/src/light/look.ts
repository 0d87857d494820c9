import { LensError } from '@umber-lens/core';

/** How light is shown. Every member may be written to at any time. */
export interface Look {
  /**
   * The curve from radiance to what a screen can show. `soft` (the default) leaves values up to 0.76 alone; `none` cuts
   * off at 1; the others are Reinhard's, the fitted ACES curve, AgX, and Khronos' neutral one.
   */
  toneMapping?: ToneMapping;
  /** Colour temperature of the light that is to look white, kelvin, 1,667 to 25,000. Default 6,504: none is changed. */
  whiteBalance?: number;
}

export type ToneMapping = 'soft' | 'none' | 'reinhard' | 'aces' | 'agx' | 'neutral';

/** In the order of tone.wgsl. */
export const TONES: readonly ToneMapping[] = ['soft', 'none', 'reinhard', 'aces', 'agx', 'neutral'];

/** @throws LensError `look/tone` */
export function toneNumber(tone: ToneMapping = 'soft'): number {
  const number = TONES.indexOf(tone);
  if (number < 0) {
    throw new LensError('look/tone', `there is no tone mapping "${tone}"`, {
      hint: `Use one of ${TONES.join(', ')}.`,
    });
  }
  return number;
}
