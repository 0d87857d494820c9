import { ASTC_SIZES, type PackedFormat, srgbFormat, texelBlock } from '@umber-lens/core/engine';
import type { DeviceTexture } from '../device.js';
import { type PackedTextureOptions, type PackedTextures, seenAs } from '../packed.js';
import { levelSize } from '../sizes.js';
import type { WebgpuTexture } from './objects.js';
import type { WebgpuDevice } from './webgpu-device.js';

/** By the feature that brings them. */
const FORMATS: Readonly<Record<string, readonly string[]>> = {
  'texture-compression-bc': [
    'bc1-rgba-unorm',
    'bc2-rgba-unorm',
    'bc3-rgba-unorm',
    'bc4-r-unorm',
    'bc5-rg-unorm',
    'bc6h-rgb-ufloat',
    'bc6h-rgb-float',
    'bc7-rgba-unorm',
  ],
  'texture-compression-etc2': [
    'etc2-rgb8unorm',
    'etc2-rgb8a1unorm',
    'etc2-rgba8unorm',
    'eac-r11unorm',
    'eac-rg11unorm',
  ],
  'texture-compression-astc': ASTC_SIZES.map((size) => `astc-${size}-unorm`),
};
const TEXTURE_BINDING = 4;
const COPY_DST = 2;

export class WebgpuPacked implements PackedTextures {
  readonly partialBlocks = false;
  readonly formats: readonly PackedFormat[];

  constructor(private readonly device: WebgpuDevice) {
    this.formats = Object.entries(FORMATS)
      .filter(([feature]) => device.gpu.features.has(feature))
      .flatMap(([, formats]) => formats as PackedFormat[]);
  }

  create({ format, height, isSrgb, label = '', levels, width }: PackedTextureOptions): DeviceTexture {
    const { device } = this;
    const handle = device.gpu.createTexture({
      label,
      size: [width, height],
      format: (isSrgb ? srgbFormat(format) : format) as GPUTextureFormat,
      mipLevelCount: levels.length,
      usage: TEXTURE_BINDING | COPY_DST,
    });
    const block = texelBlock(format);
    let bytes = 0;
    device.submit();
    levels.forEach((data, mipLevel) => {
      const columns = Math.ceil(levelSize(width, mipLevel) / block.width);
      const rows = Math.ceil(levelSize(height, mipLevel) / block.height);
      device.gpu.queue.writeTexture(
        { texture: handle, mipLevel },
        data as Uint8Array<ArrayBuffer>,
        { bytesPerRow: columns * block.bytes, rowsPerImage: rows },
        [columns * block.width, rows * block.height],
      );
      bytes += data.length;
    });
    device.counts.textureBytes += bytes;
    device.counts.bytesUploaded += bytes;
    let whole: GPUTextureView | undefined;
    const texture: Omit<WebgpuTexture, 'dispose'> = {
      kind: 'texture',
      label,
      width,
      height,
      format: seenAs(format, isSrgb),
      bytes,
      mipLevelCount: levels.length,
      sampleCount: 1,
      shape: '2d',
      layers: 1,
      handle,
      view: () => (whole ??= handle.createView()),
      target: () => texture.view(),
    };
    return device.living.keep('textures', texture, () => {
      handle.destroy();
      device.counts.textureBytes -= bytes;
    });
  }
}
