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
