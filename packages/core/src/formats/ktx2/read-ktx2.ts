import { type KTX2Container, read } from 'ktx-parse';
import { LensError } from '../../errors/lens-error.js';
import { inflate } from '../bytes/inflate.js';
import { type PackedFormat, type PlainTexels, texelBytes, vkFormat } from '../../material/texel-formats.js';

/** A texture as a KTX 2.0 file holds it, its levels unpacked. */
export interface Ktx2Texture {
  /** Pixels of the first level. */
  width: number;
  height: number;
  /** 1 where it is no array. */
  layers: number;
  /** 6 for cubes: +X, -X, +Y, -Y, +Z, -Z; else 1. */
  faces: number;
  isSrgb: boolean;
  /** Whether `umber bake` made it. */
  isBaked: boolean;
  /** What its pictures are made of: packed for GPUs, plain numbers, or one of the two universal kinds. */
  kind: PackedFormat | PlainTexels | 'uastc' | 'etc1s';
  /** Level by level, the largest first: all pictures one after the other, layer by layer and face by face. */
  levels: Uint8Array[];
  /** Where channels come from, one letter each (`r`, `g`, `b`, `a`, `0`, `1`); undefined where they are what they are. */
  swizzle: string | undefined;
  /** Of ETC1S: what its pictures share. */
  shared: KTX2Container['globalData'];
}

/** Sides at most. Pixels. */
const LARGEST = 16384;
/** Bytes that the levels of a file may unpack to, all together: 1 GiB. */
const MOST_BYTES = 2 ** 30;
const [NONE, BASIS, ZSTD, ZLIB] = [0, 1, 2, 3] as const;
/** Colour models of the descriptor of data. */
const [UASTC, ETC1S] = [166, 163] as const;
const SRGB = 2;
/** KHR_DF_FLAG_ALPHA_PREMULTIPLIED. */
const PREMULTIPLIED = 1;

/** Refuses a file, with its name. */
export class Ktx2Fault {
  constructor(private readonly file: string) {}

  fail(code: string, message: string, hint: string, cause?: unknown): never {
    const where = this.file ? { file: this.file } : {};
    throw new LensError(`ktx2/${code}`, message, { where, hint, cause });
  }
}

/**
 * Reads a texture of KTX 2.0, its levels unpacked (Zstandard, zlib).
 *
 * @param file name for messages
 * @throws LensError `ktx2/broken`, `ktx2/format` for what is not read, `ktx2/too-large`
 */
export async function readKtx2(bytes: Uint8Array, file = ''): Promise<Ktx2Texture> {
  const fault = new Ktx2Fault(file);
  let container: KTX2Container;
  try {
    container = read(bytes);
  } catch (cause) {
    return fault.fail('broken', 'this is no whole KTX2 file', 'Copy it again.', cause);
  }
  const { faceCount: faces, pixelDepth, pixelHeight, pixelWidth: width } = container;
  const height = Math.max(1, pixelHeight);
  const layers = Math.max(1, container.layerCount);
  if (pixelDepth > 0)
    fault.fail('format', 'textures with depth are not read', 'Make an array of layers of it.');
  if (!(width >= 1 && width <= LARGEST && height <= LARGEST))
    fault.fail('too-large', `it has ${width} x ${height} pixels`, `Sides of 1 to ${LARGEST} are read.`);
  if (faces !== 1 && (faces !== 6 || width !== height))
    fault.fail(
      'broken',
      `it has ${faces} faces of ${width} x ${height} pixels`,
      'A cube has six, as wide as high.',
    );
  const levelsAtMost = Math.floor(Math.log2(Math.max(width, height))) + 1;
  if (container.levels.length > levelsAtMost)
    fault.fail(
      'broken',
      `${container.levels.length} levels are more than ${width} x ${height} pixels have`,
      '',
    );
  const orientation = textOf(container.keyValue['KTXorientation']);
  if (orientation && !orientation.startsWith('rd'))
    fault.fail(
      'format',
      `its rows are ordered "${orientation}"`,
      'Export it with the first row at the top (rd).',
    );
  const [dfd] = container.dataFormatDescriptor;
  if (dfd && (dfd.flags & PREMULTIPLIED) !== 0)
    fault.fail('format', 'opacity is multiplied into its colours', 'Export it with straight alpha.');
  const swizzle = textOf(container.keyValue['KTXswizzle'])?.replace(/\0.*$/s, '');
  if (swizzle !== undefined && !/^[rgba01]{4}$/.test(swizzle))
    fault.fail('broken', `its channels are ordered "${swizzle}"`, 'Export it anew.');
  const texture: Ktx2Texture = {
    width,
    height,
    layers,
    faces,
    isSrgb: dfd?.transferFunction === SRGB,
    isBaked: 'umberIrradiance' in container.keyValue,
    kind: kindOf(container, fault),
    levels: [],
    swizzle: swizzle === 'rgba' ? undefined : swizzle,
    shared: container.globalData,
  };
  texture.levels = await unpack(container, texture, fault);
  return texture;
}

function kindOf(container: KTX2Container, fault: Ktx2Fault): Ktx2Texture['kind'] {
  const { supercompressionScheme, vkFormat: number } = container;
  const model = container.dataFormatDescriptor[0]?.colorModel;
  if (number === 0) {
    if (model === UASTC && supercompressionScheme !== BASIS) return 'uastc';
    if (model === ETC1S && supercompressionScheme === BASIS && container.globalData) return 'etc1s';
    return fault.fail(
      'format',
      `pixels of model ${model} with packing ${supercompressionScheme} are not read`,
      'Universal textures are read where they are UASTC (LDR) or ETC1S.',
    );
  }
  const known = vkFormat(number);
  const kind = known?.format ?? known?.texels;
  return (
    kind ??
    fault.fail('format', `pixels of format ${number} are not read`, 'Export it with four channels of 8 bits.')
  );
}

/** Bytes that a level has when it is unpacked; undefined where the file alone knows. */
export function levelBytes(
  { faces, height, kind, layers, width }: Ktx2Texture,
  level: number,
): number | undefined {
  if (kind === 'etc1s') return undefined;
  const [w, h] = [Math.max(1, width >> level), Math.max(1, height >> level)];
  return pictureBytes(kind, w, h) * layers * faces;
}

const TYPE_BYTES = { u8: 1, u16: 2, f16: 2, f32: 4 };

/** Bytes of one picture. */
export function pictureBytes(
  kind: Exclude<Ktx2Texture['kind'], 'etc1s'>,
  width: number,
  height: number,
): number {
  if (kind === 'uastc') return texelBytes('astc-4x4-unorm', width, height);
  if (typeof kind === 'string') return texelBytes(kind, width, height);
  const pixel = kind.type === 'f11' || kind.type === 'e5' ? 4 : TYPE_BYTES[kind.type] * kind.channels;
  return width * height * pixel;
}

async function unpack(
  container: KTX2Container,
  texture: Ktx2Texture,
  fault: Ktx2Fault,
): Promise<Uint8Array[]> {
  const { levels, supercompressionScheme: scheme } = container;
  const sizes = levels.map((_, level) => levelBytes(texture, level));
  const total = sizes.reduce<number>((sum, size) => sum + (size ?? 0), 0);
  if (total > MOST_BYTES)
    fault.fail('too-large', `it would unpack to ${total} bytes`, `At most ${MOST_BYTES} are read.`);
  const zstd = scheme === ZSTD ? await openZstd() : undefined;
  return Promise.all(
    levels.map(async ({ levelData }, level) => {
      const size = sizes[level];
      let plain: Uint8Array = levelData;
      try {
        if (zstd) plain = zstd(levelData, size ?? 0);
        else if (scheme === ZLIB) plain = await inflate(levelData, size);
        else if (scheme !== NONE && scheme !== BASIS) throw new Error(`packing ${scheme} is not known`);
      } catch (cause) {
        fault.fail('broken', `level ${level} cannot be unpacked`, 'Copy the file again.', cause);
      }
      if (size !== undefined && plain.length !== size)
        fault.fail(
          'broken',
          `level ${level} has ${plain.length} bytes instead of ${size}`,
          'Copy the file again, or export it anew.',
        );
      return plain;
    }),
  );
}

/** The package zstddec, which is loaded when a file first asks for it. */
async function openZstd(): Promise<(bytes: Uint8Array, size: number) => Uint8Array> {
  const { ZSTDDecoder } = await import('zstddec');
  const decoder = new ZSTDDecoder();
  await decoder.init();
  return (bytes, size) => decoder.decode(bytes, size);
}

function textOf(value: string | Uint8Array | undefined): string | undefined {
  return value instanceof Uint8Array ? String.fromCharCode(...value.subarray(0, 16)) : value;
}
