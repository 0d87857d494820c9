import type { CompiledShader, FullMaterial } from '@umber-lens/core/engine';

/** The lens's own shaders, in the language of one GPU interface: a page carries no more than it draws with. */
export interface LensShaders {
  mesh: CompiledShader;
  finish: CompiledShader;
  /** Those for scenes with more around them than lights; loaded when there is one. */
  full: () => Promise<FullShaders>;
  /** Those of effects; loaded with the first. */
  effects: () => Promise<EffectShaders>;
}

/** Shaders for what scenes may have around them. */
export interface FullShaders extends FullMaterial {
  deferred: CompiledShader;
  backdrop: CompiledShader;
  finishLook: CompiledShader;
  toLayer: CompiledShader;
  toCube: CompiledShader;
  prefilter: CompiledShader;
  keptDepth: CompiledShader;
  meter: CompiledShader;
  metres: CompiledShader;
  occlusion: CompiledShader;
  reflections: CompiledShader;
  smoothOcclusion: CompiledShader;
  layerOver: CompiledShader;
  toOctahedral: CompiledShader;
}

/** Shaders of effects: full-screen passes. */
export type EffectShaders = Record<
  | 'colors'
  | 'blur'
  | 'shadow'
  | 'offset'
  | 'morphology'
  | 'convolve'
  | 'blend'
  | 'flood'
  | 'displacement'
  | 'turbulence'
  | 'put'
  | 'bloomDown'
  | 'bloomUp'
  | 'bloom'
  | 'sharpen'
  | 'fringe'
  | 'distortion'
  | 'grain'
  | 'lut'
  | 'smoothEdges'
  | 'outline'
  | 'depthOfField'
  | 'temporal'
  | 'age'
  | 'motionTiles'
  | 'motionBlur'
  | 'shafts'
  | 'addShafts'
  | 'dither'
  | 'masked'
  | 'place',
  CompiledShader
>;
