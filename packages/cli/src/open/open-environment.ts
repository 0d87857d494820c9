import {
  isKtx2,
  LensError,
  type Panorama,
  panoramaOfBytes,
  panoramaOfSides,
  readBakedKtx2,
  readHdr,
} from '@umber-lens/core/engine';
import { readInput } from './read-input.js';

/**
 * Reads light from all around, told by its contents: a Radiance panorama, what `umber bake` made, another picture, or
 * six of those as the sides of a cube.
 *
 * @throws LensError `environment/count`, `environment/picture`, those of `readHdr`, `readBakedKtx2` and
 *   `panoramaOfSides`; what the file system says
 */
export async function openEnvironment(files: readonly string[]): Promise<Panorama> {
  if (files.length !== 1 && files.length !== 6) {
    throw new LensError('environment/count', `an environment is one picture or six, not ${files.length}`, {
      hint: 'Give a panorama, or the sides of a cube: +X, -X, +Y, -Y, +Z, -Z.',
    });
  }
  const pictures: Panorama[] = [];
  for (const file of files) pictures.push(await openPicture(file));
  return files.length === 1 ? pictures[0]! : panoramaOfSides(pictures); // one each
}

async function openPicture(file: string): Promise<Panorama> {
  const bytes = await readInput(file);
  if (isKtx2(bytes)) return readBakedKtx2(bytes, file);
  // "#?"
  if (bytes[0] === 0x23 && bytes[1] === 0x3f) return readHdr(bytes, file);
  const { default: sharp } = await import('sharp');
  try {
    const { data, info } = await sharp(bytes)
      .toColourspace('srgb')
      .ensureAlpha()
      .raw()
      .toBuffer({ resolveWithObject: true });
    return panoramaOfBytes(info, data, file);
  } catch (cause) {
    throw new LensError('environment/picture', `${file} is no picture that can be read`, {
      hint: 'Give a Radiance .hdr, a .ktx2 of umber bake, or PNG, JPEG, WebP.',
      where: { file },
      cause,
    });
  }
}
