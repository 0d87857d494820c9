// Effects of the trade, after published work, and those by shaders of one's own.
import type { EffectCommon, EffectMap } from './filter-effects.js';

/**
 * A share of the light spreads around what is bright, as in every lens and eye: what is spread is gone from where it was. It stands on light,
 * before all effects on what is shown.
 */
export interface BloomEffect extends EffectCommon {
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
export interface DepthOfFieldEffect extends EffectCommon {
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
export interface SharpenEffect extends EffectCommon {
  type: 'sharpen';
  /** 0 or more. Default 0.5. */
  amount?: number;
}

/** Red and blue are magnified differently, as by a lens of one glass. */
export interface ChromaticAberrationEffect extends EffectCommon {
  type: 'chromatic-aberration';
  /** Pixels between both at the corners of the picture. Default 4. */
  amount?: number;
}

/** A lens that bends straight lines; what is shown still fills the picture. */
export interface LensDistortionEffect extends EffectCommon {
  type: 'lens-distortion';
  /** At the corners: above 0 as a barrel, below 0 as a cushion. Default 0.1. */
  amount?: number;
}

/** Grain of a film, another one in each frame. */
export interface FilmGrainEffect extends EffectCommon {
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
export interface LutEffect extends EffectCommon {
  type: 'lut';
  /** What `readCube` makes of a `.cube` file. */
  table: ColorTable;
  /** How much of it there is, 0 to 1. Default 1. */
  amount?: number;
}

/** A line around what is not transparent: around a node, to show that it is chosen. */
export interface OutlineEffect extends EffectCommon {
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
export interface ShaderEffect extends EffectCommon {
  type: 'shader';
  shader: OwnEffectShader;
  /** Values of the shader's settings by name: numbers, arrays of them, and textures. What is left out has its default. */
  settings?: Record<string, number | ArrayLike<number> | EffectMap | { texture: EffectMap }>;
  /** What `secondAt` reads, as `in` has it. Default `SourceGraphic`. */
  in2?: string;
}

/** Steps of edges are smoothed in the picture itself: where there are no samples to average, or of what textures and shaders draw. */
export interface SmoothEdgesEffect extends EffectCommon {
  type: 'smooth-edges';
  /** Jumps of brightness below it are left alone, 0 to 1. Default 0.05. */
  threshold?: number;
}

/**
 * Where things stand close together, less of the light from all around arrives, and it comes from where it is open: horizon-based,
 * with bent normals. Lights of the scene, and light of surfaces' own, stay as they are. Of a whole picture only.
 */
export interface AmbientOcclusionEffect extends EffectCommon {
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
export interface MotionBlurEffect extends EffectCommon {
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
export interface TemporalAntialiasingEffect extends EffectCommon {
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
export interface ScreenSpaceReflectionsEffect extends EffectCommon {
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
export interface LightShaftsEffect extends EffectCommon {
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
export interface DitherEffect extends EffectCommon {
  type: 'dither';
  /** Steps of eight bits. Default 1. */
  amount?: number;
}
