import type { BufferOptions, TextureFormat, TextureOptions } from './device.js';

/** Levels of a full set of mipmaps. */
export function mipLevels(width: number, height: number): number {
  return Math.floor(Math.log2(Math.max(width, height, 1))) + 1;
}

/** Bytes of one pixel. */
export const FORMAT_BYTES: Record<TextureFormat, number> = {
  r8unorm: 1,
  rg8unorm: 2,
  r8snorm: 1,
  rg8snorm: 2,
  rgba8snorm: 4,
  rgb10a2unorm: 4,
  r16float: 2,
  rg16float: 4,
  r32float: 4,
  rgba8unorm: 4,
  'rgba8unorm-srgb': 4,
  bgra8unorm: 4,
  rgba16float: 8,
  rgba32float: 16,
  depth32float: 4,
  depth24plus: 4,
  'depth32float-stencil8': 8,
  'depth24plus-stencil8': 4,
};

/** Numbers a pixel, as they are uploaded and read back; packed ones count as one. */
export const FORMAT_PARTS: Record<TextureFormat, number> = {
  r8unorm: 1,
  rg8unorm: 2,
  r8snorm: 1,
  rg8snorm: 2,
  rgba8snorm: 4,
  rgb10a2unorm: 1,
  r16float: 1,
  rg16float: 2,
  r32float: 1,
  rgba8unorm: 4,
  'rgba8unorm-srgb': 4,
  bgra8unorm: 4,
  rgba16float: 4,
  rgba32float: 4,
  depth32float: 1,
  depth24plus: 1,
  'depth32float-stencil8': 1,
  'depth24plus-stencil8': 1,
};

/** Whether textures of a format hold a stencil beside depths. */
export const hasStencil = (format: TextureFormat): boolean => format.endsWith('stencil8');

/** A buffer's size, by itself or by its data; what is not a number is refused by the checks. */
export function bufferSize({ size, data }: BufferOptions): number {
  return size ?? data?.byteLength ?? Number.NaN;
}

/** Levels of a texture by its options. */
export function levelsOf({ width, height, mipLevelCount, mipmaps }: TextureOptions): number {
  return mipLevelCount ?? (mipmaps ? mipLevels(width, height) : 1);
}

/** Bytes a texture takes on the GPU, all levels and samples. */
export function textureBytes(options: TextureOptions): number {
  let bytes = 0;
  for (let level = 0; level < levelsOf(options); level++) {
    bytes +=
      Math.max(1, options.width >> level) *
      Math.max(1, options.height >> level) *
      FORMAT_BYTES[options.format];
  }
  return bytes * (options.sampleCount ?? 1) * layersOf(options);
}

/** Layers of a texture by its options. */
export function layersOf({ shape, layers = 1 }: TextureOptions): number {
  return shape === 'cube' ? 6 : shape === '2d-array' ? layers : 1;
}

/** Side of a level of detail. Pixels. */
export function levelSize(size: number, level: number): number {
  return Math.max(1, size >> level);
}
