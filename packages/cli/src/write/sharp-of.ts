import { decodeKtx2, type EncodedImage, LensError } from '@umber-lens/core/engine';
import type { Sharp } from 'sharp';

/** A picture in the hands of sharp, whatever it is encoded as. */
export async function sharpOf({ bytes, mimeType }: EncodedImage): Promise<Sharp> {
  const { default: sharp } = await import('sharp');
  if (mimeType !== 'image/ktx2') return sharp(bytes, { failOn: 'error' });
  const { format, height, levels, width } = await decodeKtx2(bytes);
  if (format !== 'rgba8unorm' || !levels[0])
    throw new LensError('ktx2/unsupported', `pictures of ${format} are not colours of 8 bits`, {
      hint: 'Export it as UASTC, ETC1S or eight bits a channel.',
    });
  return sharp(levels[0], { raw: { width, height, channels: 4 } });
}
