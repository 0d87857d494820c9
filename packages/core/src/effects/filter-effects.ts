// Effects that CSS and SVG have (Filter Effects Module Level 1), by their names and meanings.

/** Which values an effect computes with: those of screens, or those that light is added in. */
export type ColorInterpolation = 'sRGB' | 'linearRGB';

/** What every effect may be told. */
export interface EffectCommon {
  /** Default `sRGB`. */
  colorInterpolation?: ColorInterpolation;
  /** What it is made of: `SourceGraphic`, which is the picture that the list is given, or the `result` of an effect. Left out: the effect before. */
  in?: string;
  /** A name by which effects after it find what it made. */
  result?: string;
  /**
   * Of a whole picture: bits of what it treats. What is not solid, and nodes whose `visibleTo` has none of them, stay as they were. Left out:
   * all is treated. Of occlusion and reflections what they are on: anything hides light, and is reflected.
   */
  sees?: number;
}

/** What lies outside of the picture: its edge goes on, its other side, nothing. */
export type EdgeMode = 'duplicate' | 'wrap' | 'none';

/** Gaussian blur. */
export interface BlurEffect extends EffectCommon {
  type: 'blur';
  /** Of the Gaussian, pixels of the picture; across and down where they differ. 0 leaves the picture. */
  stdDeviation: number | [x: number, y: number];
  /** What lies outside of the picture. Default `none`: towards its edges it becomes transparent. */
  edgeMode?: EdgeMode;
}

/** Those with one number. */
export const AMOUNT_EFFECTS = [
  'brightness',
  'contrast',
  'grayscale',
  'invert',
  'opacity',
  'saturate',
  'sepia',
] as const;

/** The functions of CSS with one number. */
export interface AmountEffect extends EffectCommon {
  type: (typeof AMOUNT_EFFECTS)[number];
  /** As in CSS: 0 or more; of `grayscale`, `invert`, `opacity` and `sepia` at most 1 counts. Default 1. */
  amount?: number;
}

/** Turns the colors about the axis of greys. */
export interface HueRotateEffect extends EffectCommon {
  type: 'hue-rotate';
  /** Radians. Default 0. */
  angle?: number;
}

/** Each channel out of all four and 1, alpha not multiplied in. */
export interface ColorMatrixEffect extends EffectCommon {
  type: 'color-matrix';
  /** 20 numbers, by rows: red, green, blue, alpha, each of red, green, blue, alpha and 1. */
  values: ArrayLike<number>;
}

/** What a channel becomes, of 0 to 1. */
export type TransferFunction =
  | { type: 'identity' }
  /** Values at even steps from 0 to 1, and straight lines between them. */
  | { type: 'table'; tableValues: readonly number[] }
  /** As many even steps as there are values. */
  | { type: 'discrete'; tableValues: readonly number[] }
  | { type: 'linear'; slope?: number; intercept?: number }
  | { type: 'gamma'; amplitude?: number; exponent?: number; offset?: number };

/** Each channel by a function of its own, alpha not multiplied in; those left out stay. */
export interface ComponentTransferEffect extends EffectCommon {
  type: 'component-transfer';
  red?: TransferFunction;
  green?: TransferFunction;
  blue?: TransferFunction;
  alpha?: TransferFunction;
}

/** The shape of what is not transparent, blurred, in a color, below it. */
export interface DropShadowEffect extends EffectCommon {
  type: 'drop-shadow';
  /** Pixels of the picture, to the right and down. Default 2, 2. */
  offset?: [x: number, y: number];
  /** Pixels of the picture. Default 2. */
  stdDeviation?: number | [x: number, y: number];
  /** sRGB-encoded RGBA, alpha not multiplied in. Default black. */
  color?: [red: number, green: number, blue: number, alpha: number];
}

/** Moves the picture. */
export interface OffsetEffect extends EffectCommon {
  type: 'offset';
  /** Pixels of the picture, to the right and down. Default 0. */
  dx?: number;
  dy?: number;
}

/** Thins or fattens what is there: the least or the greatest of each channel around a pixel. */
export interface MorphologyEffect extends EffectCommon {
  type: 'morphology';
  /** Default `erode`. */
  operator?: 'erode' | 'dilate';
  /** Whole pixels of the picture, across and down where they differ. Default 0: nothing changes. */
  radius?: number | [x: number, y: number];
}

/** Each pixel out of those around it, by a matrix of weights (SVG's feConvolveMatrix). */
export interface ConvolveEffect extends EffectCommon {
  type: 'convolve';
  /** Columns and rows of the matrix, 8 at most. Default 3. */
  order?: number | [columns: number, rows: number];
  /** By rows. As in SVG it is turned by half: its last number weighs the pixel at the upper left. */
  kernelMatrix: ArrayLike<number>;
  /** Default the sum of the matrix, or 1 where that is 0. */
  divisor?: number;
  /** Added to each, times alpha. Default 0. */
  bias?: number;
  /** Column and row of the matrix that lie on the pixel itself. Default the middle. */
  targetX?: number;
  targetY?: number;
  /** What lies outside of the picture. Default `duplicate`. */
  edgeMode?: EdgeMode;
  /** Whether alpha stays, and colors count without it. Default false. */
  preserveAlpha?: boolean;
}

/** How two colors become one: the modes of CSS (Compositing and Blending Level 1). */
export type BlendMode = (typeof BLEND_MODES)[number];

/** All that there are, in the order of effect-blend.wgsl. */
export const BLEND_MODES = [
  'normal',
  'multiply',
  'screen',
  'overlay',
  'darken',
  'lighten',
  'color-dodge',
  'color-burn',
  'hard-light',
  'soft-light',
  'difference',
  'exclusion',
  'hue',
  'saturation',
  'color',
  'luminosity',
] as const;

/** One picture over another, their colors mixed. */
export interface BlendEffect extends EffectCommon {
  type: 'blend';
  /** Default `normal`. */
  mode?: BlendMode;
  /** What lies below, as `in` has it. Default `SourceGraphic`. */
  in2?: string;
}

/** All that there are, in the order of effect-blend.wgsl. */
export const COMPOSITE_OPERATORS = ['over', 'in', 'out', 'atop', 'xor', 'lighter', 'arithmetic'] as const;

/** Two pictures put together by what of each is transparent, or by arithmetic. */
export interface CompositeEffect extends EffectCommon {
  type: 'composite';
  /** Default `over`. */
  operator?: (typeof COMPOSITE_OPERATORS)[number];
  /** What lies below, as `in` has it. Default `SourceGraphic`. */
  in2?: string;
  /** Of `arithmetic`: k1 times both, k2 times the upper, k3 times the lower, and k4. Default 0. */
  k1?: number;
  k2?: number;
  k3?: number;
  k4?: number;
}

/** Noise in all four channels, for others to be put together with: clouds, marble, ripples. */
export interface TurbulenceEffect extends EffectCommon {
  type: 'turbulence';
  /** Which noise (SVG's `type`): `fractalNoise` is clouds about one half, `turbulence`, the default, has veins. */
  noise?: 'turbulence' | 'fractalNoise';
  /** Waves a pixel, 0 to 1; across and down where they differ. Default 0. */
  baseFrequency?: number | [x: number, y: number];
  /** Finer noises on top, each with waves half as long and half as high. Default 1. */
  numOctaves?: number;
  /** What chance begins with, a whole number. Default 0. */
  seed?: number;
}

/** What `loadTexture` gives, or a texture of a model. */
export interface EffectMap {
  readonly image: object;
}

/** The channels of a map. */
export const MAP_CHANNELS = ['red', 'green', 'blue', 'alpha'] as const;

/** Moves each pixel by as much as the colors of a map say: half of a channel is where it was. */
export interface DisplacementEffect extends EffectCommon {
  type: 'displacement';
  /** A texture, stretched over the picture, whose numbers count as they are; or, by its name, what an effect made: see `in`. */
  map: EffectMap | string;
  /** Pixels of the picture, from a channel of 0 to one of 1. Default 0. */
  scale?: number;
  /** Channels that say how far across and down. Default `alpha`. */
  xChannel?: (typeof MAP_CHANNELS)[number];
  yChannel?: (typeof MAP_CHANNELS)[number];
}

/** A color everywhere, for others to be put together with. */
export interface FloodEffect extends EffectCommon {
  type: 'flood';
  /** sRGB-encoded RGB. Default black. */
  floodColor?: [red: number, green: number, blue: number];
  /** 0 to 1. Default 1. */
  floodOpacity?: number;
}
