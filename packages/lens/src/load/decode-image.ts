import { type Image, LensError } from '@umber-lens/core';

/**
 * Decodes an image in place: its encoded bytes give way to a picture the GPU can copy from.
 *
 * @throws LensError `image/damaged` when the browser cannot decode it
 */
export async function decodeImage(image: Image): Promise<void> {
  const { content } = image;
  if (content.kind !== 'encoded') return;
  const blob = new Blob([content.bytes as BlobPart], { type: content.mimeType });
  let bitmap: ImageBitmap;
  try {
    // Alpha is not multiplied in and colours are left alone: textures may hold data.
    bitmap = await createImageBitmap(blob, { premultiplyAlpha: 'none', colorSpaceConversion: 'none' });
  } catch (cause) {
    const name = image.name ?? image.uri ?? '';
    throw new LensError('image/damaged', `the image "${name}" (${content.mimeType}) cannot be decoded`, {
      cause,
      hint: 'Open it in an image program and export it again.',
    });
  }
  const { width, height } = bitmap;
  const { bytes, mimeType } = content;
  image.content = { kind: 'host', width, height, source: bitmap, encoded: { bytes, mimeType } };
}
