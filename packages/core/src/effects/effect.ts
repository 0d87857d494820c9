/** Which values an effect computes with: those of screens, or those that light is added in. */
export type ColorInterpolation = 'sRGB' | 'linearRGB';

interface Common {
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
export interface BlurEffect extends Common {
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
export interface AmountEffect extends Common {
  type: (typeof AMOUNT_EFFECTS)[number];
  /** As in CSS: 0 or more; of `grayscale`, `invert`, `opacity` and `sepia` at most 1 counts. Default 1. */
  amount?: number;
}

/** Turns the colors about the axis of greys. */
export interface HueRotateEffect extends Common {
  type: 'hue-rotate';
  /** Radians. Default 0. */
  angle?: number;
}

/** Each channel out of all four and 1, alpha not multiplied in. */
export interface ColorMatrixEffect extends Common {
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
export interface ComponentTransferEffect extends Common {
  type: 'component-transfer';
  red?: TransferFunction;
  green?: TransferFunction;
  blue?: TransferFunction;
  alpha?: TransferFunction;
}

/** The shape of what is not transparent, blurred, in a color, below it. */
export interface DropShadowEffect extends Common {
  type: 'drop-shadow';
  /** Pixels of the picture, to the right and down. Default 2, 2. */
  offset?: [x: number, y: number];
  /** Pixels of the picture. Default 2. */
  stdDeviation?: number | [x: number, y: number];
  /** sRGB-encoded RGBA, alpha not multiplied in. Default black. */
  color?: [red: number, green: number, blue: number, alpha: number];
}

/** Moves the picture. */
export interface OffsetEffect extends Common {
  type: 'offset';
  /** Pixels of the picture, to the right and down. Default 0. */
  dx?: number;
  dy?: number;
}

/** Thins or fattens what is there: the least or the greatest of each channel around a pixel. */
export interface MorphologyEffect extends Common {
  type: 'morphology';
  /** Default `erode`. */
  operator?: 'erode' | 'dilate';
  /** Whole pixels of the picture, across and down where they differ. Default 0: nothing changes. */
  radius?: number | [x: number, y: number];
}

/** Each pixel out of those around it, by a matrix of weights (SVG's feConvolveMatrix). */
export interface ConvolveEffect extends Common {
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
export interface BlendEffect extends Common {
  type: 'blend';
  /** Default `normal`. */
  mode?: BlendMode;
  /** What lies below, as `in` has it. Default `SourceGraphic`. */
  in2?: string;
}

/** All that there are, in the order of effect-blend.wgsl. */
export const COMPOSITE_OPERATORS = ['over', 'in', 'out', 'atop', 'xor', 'lighter', 'arithmetic'] as const;

/** Two pictures put together by what of each is transparent, or by arithmetic. */
export interface CompositeEffect extends Common {
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
export interface TurbulenceEffect extends Common {
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
export interface DisplacementEffect extends Common {
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
export interface FloodEffect extends Common {
  type: 'flood';
  /** sRGB-encoded RGB. Default black. */
  floodColor?: [red: number, green: number, blue: number];
  /** 0 to 1. Default 1. */
  floodOpacity?: number;
}

/**
 * A share of the light spreads around what is bright, as in every lens and eye: what is spread is gone from where it was. It stands on light,
 * before all effects on what is shown.
 */
export interface BloomEffect extends Common {
  type: 'bloom';
  /** Share of the light that spreads, 0 to 1. Default 0.15. */
  amount?: number;
  /** How far it spreads, 0 to 1. Default 0.7. */
  spread?: number;
  /** Light below it does not spread: 1 is white. Default 0: all does. */
  threshold?: number;
}

/** Something that stands somewhere: a node. */
export interface EffectFocus {
  readWorldPosition(out: [number, number, number]): ArrayLike<number>;
}

/** Something that shines: a node with a light, or without. */
export interface EffectLight extends EffectFocus {
  readonly light?: { readonly type: string } | undefined;
  /** By columns. */
  readWorldMatrix(out: Float32Array): ArrayLike<number>;
}

/**
 * What is not in focus is blurred, as by a lens whose focal length follows from the camera's field of view and the sensor's height.
 * It stands on light, before all effects on what is shown.
 */
export interface DepthOfFieldEffect extends Common {
  type: 'depth-of-field';
  /** Metres from the camera, or a node that is to be in focus. */
  focus: number | EffectFocus;
  /** Aperture: 1.4 blurs much, 22 little. Default 2.8. */
  fStop?: number;
  /** Metres. Default 0.024: small film. */
  sensorHeight?: number;
  /** Pixels of the largest disc's radius. Default 14. */
  maxRadius?: number;
}

/** Edges stand out. */
export interface SharpenEffect extends Common {
  type: 'sharpen';
  /** 0 or more. Default 0.5. */
  amount?: number;
}

/** Red and blue are magnified differently, as by a lens of one glass. */
export interface ChromaticAberrationEffect extends Common {
  type: 'chromatic-aberration';
  /** Pixels between both at the corners of the picture. Default 4. */
  amount?: number;
}

/** A lens that bends straight lines; what is shown still fills the picture. */
export interface LensDistortionEffect extends Common {
  type: 'lens-distortion';
  /** At the corners: above 0 as a barrel, below 0 as a cushion. Default 0.1. */
  amount?: number;
}

/** Grain of a film, another one in each frame. */
export interface FilmGrainEffect extends Common {
  type: 'film-grain';
  /** Of 0 to 1 of brightness. Default 0.06. */
  amount?: number;
  /** Pixels of a grain. Default 1.5. */
  size?: number;
}

/** A table of colors in three dimensions, as `readCube` gives it. */
export interface ColorTable {
  /** Entries along each side: 2 to 64. */
  size: number;
  /** sRGB-encoded RGB, three an entry: red runs fastest, then green, then blue. */
  colors: ArrayLike<number>;
}

/** Color grading by a table. */
export interface LutEffect extends Common {
  type: 'lut';
  /** What `readCube` makes of a `.cube` file. */
  table: ColorTable;
  /** How much of it there is, 0 to 1. Default 1. */
  amount?: number;
}

/** A line around what is not transparent: around a node, to show that it is chosen. */
export interface OutlineEffect extends Common {
  type: 'outline';
  /** Pixels, 16 at most. Default 2. */
  width?: number;
  /** sRGB-encoded RGBA, alpha not multiplied in. Default white. */
  color?: [red: number, green: number, blue: number, alpha: number];
  /**
   * Of a node: its color where something nearer hides it, sRGB-encoded RGBA. Left out: it is hidden there. With it all that the node's
   * effects spread beyond the node itself has this color where it is hidden.
   */
  occludedColor?: [red: number, green: number, blue: number, alpha: number];
}

/** What an effect's own shader is: the import of a `.wgsl` file with the hook `effect`, or what `compileEffect` gives. */
export interface OwnEffectShader {
  readonly file: string;
  readonly wgsl: string;
  readonly effect?: object;
  readonly source?: { readonly text: string; readonly sources: Readonly<Record<string, string>> };
}

/** An effect by a shader of one's own: a WGSL file with the hook `fn effect(p: Pixel, s: Settings) -> vec4f`. */
export interface ShaderEffect extends Common {
  type: 'shader';
  shader: OwnEffectShader;
  /** Values of the shader's settings by name: numbers, arrays of them, and textures. What is left out has its default. */
  settings?: Record<string, number | ArrayLike<number> | EffectMap | { texture: EffectMap }>;
  /** What `secondAt` reads, as `in` has it. Default `SourceGraphic`. */
  in2?: string;
}

/** Steps of edges are smoothed in the picture itself: where there are no samples to average, or of what textures and shaders draw. */
export interface SmoothEdgesEffect extends Common {
  type: 'smooth-edges';
  /** Jumps of brightness below it are left alone, 0 to 1. Default 0.05. */
  threshold?: number;
}

/**
 * Where things stand close together, less of the light from all around arrives, and it comes from where it is open: horizon-based,
 * with bent normals. Lights of the scene, and light of surfaces' own, stay as they are. Of a whole picture only.
 */
export interface AmbientOcclusionEffect extends Common {
  type: 'ambient-occlusion';
  /** Metres beyond which nothing hides the light. Default 0.5. */
  radius?: number;
  /** How much of it there is, 0 to 1. Default 1. */
  amount?: number;
}

/**
 * What moves, or what the camera turns past, is drawn out along its way, as on film. It stands on light, before all effects on what is
 * shown. Of a whole picture only.
 */
export interface MotionBlurEffect extends Common {
  type: 'motion-blur';
  /** Share of the time from frame to frame that the shutter is open, 0 to 1. Default 0.5. */
  shutter?: number;
  /** Pixels of the longest streak on either side, 32 at most. Default 32. */
  maxRadius?: number;
}

/**
 * Frames are drawn a part of a pixel beside each other and put together: edges, thin things and highlights are smooth, also of what
 * shaders draw. It stands on light, before all effects on what is shown; put it first. Of a whole picture only.
 */
export interface TemporalAntialiasingEffect extends Common {
  type: 'temporal-antialiasing';
  /** Share of what is new where something moves, 0 to 1: more is sharper, less is smoother. Default 0.1. */
  amount?: number;
  /**
   * Share of the picture's pixels that are drawn in each frame, along each side, 0.5 to 1: the others are found in the frames before.
   * What asks for depths is done before it then. Default 1.
   */
  resolution?: number;
}

/**
 * Surfaces mirror what the picture shows; where it does not show what they would, the light from all around stays. It stands on light,
 * before all effects on what is shown. Of a whole picture only.
 */
export interface ScreenSpaceReflectionsEffect extends Common {
  type: 'screen-space-reflections';
  /** How much of it there is, 0 to 1. Default 1. */
  amount?: number;
  /** Surfaces rougher than it mirror nothing, 0 to 1; towards it less and less. Default 0.5. */
  maxRoughness?: number;
  /** Metres that a ray goes at most. Default 20. */
  maxDistance?: number;
  /** Metres behind what is seen that count as filled. Default 0.3. */
  thickness?: number;
}

/**
 * Light that spreads in the air from a light, or from the sun, past what stands before it. It stands on light, before all effects on
 * what is shown. Of a whole picture only.
 */
export interface LightShaftsEffect extends Common {
  type: 'light-shafts';
  /** What it comes from: a node, or a place in the world. Of a node with a directional light it is the sun, where that shines from. */
  from: EffectLight | [x: number, y: number, z: number];
  /** How much of it there is, 0 or more. Default 0.5. */
  amount?: number;
  /** How far it reaches, as a share of the way to the light, 0 to 1. Default 0.8. */
  reach?: number;
  /** sRGB-encoded RGBA: alpha is one more factor. Default white. */
  color?: [red: number, green: number, blue: number, alpha: number];
}

/**
 * Noise of a step of eight bits, so that smooth gradients show no bands. It stands on light, before the steps are made and before all
 * effects on what is shown; put it last of those.
 */
export interface DitherEffect extends Common {
  type: 'dither';
  /** Steps of eight bits. Default 1. */
  amount?: number;
}

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
