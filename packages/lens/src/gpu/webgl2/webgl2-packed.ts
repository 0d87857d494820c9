import { ASTC_SIZES, type PackedFormat, srgbFormat } from '@umber-lens/core/engine';
import type { DeviceTexture } from '../device.js';
import { type PackedTextureOptions, type PackedTextures, seenAs } from '../packed.js';
import { levelSize } from '../sizes.js';
import type { Webgl2Texture } from './objects.js';
import type { Webgl2Device } from './webgl2-device.js';

/** Numbers of formats by their names, sRGB ones with `-srgb`, as far as the context has them. */
function formatsOf(gl: WebGL2RenderingContext): Map<string, number> {
  const found = new Map<string, number>();
  const add = (name: string, names: readonly string[]): void => {
    const extension = gl.getExtension(name) as Record<string, number> | null;
    if (!extension) return;
    for (const line of names) {
      const [format = '', constant = ''] = line.split(' ');
      const number = extension[constant];
      if (number !== undefined) found.set(format, number);
    }
  };
  add('WEBGL_compressed_texture_s3tc', [
    'bc1-rgba-unorm COMPRESSED_RGBA_S3TC_DXT1_EXT',
    'bc2-rgba-unorm COMPRESSED_RGBA_S3TC_DXT3_EXT',
    'bc3-rgba-unorm COMPRESSED_RGBA_S3TC_DXT5_EXT',
  ]);
  add('WEBGL_compressed_texture_s3tc_srgb', [
    'bc1-rgba-unorm-srgb COMPRESSED_SRGB_ALPHA_S3TC_DXT1_EXT',
    'bc2-rgba-unorm-srgb COMPRESSED_SRGB_ALPHA_S3TC_DXT3_EXT',
    'bc3-rgba-unorm-srgb COMPRESSED_SRGB_ALPHA_S3TC_DXT5_EXT',
  ]);
  add('EXT_texture_compression_rgtc', [
    'bc4-r-unorm COMPRESSED_RED_RGTC1_EXT',
    'bc5-rg-unorm COMPRESSED_RED_GREEN_RGTC2_EXT',
  ]);
  add('EXT_texture_compression_bptc', [
    'bc6h-rgb-ufloat COMPRESSED_RGB_BPTC_UNSIGNED_FLOAT_EXT',
    'bc6h-rgb-float COMPRESSED_RGB_BPTC_SIGNED_FLOAT_EXT',
    'bc7-rgba-unorm COMPRESSED_RGBA_BPTC_UNORM_EXT',
    'bc7-rgba-unorm-srgb COMPRESSED_SRGB_ALPHA_BPTC_UNORM_EXT',
  ]);
  add('WEBGL_compressed_texture_etc', [
    'etc2-rgb8unorm COMPRESSED_RGB8_ETC2',
    'etc2-rgb8unorm-srgb COMPRESSED_SRGB8_ETC2',
    'etc2-rgb8a1unorm COMPRESSED_RGB8_PUNCHTHROUGH_ALPHA1_ETC2',
    'etc2-rgb8a1unorm-srgb COMPRESSED_SRGB8_PUNCHTHROUGH_ALPHA1_ETC2',
    'etc2-rgba8unorm COMPRESSED_RGBA8_ETC2_EAC',
    'etc2-rgba8unorm-srgb COMPRESSED_SRGB8_ALPHA8_ETC2_EAC',
    'eac-r11unorm COMPRESSED_R11_EAC',
    'eac-rg11unorm COMPRESSED_RG11_EAC',
  ]);
  add(
    'WEBGL_compressed_texture_astc',
    ASTC_SIZES.flatMap((size) => [
      `astc-${size}-unorm COMPRESSED_RGBA_ASTC_${size}_KHR`,
      `astc-${size}-unorm-srgb COMPRESSED_SRGB8_ALPHA8_ASTC_${size}_KHR`,
    ]),
  );
  return found;
}

export class Webgl2Packed implements PackedTextures {
  readonly partialBlocks = true;
  readonly formats: readonly PackedFormat[];
  private readonly numbers: Map<string, number>;

  constructor(private readonly device: Webgl2Device) {
    this.numbers = formatsOf(device.gl);
    // Both kinds of numbers must be there: whether colours are meant is known by the material alone.
    this.formats = [...this.numbers.keys()].filter(
      (format): format is PackedFormat =>
        !format.endsWith('-srgb') && this.numbers.has(srgbFormat(format as PackedFormat)),
    );
  }

  create({ format, height, isSrgb, label = '', levels, width }: PackedTextureOptions): DeviceTexture {
    const { device } = this;
    const { gl } = device;
    const internal = this.numbers.get(isSrgb ? srgbFormat(format) : format)!; // of those it says
    const target = gl.TEXTURE_2D;
    const handle = gl.createTexture();
    device.bindForUpload(handle, target);
    gl.texStorage2D(target, levels.length, internal, width, height);
    gl.texParameteri(target, gl.TEXTURE_MIN_FILTER, gl.NEAREST);
    gl.texParameteri(target, gl.TEXTURE_MAG_FILTER, gl.NEAREST);
    let bytes = 0;
    levels.forEach((data, level) => {
      const [w, h] = [levelSize(width, level), levelSize(height, level)];
      gl.compressedTexSubImage2D(target, level, 0, 0, w, h, internal, data);
      bytes += data.length;
    });
    device.counts.textureBytes += bytes;
    device.counts.bytesUploaded += bytes;
    const texture: Omit<Webgl2Texture, 'dispose'> = {
      kind: 'texture',
      label,
      width,
      height,
      format: seenAs(format, isSrgb),
      bytes,
      sampleCount: 1,
      mipLevelCount: levels.length,
      shape: '2d',
      layers: 1,
      handle,
      renderbuffer: null,
      target,
      external: { internal, format: 0, type: 0 },
      isCanvas: false,
      isDepth: false,
      framebuffers: [],
    };
    return device.living.keep('textures', texture, () => {
      gl.deleteTexture(handle);
      device.forget();
      device.counts.textureBytes -= bytes;
    });
  }
}
