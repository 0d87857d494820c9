import type { Numbers } from '../math/vectors.js';
import type { BlendState, DepthCompare, MaterialBlend, StencilState } from './draw-state.js';
import type { MaterialShader } from './shader-types.js';
import type { TexelFormat } from './texel-formats.js';

/** Names and meanings are those of glTF 2.0; every member may be left out and has glTF's default. */
export interface Material {
  name?: string;
  /** Linear red, green, blue and alpha, 0..1. Default [1, 1, 1, 1]. */
  baseColorFactor?: Numbers;
  /** sRGB-encoded colour with linear alpha. */
  baseColorTexture?: TextureUse;
  /** 0..1, default 1. */
  metallicFactor?: number;
  /** Perceptual roughness 0..1, default 1. */
  roughnessFactor?: number;
  /** Roughness in green, metallic in blue. */
  metallicRoughnessTexture?: TextureUse;
  /** Tangent-space normals; `strength` scales x and y. */
  normalTexture?: TextureUse;
  /** Occlusion in red; `strength` 0..1 mixes it in. */
  occlusionTexture?: TextureUse;
  /** Linear colour times `emissiveStrength`. Default [0, 0, 0]. */
  emissiveFactor?: Numbers;
  /** KHR_materials_emissive_strength; 0 or more, default 1. */
  emissiveStrength?: number;
  emissiveTexture?: TextureUse;
  alphaMode?: AlphaMode;
  /** For `mask`: below it a fragment is not drawn. Default 0.5. */
  alphaCutoff?: number;
  doubleSided?: boolean;
  /**
   * How its color meets what is there: one of the usual ways, or factors by WebGPU's terms, of colors multiplied by their alpha. What
   * has it is drawn with what is transparent, the farthest first. Default: `over` for `alphaMode: 'blend'`, else none.
   */
  blend?: MaterialBlend | BlendState;
  /** What is drawn of it, by its depth against the one that is there: 1 is near, 0 is far. Default `greater-equal`. */
  depthCompare?: DepthCompare;
  /** Whether it hides what is drawn later. Default true, and false for what is blended. */
  depthWrite?: boolean;
  /** Steps of depth by which it counts as nearer. Default 0. */
  depthBias?: number;
  /** The same for each pixel of depth that it leans away. Default 0. */
  depthBiasSlopeScale?: number;
  /** Which faces are left out. Default `back`, and `none` where it is `doubleSided`. */
  cullMode?: 'none' | 'front' | 'back';
  /** Which channels it writes: the sum of 1 red, 2 green, 4 blue and 8 alpha. Default 15: all. 0: depth alone. */
  writeMask?: number;
  /** How it meets the stencil. Of a lens that was opened with `stencil: true`. Default: not at all. */
  stencil?: StencilState;
  /**
   * What has less is drawn first, among what is opaque and among what is blended, each for itself. A whole number from -8 to 7.
   * Default 0.
   */
  drawOrder?: number;
  /** Whether it may be one draw with things of other materials that differ in numbers alone. Default true. */
  batch?: boolean;
  // KHR_materials_clearcoat: a thin layer of lacquer on top.
  /** How much of it there is, 0..1. Default 0. */
  clearcoatFactor?: number;
  /** Factor in red. */
  clearcoatTexture?: TextureUse;
  /** Perceptual roughness, 0..1. Default 0. */
  clearcoatRoughnessFactor?: number;
  /** Roughness in green. */
  clearcoatRoughnessTexture?: TextureUse;
  /** Left out: the lacquer is as even as the geometry, whatever lies below. */
  clearcoatNormalTexture?: TextureUse;
  // KHR_materials_sheen: fibres that glow at grazing angles, as of velvet.
  /** Linear colour, 0..1. Default [0, 0, 0]: none. */
  sheenColorFactor?: Numbers;
  sheenColorTexture?: TextureUse;
  /** 0..1. Default 0. */
  sheenRoughnessFactor?: number;
  /** Roughness in alpha. */
  sheenRoughnessTexture?: TextureUse;
  // KHR_materials_specular and KHR_materials_ior: how what is no metal mirrors.
  /** 0..1. Default 1. */
  specularFactor?: number;
  /** Factor in alpha. */
  specularTexture?: TextureUse;
  /** Linear colour of the mirroring straight on, 0 or more. Default [1, 1, 1]. */
  specularColorFactor?: Numbers;
  specularColorTexture?: TextureUse;
  /**
   * KHR_materials_pbrSpecularGlossiness, archived: where given, the alpha of `specularColorTexture` times this is how smooth
   * the surface is, 0..1, and roughness is one less that. Left out: alpha is not looked at.
   */
  glossinessFactor?: number;
  /** Index of refraction, 1 or more, or 0 for a mirror whose colour is `specularColorFactor`. Default 1.5. */
  ior?: number;
  // KHR_materials_transmission, KHR_materials_volume and KHR_materials_dispersion: light that goes through.
  /** Share of the light that is not mirrored and goes through, 0..1. Default 0. */
  transmissionFactor?: number;
  /** Factor in red. */
  transmissionTexture?: TextureUse;
  /** How thick the body is below the surface, in the geometry's own metres; 0 (the default) is a thin wall. */
  thicknessFactor?: number;
  /** Factor in green. */
  thicknessTexture?: TextureUse;
  /** Metres after which light has the colour `attenuationColor`. Default Infinity: none is lost. */
  attenuationDistance?: number;
  /** Linear colour, 0..1. Default [1, 1, 1]. */
  attenuationColor?: Numbers;
  /** How much more blue is bent than red: 20 over the Abbe number. 0 or more, default 0. */
  dispersion?: number;
  // KHR_materials_iridescence: a film as of soap or oil.
  /** 0..1. Default 0. */
  iridescenceFactor?: number;
  /** Factor in red. */
  iridescenceTexture?: TextureUse;
  /** Index of refraction of the film, 1 or more. Default 1.3. */
  iridescenceIor?: number;
  /** Nanometres where the thickness texture is 0, and where it is 1 or absent. Defaults 100 and 400. */
  iridescenceThicknessMinimum?: number;
  iridescenceThicknessMaximum?: number;
  /** Thickness in green. */
  iridescenceThicknessTexture?: TextureUse;
  // KHR_materials_anisotropy: brushed along one direction.
  /** 0..1. Default 0. */
  anisotropyStrength?: number;
  /** Radians, counter-clockwise from the tangent. Default 0. */
  anisotropyRotation?: number;
  /** Direction in red and green, strength in blue. */
  anisotropyTexture?: TextureUse;
  // KHR_materials_diffuse_transmission: light that shines through leaves and paper.
  /** Share of the matt part, 0..1. Default 0. */
  diffuseTransmissionFactor?: number;
  /** Factor in alpha. */
  diffuseTransmissionTexture?: TextureUse;
  /** Linear colour, 0..1. Default [1, 1, 1]. */
  diffuseTransmissionColorFactor?: Numbers;
  diffuseTransmissionColorTexture?: TextureUse;
  /** KHR_materials_unlit: the base colour is shown exactly as given. */
  unlit?: boolean;
  /** A shader of the author's own, whose hooks take the place of parts of the built-in one. */
  shader?: MaterialShader;
  /**
   * Values of the shader's settings by name: numbers, arrays of them, and textures. May be written to at
   * any time; what is left out has its default.
   */
  settings?: Record<string, SettingValue>;
  extras?: unknown;
}

/** A number, several (vectors, colours, matrices by columns), or a texture. */
export type SettingValue = number | ArrayLike<number> | Texture | TextureUse;

export type AlphaMode = 'opaque' | 'mask' | 'blend';

/** A texture in one of a material's places. */
export interface TextureUse {
  texture: Texture;
  /** Which texture coordinate set; default 0. */
  texCoord?: 0 | 1;
  /** `scale` of a normal texture, `strength` of an occlusion texture. Default 1. */
  strength?: number;
  /** KHR_texture_transform: applied as scale, then rotation (radians, counter-clockwise), then offset. */
  transform?: { offset: [number, number]; rotation: number; scale: [number, number] };
}

export interface Texture {
  name?: string;
  image: Image;
  sampler?: Sampler;
  extras?: unknown;
}

export interface Sampler {
  name?: string;
  magFilter?: 'nearest' | 'linear';
  minFilter?: 'nearest' | 'linear';
  /** How levels of detail are chosen; `none` samples the base level alone. Default `linear`. */
  mipmapFilter?: 'none' | 'nearest' | 'linear';
  wrapS?: Wrap;
  wrapT?: Wrap;
  /**
   * How many texels side by side are read where a surface is seen at a slant, 1 to 16; 1 where a filter is `nearest`. Default 4.
   * Not in model files.
   */
  anisotropy?: number;
}

export type Wrap = 'repeat' | 'clamp-to-edge' | 'mirror-repeat';

/** A picture: encoded bytes, plain pixels, or something of the host's that the GPU can copy from. */
export interface Image {
  name?: string;
  /** Where it came from, relative to its model. */
  uri?: string;
  /** May be put in the place of another at any time: it is drawn from then on. */
  content: ImageContent;
  /** Raised by whoever changes the pixels of `content` in place: it is uploaded anew. */
  version?: number;
  /**
   * Whether its colors are multiplied by its alpha when it is uploaded as color, before levels are made of it and texels are mixed: no
   * dark fringes. For materials with `blend: 'premultiplied'`. Default false.
   */
  premultiply?: boolean;
  extras?: unknown;
}

export type ImageContent =
  | { kind: 'encoded'; mimeType: string; bytes: Uint8Array }
  /** Rows top to bottom, four bytes a pixel, RGBA, not premultiplied. */
  | { kind: 'pixels'; width: number; height: number; data: Uint8Array; encoded?: EncodedImage }
  /** A decoded picture owned by the host (in a browser: ImageBitmap, canvas, image element). */
  | {
      kind: 'host';
      width: number;
      height: number;
      source: object;
      /** What it was decoded from, for writers. */
      encoded?: EncodedImage;
    }
  /** What was drawn into a target of a lens. */
  | { kind: 'target'; width: number; height: number; source: object; encoded?: EncodedImage }
  /** For the GPU, with levels of detail (one: the rest are made where the format is not packed). */
  | {
      kind: 'levels';
      width: number;
      height: number;
      format: TexelFormat;
      /** The largest first: rows from the top, in packed formats rows of blocks. */
      levels: Uint8Array[];
      encoded?: EncodedImage;
    };

export interface EncodedImage {
  mimeType: string;
  bytes: Uint8Array;
}

/** A picture as bytes of a file; undefined where there are none. */
export const encodedOf = ({ content }: Image): EncodedImage | undefined =>
  content.kind === 'encoded' ? content : content.encoded;

/** glTF's defaults, in one place for the packer, the writer and the documentation. */
export const MATERIAL_DEFAULTS = {
  baseColorFactor: [1, 1, 1, 1],
  metallicFactor: 1,
  roughnessFactor: 1,
  emissiveFactor: [0, 0, 0],
  emissiveStrength: 1,
  alphaMode: 'opaque',
  alphaCutoff: 0.5,
} as const;
