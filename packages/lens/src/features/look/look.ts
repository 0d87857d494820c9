import { LensError } from '@umber-lens/core/engine';

/** How light is shown. Every member may be written to at any time. */
export interface Look {
  /** Stops: each doubles the light. Default 0. */
  exposure?: number;
  /**
   * The curve from radiance to what a screen can show. `soft` (the default) leaves values up to 0.76 alone; `none` cuts
   * off at 1; the others are Reinhard's, the fitted ACES curve, AgX, and Khronos' neutral one.
   */
  toneMapping?: ToneMapping;
  /** Colour temperature of the light that is to look white, kelvin, 1,667 to 25,000. Default 6,504: none is changed. */
  whiteBalance?: number;
  /**
   * Stops that follow the picture, besides `exposure`; `true` for the defaults. What they are is measured in a
   * picture and counts for the next; frames without time (`setTime`, `run`) go all the way at once.
   */
  automaticExposure?: boolean | AutomaticExposure | undefined;
  /**
   * How transparent surfaces (`alphaMode: 'blend'`) are put over each other. `sorted` (the default): by things, the
   * farthest first. `peeled`: by pixels, right for the nearest four also where they cut through each other, at the cost
   * of drawing them five times and of their edges' smoothness.
   */
  transparency?: 'sorted' | 'peeled';
  /** Of everything that is shown, about the middle: 1 (the default) leaves it, 0 is grey. */
  contrast?: number;
  /** Of everything that is shown: 1 (the default) leaves it, 0 takes the colours away. */
  saturation?: number;
  /** A frame that darkens towards the corners, over everything. */
  vignette?: Vignette | undefined;
}

export interface AutomaticExposure {
  /** What the picture's mean is to be, linear and as it is shown: the geometric mean, which suits the camera. Default 0.18. */
  brightness?: number;
  /** Stops that it may add at least and at most. Defaults -6 and 6. */
  min?: number;
  max?: number;
  /** Seconds in which half of a change of light is made up for. Default 0.4; 0 is at once. */
  halfLife?: number;
}

export interface Vignette {
  /** Where it begins: 0 the middle, 1 the edges. Default 0.7. */
  size?: number;
  /** From there to where it is whole. Default 0.7. */
  softness?: number;
  /** 0 follows the shape of the picture, 1 is a circle. Default 0. */
  roundness?: number;
  /** sRGB-encoded, 0..1. Default black. */
  color?: [number, number, number];
  /** How much of it there is, 0..1. Default 0.5. */
  weight?: number;
}

/** Whether a look changes what is shown after all light is done. */
export function changesShown({ contrast = 1, saturation = 1, vignette }: Look): boolean {
  return contrast !== 1 || saturation !== 1 || (vignette !== undefined && vignette.weight !== 0);
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
