import {
  AMOUNT_EFFECTS,
  type AmountEffect,
  type BlendEffect,
  type BlurEffect,
  type ColorMatrixEffect,
  type ComponentTransferEffect,
  type CompositeEffect,
  type ConvolveEffect,
  type DisplacementEffect,
  type DropShadowEffect,
  type FloodEffect,
  type HueRotateEffect,
  type MorphologyEffect,
  type OffsetEffect,
  type TurbulenceEffect,
} from './filter-effects.js';
import type {
  AmbientOcclusionEffect,
  BloomEffect,
  ChromaticAberrationEffect,
  DepthOfFieldEffect,
  DitherEffect,
  FilmGrainEffect,
  LensDistortionEffect,
  LightShaftsEffect,
  LutEffect,
  MotionBlurEffect,
  OutlineEffect,
  ScreenSpaceReflectionsEffect,
  ShaderEffect,
  SharpenEffect,
  SmoothEdgesEffect,
  TemporalAntialiasingEffect,
} from './trade-effects.js';

export * from './filter-effects.js';
export * from './trade-effects.js';

/**
 * A change of a shown picture, as plain data; every member may be written to at any frame. Names, members and meanings are those
 * of CSS and SVG (Filter Effects Module Level 1), in camelCase, where there is one.
 */
export type Effect =
  | BlurEffect
  | AmountEffect
  | HueRotateEffect
  | ColorMatrixEffect
  | ComponentTransferEffect
  | DropShadowEffect
  | OffsetEffect
  | MorphologyEffect
  | ConvolveEffect
  | BlendEffect
  | CompositeEffect
  | FloodEffect
  | DisplacementEffect
  | TurbulenceEffect
  | BloomEffect
  | DepthOfFieldEffect
  | SharpenEffect
  | ChromaticAberrationEffect
  | LensDistortionEffect
  | FilmGrainEffect
  | LutEffect
  | SmoothEdgesEffect
  | OutlineEffect
  | AmbientOcclusionEffect
  | MotionBlurEffect
  | TemporalAntialiasingEffect
  | ScreenSpaceReflectionsEffect
  | LightShaftsEffect
  | DitherEffect
  | ShaderEffect;

export type EffectType = Effect['type'];

/** Those that change each pixel by itself. */
export type ColorEffect = AmountEffect | HueRotateEffect | ColorMatrixEffect | ComponentTransferEffect;

/** Types of `ColorEffect`. */
export const COLOR_EFFECTS: readonly ColorEffect['type'][] = [
  ...AMOUNT_EFFECTS,
  'hue-rotate',
  'color-matrix',
  'component-transfer',
];

/** All that there are. */
export const EFFECT_TYPES: readonly EffectType[] = [
  'blur',
  ...COLOR_EFFECTS,
  'drop-shadow',
  'offset',
  'morphology',
  'convolve',
  'blend',
  'composite',
  'flood',
  'displacement',
  'turbulence',
  'bloom',
  'depth-of-field',
  'sharpen',
  'chromatic-aberration',
  'lens-distortion',
  'film-grain',
  'lut',
  'smooth-edges',
  'outline',
  'ambient-occlusion',
  'motion-blur',
  'temporal-antialiasing',
  'screen-space-reflections',
  'light-shafts',
  'dither',
  'shader',
];

/** Those that stand on light, before what is shown is made of it; all others come after them. */
export const LIGHT_EFFECTS: readonly EffectType[] = [
  'ambient-occlusion',
  'screen-space-reflections',
  'temporal-antialiasing',
  'motion-blur',
  'light-shafts',
  'bloom',
  'depth-of-field',
  'dither',
];

/** Those that ask what surfaces are, or where a light is in the picture: they stand in the list of a whole picture alone. */
export const PICTURE_EFFECTS: readonly EffectType[] = [
  'ambient-occlusion',
  'screen-space-reflections',
  'temporal-antialiasing',
  'motion-blur',
  'light-shafts',
];
