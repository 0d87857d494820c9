import { sharpOf } from '../write/sharp-of.js';
import { type Image, linearFromSrgb, type Material } from '@umber-lens/core/engine';
import type { OpenedModel } from '../open/open-model.js';

type Tell = (code: string, message: string, pointer: string) => void;

/** Side to which pictures are made smaller, by leaving out: their numbers stay what they are. */
const SIDE = 64;

/** What pictures for data look as if they had been stored as colours, by what their pixels add up to. */
export async function doubtPictures({ asset }: OpenedModel, tell: Tell): Promise<void> {
  const known = new Map<Image, Promise<Uint8Array | undefined>>();
  const pixelsOf = (image: Image): Promise<Uint8Array | undefined> => {
    let pixels = known.get(image);
    if (!pixels) known.set(image, (pixels = smallPicture(image)));
    return pixels;
  };
  for (const [i, material] of asset.materials.entries()) {
    const pointer = `/materials/${i}`;
    await doubtNormals(material, pointer, pixelsOf, tell);
    await doubtNumbers(material, pointer, pixelsOf, tell);
  }
}

/** Normals are of length 1. Where they are only after taking the encoding of colours away, they were stored as colours. */
async function doubtNormals(
  { name = 'a material', normalTexture }: Material,
  pointer: string,
  pixelsOf: (image: Image) => Promise<Uint8Array | undefined>,
  tell: Tell,
): Promise<void> {
  const pixels = normalTexture && (await pixelsOf(normalTexture.texture.image));
  if (!pixels) return;
  let [off, offDecoded] = [0, 0];
  for (let at = 0; at < pixels.length; at += 3) {
    off += Math.abs(lengthOf(pixels, at, (c) => c) - 1);
    offDecoded += Math.abs(lengthOf(pixels, at, linearFromSrgb) - 1);
  }
  const count = pixels.length / 3;
  if (off / count > 0.08 && offDecoded < off * 0.5)
    tell(
      'normals-as-colors',
      `the normals of "${name}" are ${(off / count).toFixed(2)} off length 1 on average, and ${(offDecoded / count).toFixed(2)} once the encoding of colours is taken away: it was stored as sRGB`,
      `${pointer}/normalTexture`,
    );
}

/** One grey picture for roughness and metal says the same of both, which is seldom meant. */
async function doubtNumbers(
  { name = 'a material', metallicRoughnessTexture, metallicFactor = 1 }: Material,
  pointer: string,
  pixelsOf: (image: Image) => Promise<Uint8Array | undefined>,
  tell: Tell,
): Promise<void> {
  if (metallicFactor === 0) return;
  const pixels = metallicRoughnessTexture && (await pixelsOf(metallicRoughnessTexture.texture.image));
  if (!pixels) return;
  let [difference, least, most] = [0, 255, 0];
  for (let at = 0; at < pixels.length; at += 3) {
    const [green, blue] = [pixels[at + 1]!, pixels[at + 2]!]; // three a pixel
    difference += Math.abs(green - blue);
    least = Math.min(least, green);
    most = Math.max(most, green);
  }
  // Flat pictures may well mean both.
  if (most - least > 16 && difference / (pixels.length / 3) < 1)
    tell(
      'grey-metal',
      `the picture for roughness and metal of "${name}" is grey, so where it is rough it is metal as well: roughness is its green, metal its blue`,
      `${pointer}/pbrMetallicRoughness/metallicRoughnessTexture`,
    );
}

function lengthOf(pixels: Uint8Array, at: number, read: (c: number) => number): number {
  let sum = 0;
  for (let k = 0; k < 3; k++) sum += (read(pixels[at + k]! / 255) * 2 - 1) ** 2; // three a pixel
  return Math.sqrt(sum);
}

/** RGB; undefined for what cannot be read, which the reader has told. */
async function smallPicture({ content }: Image): Promise<Uint8Array | undefined> {
  if (content.kind !== 'encoded') return undefined;
  return sharpOf(content)
    .then((picture) =>
      picture
        .resize({ width: SIDE, height: SIDE, fit: 'fill', kernel: 'nearest' })
        .removeAlpha()
        .toColourspace('srgb')
        .raw()
        .toBuffer(),
    )
    .catch(() => undefined);
}
