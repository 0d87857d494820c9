import {
  isKtx2,
  LensError,
  type Panorama,
  panoramaOfBytes,
  panoramaOfSides,
  readKtx2Panorama,
  readHdr,
} from '@umber-lens/core';
import { baseAddress } from './base-address.js';
import { type FetchOptions, fetchFile } from './queue.js';

export type LoadEnvironmentOptions = FetchOptions;

/**
 * Loads light from all around, told by its contents: a Radiance panorama (`.hdr`), what `umber bake` made, a cube or
 * a panorama of KTX 2.0 (`.ktx2`), a panorama that the browser decodes (PNG, JPEG, WebP, AVIF: white is radiance 1), or six of those as the sides of a cube.
 *
 *     scene.environment = { panorama: await loadEnvironment('dusk.hdr') };
 *
 * @param source an address, or six: +X, -X, +Y, -Y, +Z, -Z, as GPUs have them (seen from within)
 * @throws LensError those of `loadModel`, of `readHdr`, of `readKtx2Panorama` and of `panoramaOfCube`; `load/image`
 */
export async function loadEnvironment(
  source: string | URL | readonly (string | URL)[],
  options: LoadEnvironmentOptions = {},
): Promise<Panorama> {
  const one = async (address: string | URL): Promise<Panorama> => {
    const url = new URL(address, baseAddress());
    return panoramaOf(await fetchFile(url, options, () => undefined), url.href);
  };
  if (typeof source === 'string' || source instanceof URL) return one(source);
  const sides = await Promise.all(source.map(one));
  return panoramaOfSides(sides);
}

async function panoramaOf(bytes: Uint8Array, name: string): Promise<Panorama> {
  if (isKtx2(bytes)) return readKtx2Panorama(bytes, name);
  // "#?"
  if (bytes[0] === 0x23 && bytes[1] === 0x3f) return readHdr(bytes, name);
  return decoded(bytes, name);
}

/** A picture of the browser's, from sRGB to linear. */
async function decoded(bytes: Uint8Array, name: string): Promise<Panorama> {
  let bitmap: ImageBitmap;
  try {
    bitmap = await createImageBitmap(new Blob([bytes as Uint8Array<ArrayBuffer>]), {
      premultiplyAlpha: 'none',
      colorSpaceConversion: 'none',
    });
  } catch (cause) {
    throw new LensError('load/image', `${name} is no picture that this browser reads`, {
      hint: 'Give a Radiance .hdr, a .ktx2 of umber bake, or PNG, JPEG, WebP.',
      cause,
    });
  }
  const { width, height } = bitmap;
  const canvas = new OffscreenCanvas(width, height);
  const context = canvas.getContext('2d', { willReadFrequently: true })!; // nobody else has asked for one
  context.drawImage(bitmap, 0, 0);
  bitmap.close();
  const { data: encoded } = context.getImageData(0, 0, width, height);
  return panoramaOfBytes({ width, height }, encoded, name);
}
