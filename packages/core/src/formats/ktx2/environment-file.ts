import { createDefaultContainer, type KTX2Container, read, write } from 'ktx-parse';
import { LensError } from '../../errors/lens-error.js';
import { type BakedLight, bakedPanorama } from '../../light/bake.js';
import type { LightCube } from '../../light/cube.js';
import { LOBE_COUNTS } from '../../light/lobe.js';
import { joined } from '../bytes/byte-source.js';
import { deflate, inflate } from '../bytes/inflate.js';
import type { Panorama } from '../../light/panorama.js';
import { fromHalfFloats, toHalfFloats } from '../../math/half-floats.js';

declare const TextDecoder: new () => { decode(bytes: Uint8Array): string };

/** VK_FORMAT_R16G16B16A16_SFLOAT. */
const HALF_FLOATS = 97;
const ZLIB = 3;
/** Key of the nine coefficients of irradiance, 27 floats. */
const IRRADIANCE = 'umberIrradiance';
const MAGIC = [0xab, 0x4b, 0x54, 0x58, 0x20, 0x32, 0x30, 0xbb];
const LARGEST = 4096;

/** Whether bytes begin as KTX2 does. */
export function isKtx2(bytes: Uint8Array): boolean {
  return MAGIC.every((byte, i) => bytes[i] === byte);
}

/**
 * Writes what was baked of a panorama as KTX2: a cube of half floats, RGBA, whose levels are for mirrors of growing
 * roughness, packed by zlib; irradiance stands in the file's key `umberIrradiance`.
 *
 * @throws LensError `ktx2/not-baked`
 */
export async function writeBakedKtx2({ baked, name }: Panorama): Promise<Uint8Array> {
  if (!baked) {
    throw new LensError('ktx2/not-baked', 'nothing was baked of this panorama', {
      hint: 'Call bakePanorama first.',
    });
  }
  const side = baked.levels[0]!.side; // has levels
  const container = createDefaultContainer();
  container.vkFormat = HALF_FLOATS;
  container.typeSize = 2;
  container.pixelWidth = container.pixelHeight = side;
  container.pixelDepth = 0;
  container.layerCount = 0;
  container.faceCount = 6;
  container.levelCount = baked.levels.length;
  container.supercompressionScheme = ZLIB;
  const [dfd] = container.dataFormatDescriptor;
  Object.assign(dfd!, {
    colorModel: 1, // RGBSDA
    colorPrimaries: 1, // BT.709
    transferFunction: 1, // linear
    flags: 0,
    texelBlockDimension: [0, 0, 0, 0],
    bytesPlane: [8, 0, 0, 0, 0, 0, 0, 0],
    // Signed floats of 16 bits each; bounds are -1 and 1 as floats.
    samples: [0, 1, 2, 15].map((channel, i) => ({
      bitOffset: i * 16,
      bitLength: 15,
      channelType: channel | 128 | 64,
      samplePosition: [0, 0, 0, 0],
      sampleLower: 0xbf800000,
      sampleUpper: 0x3f800000,
    })),
  });
  container.keyValue = {
    KTXwriter: 'umber-lens',
    KTXorientation: 'rd',
    [IRRADIANCE]: new Uint8Array(Float32Array.from(baked.irradiance).buffer),
    ...(name === undefined ? {} : { umberName: name }),
  };
  container.levels = await Promise.all(
    baked.levels.map(async (cube) => {
      const plain = bytesOf(cube);
      const levelData = await deflate(plain);
      return { levelData, uncompressedByteLength: plain.length };
    }),
  );
  return write(container);
}

/**
 * Reads what `writeBakedKtx2` (or `umber bake`) wrote.
 *
 * @throws LensError `ktx2/broken`, `ktx2/format` for other contents
 */
export async function readBakedKtx2(bytes: Uint8Array, file?: string): Promise<Panorama> {
  const where = file === undefined ? {} : { file };
  const refuse = (code: string, message: string, hint: string, cause?: unknown): never => {
    throw new LensError(`ktx2/${code}`, message, { where, hint, cause });
  };
  let container: KTX2Container;
  try {
    container = read(bytes);
  } catch (cause) {
    return refuse('broken', `this is no whole KTX2 file: ${String(cause)}`, 'Copy it again.', cause);
  }
  const { vkFormat, faceCount, levels, pixelWidth, supercompressionScheme, keyValue } = container;
  const irradiance = keyValue[IRRADIANCE];
  const fault =
    vkFormat !== HALF_FLOATS
      ? `its pixels have format ${vkFormat}`
      : faceCount !== 6
        ? 'it is no cube'
        : levels.length !== LOBE_COUNTS.length
          ? `it has ${levels.length} levels, not ${LOBE_COUNTS.length}`
          : !(pixelWidth >= 32 && pixelWidth <= LARGEST)
            ? `its sides have ${pixelWidth} pixels`
            : supercompressionScheme !== ZLIB && supercompressionScheme !== 0
              ? `it is packed by scheme ${supercompressionScheme}`
              : !(irradiance instanceof Uint8Array) || irradiance.length !== 108
                ? 'it holds no irradiance'
                : undefined;
  if (fault)
    return refuse('format', `this KTX2 file is no baked environment: ${fault}`, 'Make it with umber bake.');
  const cubes = await Promise.all(
    levels.map(async ({ levelData }, level): Promise<LightCube> => {
      const side = pixelWidth >> level;
      const expected = side * side * 8 * 6;
      let plain = levelData;
      try {
        if (supercompressionScheme === ZLIB) plain = await inflate(levelData, expected);
      } catch (cause) {
        return refuse('broken', `level ${level} cannot be unpacked`, 'Copy the file again.', cause);
      }
      if (plain.length !== expected)
        return refuse(
          'broken',
          `level ${level} has ${plain.length} bytes instead of ${expected}`,
          'Copy the file again.',
        );
      const words = new Uint16Array(plain.slice().buffer);
      const length = side * side * 4;
      return {
        side,
        sides: [0, 1, 2, 3, 4, 5].map((k) => fromHalfFloats(words.subarray(k * length, (k + 1) * length))),
      };
    }),
  );
  const baked: BakedLight = {
    levels: cubes,
    irradiance: new Float32Array((irradiance as Uint8Array).slice().buffer), // looked at above
  };
  const { umberName } = keyValue;
  const named =
    umberName instanceof Uint8Array ? new TextDecoder().decode(umberName).replace(/\0+$/, '') : umberName;
  return bakedPanorama(baked, named);
}

function bytesOf({ sides }: LightCube): Uint8Array {
  const parts = sides.map((side) => new Uint8Array(toHalfFloats(side).buffer));
  return joined(
    parts,
    parts.reduce((sum, { length }) => sum + length, 0),
  );
}
