import { LensError } from '../../errors/lens-error.js';
import { fromHalfFloats } from '../../math/half-floats.js';
import { linearFromSrgb } from '../../math/srgb.js';
import { BC_DECODERS } from '../blocks/bc.js';
import { ETC_DECODERS } from '../blocks/etc2.js';
import { readCodebooks } from '../basis/etc1s-codebooks.js';
import { type Etc1sBlocks, readSlice } from '../basis/etc1s-slice.js';
import { etc1sPixels, etc1sToBc, etc1sToEtc2 } from '../basis/etc1s-targets.js';
import { uastcPixels, uastcToAstc } from '../basis/uastc-targets.js';
import { plainPixels } from './plain-texels.js';
import { Ktx2Fault, type Ktx2Texture, pictureBytes, readKtx2 } from './read-ktx2.js';
import { type PackedFormat, texelBlock, type TexelFormat } from '../../material/texel-formats.js';

/** One picture of a texture with its levels, in a format that a GPU takes. */
export interface TexelLevels {
  width: number;
  height: number;
  format: TexelFormat;
  /** The largest first. Rows from the top; in packed formats rows of blocks. */
  levels: Uint8Array[];
  /** What the file says of its numbers. */
  isSrgb: boolean;
}

export interface DecodeKtx2Options {
  /** Packed formats that the GPU takes, by WebGPU's names without `-srgb`. Default: none, so that pixels come out. */
  supported?: readonly string[];
  /** Whether the GPU takes pictures whose sides are no whole blocks, as WebGL2 does but for BC. Default false. */
  partialBlocks?: boolean;
  /** Which layer of an array. Default 0. */
  layer?: number;
  /** Which face of a cube: +X, -X, +Y, -Y, +Z, -Z. Default 0. */
  face?: number;
  /** Name for messages. */
  file?: string;
}

/**
 * A picture of a KTX 2.0 file, for a GPU: packed as it is where the GPU takes that, transcoded (ETC1S to ETC2 or BC, UASTC to
 * ASTC), or as pixels.
 *
 * @throws LensError those of `readKtx2`; `ktx2/unsupported` where the GPU does not take a format that is not decoded here
 */
export async function decodeKtx2(bytes: Uint8Array, options: DecodeKtx2Options = {}): Promise<TexelLevels> {
  return pictureOf(await readKtx2(bytes, options.file), options);
}

/** A picture of a texture that is read already: see `decodeKtx2`. */
export function pictureOf(texture: Ktx2Texture, options: DecodeKtx2Options = {}): TexelLevels {
  const { layer = 0, face = 0, file = '' } = options;
  const { faces, height, isSrgb, kind, layers, levels, width } = texture;
  // Channels are exchanged where pixels are made.
  const supported = texture.swizzle ? [] : fitting(options, width, height);
  const fault = new Ktx2Fault(file);
  if (!(layer >= 0 && layer < layers && face >= 0 && face < faces))
    fault.fail(
      'no-picture',
      `it has ${layers} layers of ${faces} faces, and not layer ${layer}, face ${face}`,
      '',
    );
  const image = layer * faces + face;
  let format: TexelFormat | undefined;
  const made = levels.map((level, i) => {
    const [w, h] = [Math.max(1, width >> i), Math.max(1, height >> i)];
    let out: { format: TexelFormat; bytes: Uint8Array };
    try {
      if (kind === 'etc1s') out = ofEtc1s(texture, level, i * layers * faces + image, w, h, supported);
      else {
        const size = pictureBytes(kind, w, h);
        const part = level.subarray(image * size, image * size + size);
        if (kind === 'uastc') out = ofUastc(part, w, h, isSrgb, supported);
        else if (typeof kind === 'string') out = ofPacked(kind, part, w, h, supported);
        else out = plainPixels(part, kind, w * h);
      }
    } catch (cause) {
      if (cause instanceof LensError) throw cause;
      const told = cause instanceof Error ? cause.message : String(cause);
      return fault.fail('broken', `level ${i} cannot be decoded: ${told}`, 'Copy the file again.', cause);
    }
    format = out.format;
    return texture.swizzle ? swizzled(out, texture.swizzle) : out.bytes;
  });
  if (!format) return fault.fail('broken', 'it has no levels', 'Export it anew.');
  return { width, height, format, levels: made, isSrgb };
}

/** The formats that the GPU takes for a picture of this size. */
function fitting(
  { partialBlocks = false, supported = [] }: DecodeKtx2Options,
  width: number,
  height: number,
): readonly string[] {
  return supported.filter((format) => {
    const block = texelBlock(format as TexelFormat);
    const isWhole = width % block.width === 0 && height % block.height === 0;
    return isWhole || (partialBlocks && !format.startsWith('bc'));
  });
}

/** With channels in the order that the file asks for. */
function swizzled({ bytes, format }: Made, swizzle: string): Uint8Array {
  const one = { rgba8unorm: [255], rgba16float: [0, 0x3c], rgba32float: [0, 0, 0x80, 0x3f] }[
    format as 'rgba8unorm' | 'rgba16float' | 'rgba32float'
  ];
  const size = one.length;
  const out = new Uint8Array(bytes.length);
  for (let at = 0; at < bytes.length; at += size * 4)
    [...swizzle].forEach((letter, c) => {
      const from = 'rgba'.indexOf(letter);
      for (let b = 0; b < size; b++)
        out[at + c * size + b] = from >= 0 ? bytes[at + from * size + b]! : letter === '1' ? one[b]! : 0; // whole pixels
    });
  return out;
}

type Made = { format: TexelFormat; bytes: Uint8Array };

function ofUastc(
  bytes: Uint8Array,
  width: number,
  height: number,
  isSrgb: boolean,
  supported: readonly string[],
): Made {
  if (supported.includes('astc-4x4-unorm')) return { format: 'astc-4x4-unorm', bytes: uastcToAstc(bytes) };
  return { format: 'rgba8unorm', bytes: uastcPixels(bytes, width, height, isSrgb) };
}

const books = new WeakMap<object, ReturnType<typeof readCodebooks>>();

function ofEtc1s(
  { shared }: Ktx2Texture,
  level: Uint8Array,
  image: number,
  width: number,
  height: number,
  supported: readonly string[],
): Made {
  const description = shared?.imageDescs[image];
  if (!shared || !description) throw new Error('its pictures are not described');
  let known = books.get(shared);
  if (!known) books.set(shared, (known = readCodebooks(shared)));
  const all = known;
  const slice = (offset: number, length: number): Etc1sBlocks => {
    if (offset + length > level.length) throw new Error('a slice lies outside of its level');
    return readSlice(level.subarray(offset, offset + length), all, (width + 3) >> 2, (height + 3) >> 2);
  };
  const { alphaSliceByteLength, alphaSliceByteOffset, rgbSliceByteLength, rgbSliceByteOffset } = description;
  const color = slice(rgbSliceByteOffset, rgbSliceByteLength);
  const alpha = alphaSliceByteLength > 0 ? slice(alphaSliceByteOffset, alphaSliceByteLength) : undefined;
  const etc: PackedFormat = alpha ? 'etc2-rgba8unorm' : 'etc2-rgb8unorm';
  if (supported.includes(etc)) return { format: etc, bytes: etc1sToEtc2(all, color, alpha) };
  const bc: PackedFormat = alpha ? 'bc3-rgba-unorm' : 'bc1-rgba-unorm';
  if (supported.includes(bc)) return { format: bc, bytes: etc1sToBc(all, color, alpha) };
  return { format: 'rgba8unorm', bytes: etc1sPixels(all, color, alpha, width, height) };
}

function ofPacked(
  format: PackedFormat,
  bytes: Uint8Array,
  width: number,
  height: number,
  supported: readonly string[],
): Made {
  if (supported.includes(format)) return { format, bytes };
  const decode = BC_DECODERS[format] ?? ETC_DECODERS[format];
  if (!decode)
    throw new LensError(
      'ktx2/unsupported',
      `this GPU does not read ${format} of this size, and it is not decoded here`,
      {
        hint: 'Use a universal texture (UASTC or ETC1S), which every GPU is given in a format of its own.',
      },
    );
  const { bytes: stride } = texelBlock(format);
  const out = new Uint8Array(width * height * 4);
  const block = new Uint8Array(64);
  const columns = Math.ceil(width / 4);
  for (let by = 0; by < height; by += 4)
    for (let bx = 0; bx < width; bx += 4) {
      decode(bytes, ((by >> 2) * columns + (bx >> 2)) * stride, block);
      const wide = Math.min(4, width - bx) * 4;
      for (let y = 0; y < Math.min(4, height - by); y++)
        out.set(block.subarray(y * 16, y * 16 + wide), ((by + y) * width + bx) * 4);
    }
  return { format: 'rgba8unorm', bytes: out };
}

/** Pictures of half floats or bytes as numbers, four a pixel; bytes of sRGB colours become linear. */
export function linearPixels({ format, isSrgb, levels }: TexelLevels): Float32Array {
  const [first] = levels;
  if (!first) return new Float32Array(0);
  if (format === 'rgba16float') return fromHalfFloats(new Uint16Array(first.slice().buffer));
  if (format === 'rgba32float') return new Float32Array(first.slice().buffer);
  return Float32Array.from(first, (value, i) => {
    const v = value / 255;
    return !isSrgb || (i & 3) === 3 ? v : linearFromSrgb(v);
  });
}
