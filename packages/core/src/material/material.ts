import type { MaterialShader } from './shader-types.js';

/** Names and meanings are those of glTF 2.0; every member may be left out and has glTF's default. */
export interface Material {
  name?: string;
  /** Linear red, green, blue and alpha, 0..1. Default [1, 1, 1, 1]. */
  baseColorFactor?: [number, number, number, number];
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
  emissiveFactor?: [number, number, number];
  /** KHR_materials_emissive_strength; 0 or more, default 1. */
  emissiveStrength?: number;
  emissiveTexture?: TextureUse;
  alphaMode?: AlphaMode;
  /** For `mask`: below it a fragment is not drawn. Default 0.5. */
  alphaCutoff?: number;
  doubleSided?: boolean;
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
export type SettingValue = number | ArrayLike<number> | Texture;

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
}

export type Wrap = 'repeat' | 'clamp-to-edge' | 'mirror-repeat';

/** A picture: encoded bytes, plain pixels, or something of the host's that the GPU can copy from. */
export interface Image {
  name?: string;
  /** Where it came from, relative to its model. */
  uri?: string;
  content: ImageContent;
  extras?: unknown;
}

export type ImageContent =
  | { kind: 'encoded'; mimeType: string; bytes: Uint8Array }
  /** Rows top to bottom, four bytes a pixel, RGBA, not premultiplied. */
  | { kind: 'pixels'; width: number; height: number; data: Uint8Array }
  /** A decoded picture owned by the host (in a browser: ImageBitmap, canvas, image element). */
  | { kind: 'host'; width: number; height: number; source: object };

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
