/** PNG wants straight alpha; the picture comes premultiplied. */
export async function encodePng(
  pixels: Uint8Array,
  { width, height }: { width: number; height: number },
  compressionLevel = 9,
): Promise<Buffer> {
  let isOpaque = true;
  for (let i = 0; i < pixels.length; i += 4) {
    const alpha = pixels[i + 3]!; // i + 3 < length
    if (alpha === 255) continue;
    isOpaque = false;
    for (let k = 0; k < 3 && alpha > 0; k++)
      pixels[i + k] = Math.min(255, Math.round((pixels[i + k]! * 255) / alpha));
  }
  const { default: sharp } = await import('sharp');
  const image = sharp(pixels, { raw: { width, height, channels: 4 } });
  return (isOpaque ? image.removeAlpha() : image).png({ compressionLevel }).toBuffer();
}

/** A picture as its file's ending says: PNG, or JPEG on white, which has no alpha. */
export async function encodePicture(
  pixels: Uint8Array,
  size: { width: number; height: number },
  path: string,
): Promise<Buffer> {
  const png = await encodePng(pixels, size);
  if (!/\.jpe?g$/i.test(path)) return png;
  const { default: sharp } = await import('sharp');
  return sharp(png).flatten({ background: '#ffffff' }).jpeg({ quality: 92 }).toBuffer();
}
