import type { PackedFormat } from '@umber-lens/core/engine';
import type { DeviceTexture } from './device.js';

export interface PackedTextureOptions {
  label?: string;
  width: number;
  height: number;
  format: PackedFormat;
  /** Whether its numbers are sRGB; left alone in formats that have no sRGB. */
  isSrgb: boolean;
  /** The largest first: rows of blocks from the top. */
  levels: readonly Uint8Array[];
}

/** Textures that lie packed in the memory of the GPU. */
export interface PackedTextures {
  /** By WebGPU's names, without `-srgb`. */
  readonly formats: readonly PackedFormat[];
  /** Whether pictures need not be whole blocks (those of BC always must). */
  readonly partialBlocks: boolean;
  create(options: PackedTextureOptions): DeviceTexture;
}

/** How shaders see what is packed. */
export function seenAs(format: PackedFormat, isSrgb: boolean): DeviceTexture['format'] {
  if (format.startsWith('bc6h')) return 'rgba16float';
  return isSrgb ? 'rgba8unorm-srgb' : 'rgba8unorm';
}
