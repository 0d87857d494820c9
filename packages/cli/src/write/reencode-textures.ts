import type { Image, Material, Texture } from '@umber-lens/core/engine';
import type { OpenedModel } from '../open/open-model.js';

/** Textures of materials whose numbers are colours. */
const COLORS = new Set([
  'baseColorTexture',
  'emissiveTexture',
  'sheenColorTexture',
  'specularColorTexture',
  'diffuseTransmissionColorTexture',
]);

/**
 * Shrinks pictures, and writes colours without alpha as JPEG, where that is asked for and makes them smaller.
 *
 * @returns what was done, in words; nothing where nothing was
 */
export async function reencodeTextures(
  { asset, images }: OpenedModel,
  { maxTexture, textureQuality }: { maxTexture?: number; textureQuality?: number },
): Promise<string> {
  if (maxTexture === undefined && textureQuality === undefined) return '';
  const { default: sharp } = await import('sharp');
  const colors = colorImages(asset.materials);
  let [before, after, changed] = [0, 0, 0];
  for (const image of asset.images) {
    const { content } = image;
    if (content.kind !== 'encoded' || !/^image\/(png|jpeg)$/.test(content.mimeType)) continue;
    const { width, height } = images.get(image)!; // looked at on opening
    const isLarge = maxTexture !== undefined && Math.max(width, height) > maxTexture;
    const picture = sharp(content.bytes);
    const isOpaque = (await picture.stats()).isOpaque;
    const isColor = colors.has(image);
    const asJpeg = content.mimeType === 'image/jpeg' || (textureQuality !== undefined && isOpaque && isColor);
    // Normals and the like lose more by being written anew than they gain.
    if (!isLarge && !(textureQuality !== undefined && asJpeg && isColor)) continue;
    const sized = isLarge
      ? picture.resize({ width: maxTexture, height: maxTexture, fit: 'inside' })
      : picture;
    const bytes = await (
      asJpeg
        ? sized.jpeg({ quality: isColor ? (textureQuality ?? 90) : 96, mozjpeg: isColor })
        : sized.png({ compressionLevel: 9 })
    ).toBuffer();
    if (bytes.length >= content.bytes.length && !isLarge) continue;
    before += content.bytes.length;
    after += bytes.length;
    changed++;
    image.content = {
      kind: 'encoded',
      mimeType: asJpeg ? 'image/jpeg' : content.mimeType,
      bytes: new Uint8Array(bytes),
    };
    delete image.uri;
  }
  const kilobytes = (bytes: number): string =>
    `${(bytes / 1000).toLocaleString('en-US', { maximumFractionDigits: 0 })} kB`;
  return changed > 0 ? `${changed} pictures of ${kilobytes(before)} in ${kilobytes(after)}` : '';
}

/** Pictures whose numbers are colours wherever they are used. */
export function colorImages(materials: readonly Material[]): Set<Image> {
  const [colors, data] = [new Set<Image>(), new Set<Image>()];
  for (const material of materials)
    for (const [name, use] of Object.entries(material) as [string, { texture?: Texture } | undefined][])
      if (typeof use === 'object' && use.texture) (COLORS.has(name) ? colors : data).add(use.texture.image);
  for (const image of data) colors.delete(image);
  return colors;
}
