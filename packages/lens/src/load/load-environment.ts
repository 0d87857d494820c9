import { Messages } from '#messages';
import {
  isKtx2,
  LensError,
  noteAddress,
  type Panorama,
  panoramaOfBytes,
  panoramaOfSides,
  readKtx2Panorama,
  readHdr,
} from '@umber-lens/core/engine';
import { baseAddress } from './base-address.js';
import { type FetchOptions, fetchFile } from './queue.js';
import { SharedLoads } from './shared-loads.js';

export type LoadEnvironmentOptions = FetchOptions;

const loads = new SharedLoads<Panorama, never>(() => undefined);
/** By addresses: what somebody still has. */
const known = new Map<string, WeakRef<Panorama>>();

/**
 * Loads light from all around, told by its contents: a Radiance panorama (`.hdr`), what `umber bake` made, a cube or a
 * panorama of KTX 2.0 (`.ktx2`), a panorama that the browser decodes (PNG, JPEG, WebP, AVIF: white is radiance 1), or six of
 * those as the sides of a cube. As long as somebody has it, an address gives the same one.
 *
 *     scene.imageLight = { panorama: await loadEnvironment('dusk.hdr') };
 *
 * @param source an address, or six: +X, -X, +Y, -Y, +Z, -Z, as GPUs have them (seen from within)
 * @throws LensError those of `loadModel`, of `readHdr`, of `readKtx2Panorama` and of `panoramaOfCube`; `load/image`
 */
export async function loadEnvironment(
  source: string | URL | readonly (string | URL)[],
  options: LoadEnvironmentOptions = {},
): Promise<Panorama> {
  const isOne = typeof source === 'string' || source instanceof URL;
  for (const one of Array.isArray(source) ? (source as readonly (string | URL)[]) : [source])
    Messages.source('loadEnvironment', one);
  if (!isOne && source.length !== 6)
    throw new LensError('light/cube', `a cube has six sides, and ${source.length} were given`, {
      hint: 'Give +X, -X, +Y, -Y, +Z, -Z, in this order, or the address of one panorama.',
    });
  const addresses = (isOne ? [source] : source).map((address) => new URL(address, baseAddress()));
  const key = addresses.map(({ href }) => href).join(' ');
  const found = known.get(key)?.deref();
  if (found) return found;
  const panorama = await loads.join(key, options.signal, undefined, async (signal) => {
    const sides = await Promise.all(
      addresses.map(async (address) =>
        panoramaOf(await fetchFile(address, { ...options, signal }, () => undefined), address.href),
      ),
    );
    return isOne ? sides[0]! : panoramaOfSides(sides); // one
  });
  noteAddress(panorama, key);
  known.set(key, new WeakRef(panorama));
  loads.release(key, panorama);
  return panorama;
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
