import {
  decodeKtx2,
  type EncodedImage,
  fromHalfFloats,
  type Image,
  type ImageContent,
  LensError,
  type PackedFormat,
  readPng16,
  texelBlock,
  toHalfFloats,
} from '@umber-lens/core/engine';
import type { Device, DeviceTexture, TextureFormat } from '../gpu/device.js';
import type { PackedTextures } from '../gpu/packed.js';
import { mipLevels } from '../gpu/sizes.js';

type Levels = Extract<ImageContent, { kind: 'levels' }>;

const isPacked = (format: Levels['format']): format is PackedFormat => texelBlock(format).width > 1;

/** Textures that bring levels of their own, packed or not. */
export class LeveledTextures {
  constructor(
    private readonly device: Device,
    readonly packed: PackedTextures | undefined,
  ) {}

  static async open(device: Device): Promise<LeveledTextures> {
    return new LeveledTextures(device, await device.openPacked());
  }

  /** Whether the GPU takes them as they are: they may have been decoded for another. */
  takes({ format }: Levels): boolean {
    return !isPacked(format) || (this.packed?.formats.includes(format) ?? false);
  }

  /** @param isSrgb whether the numbers are sRGB */
  upload(label: string, { format, height, levels, width }: Levels, isSrgb: boolean): DeviceTexture {
    const { device } = this;
    // It takes them.
    if (isPacked(format)) return this.packed!.create({ label, width, height, format, isSrgb, levels });
    const seen: TextureFormat = format === 'rgba8unorm' && isSrgb ? 'rgba8unorm-srgb' : format;
    // Floats of 32 bits are not blended everywhere.
    const isMade = levels.length === 1 && format !== 'rgba32float';
    const texture = device.createTexture({
      label,
      width,
      height,
      format: seen,
      mipLevelCount: isMade ? mipLevels(width, height) : levels.length,
    });
    levels.forEach((bytes, level) => device.writeTexture(texture, numbersOf(format, bytes), { level }));
    if (isMade) device.generateMipmaps(texture);
    return texture;
  }
}

/** As numbers of the size that devices ask for. */
function numbersOf(format: Levels['format'], bytes: Uint8Array): Uint8Array | Float32Array {
  if (format === 'rgba16float') return fromHalfFloats(new Uint16Array(bytes.slice().buffer));
  return format === 'rgba32float' ? new Float32Array(bytes.slice().buffer) : bytes;
}

/**
 * Decodes KTX2 and PNG of 16 bits.
 *
 * @param all of each lens there is: what they all take is decoded to; of none for PNG
 */
export async function decodeLevels(
  image: Image,
  encoded: EncodedImage,
  all: readonly LeveledTextures[],
): Promise<Levels> {
  const file = image.name ?? image.uri ?? '';
  if (all.length === 0) {
    const { height, pixels, width } = await readPng16(encoded.bytes, file);
    const values = Float32Array.from(pixels, (value) => value / 65535);
    const levels = [new Uint8Array(toHalfFloats(values).buffer)];
    return { kind: 'levels', width, height, format: 'rgba16float', levels, encoded };
  }
  const [first] = all as [LeveledTextures];
  const { format, height, levels, width } = await decodeKtx2(encoded.bytes, {
    file,
    supported: (first.packed?.formats ?? []).filter((format) =>
      all.every(({ packed }) => packed?.formats.includes(format)),
    ),
    partialBlocks: all.every(({ packed }) => packed?.partialBlocks ?? false),
  });
  return { kind: 'levels', width, height, format, levels, encoded };
}

/**
 * A picture that a GPU takes in place of one that is too large for it: half as large as often as it must be.
 *
 * @param most pixels of a side
 * @param tell hears of it
 */
export function shrink(image: Image, most: number, tell: (message: LensError) => void): void {
  const { content } = image;
  if (content.kind === 'encoded') return;
  const { width, height } = content;
  const name = image.name ?? image.uri ?? '';
  let by = 1;
  while (Math.max(width, height) / by > most) by *= 2;
  const [w, h] = [Math.max(1, Math.floor(width / by)), Math.max(1, Math.floor(height / by))];
  tell(
    new LensError(
      'texture/too-large',
      `the picture "${name}" has ${width} x ${height} pixels, and this GPU takes ${most}`,
      {
        hint: `It is drawn from ${w} x ${h} pixels. Make it smaller: umber trim --max-texture ${most}.`,
      },
    ),
  );
  if (content.kind === 'levels') {
    const left = content.levels.slice(Math.log2(by));
    if (left.length === 0)
      throw new LensError('texture/too-large', `"${name}" has no level that is small enough`, {
        hint: 'Export it with levels of detail.',
      });
    image.content = { ...content, width: w, height: h, levels: left };
    return;
  }
  // Targets are as large as GPUs take.
  if (content.kind === 'target') return;
  const canvas = new OffscreenCanvas(w, h);
  const context = canvas.getContext('2d')!; // nobody else has asked for one
  context.imageSmoothingQuality = 'high';
  context.drawImage(sourceOf(content), 0, 0, w, h);
  const { encoded } = content;
  image.content = { kind: 'host', width: w, height: h, source: canvas, ...(encoded ? { encoded } : {}) };
}

function sourceOf(
  content: Exclude<ImageContent, { kind: 'encoded' } | { kind: 'levels' } | { kind: 'target' }>,
): CanvasImageSource {
  if (content.kind === 'host') return content.source as CanvasImageSource;
  const { data, height, width } = content;
  const canvas = new OffscreenCanvas(width, height);
  const pixels = new ImageData(new Uint8ClampedArray(data), width, height);
  canvas.getContext('2d')!.putImageData(pixels, 0, 0); // nobody else has asked for one
  return canvas;
}
