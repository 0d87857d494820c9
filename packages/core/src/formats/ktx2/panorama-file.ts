import { panoramaOfSides } from '../../light/cube.js';
import type { Panorama } from '../../light/panorama.js';
import { linearPixels, pictureOf } from './decode-ktx2.js';
import { readBakedKtx2 } from './environment-file.js';
import { readKtx2 } from './read-ktx2.js';

/**
 * Reads light from all around out of a KTX 2.0 file: what `umber bake` made, six sides of a cube (+X, -X, +Y, -Y, +Z, -Z), or a
 * panorama. Bytes and packed pixels are sRGB colours where the file says so, and white is radiance 1.
 *
 * @throws LensError those of `readKtx2`, of `readBakedKtx2` and of `panoramaOfCube`
 */
export async function readKtx2Panorama(bytes: Uint8Array, file?: string): Promise<Panorama> {
  const options = file === undefined ? {} : { file };
  const texture = await readKtx2(bytes, file);
  if (texture.isBaked) return readBakedKtx2(bytes, file);
  const sides = Array.from({ length: texture.faces }, (_, face): Panorama => {
    const picture = pictureOf(texture, { ...options, face });
    const { height, width } = picture;
    return { width, height, data: linearPixels(picture), ...(file === undefined ? {} : { name: file }) };
  });
  return texture.faces === 6 ? panoramaOfSides(sides) : sides[0]!; // one or six
}
