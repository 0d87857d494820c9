import type { Image, Material, ModelAsset, Texture } from '@umber-lens/core/engine';
import { colorImages } from './reencode-textures.js';
import { sharpOf } from './sharp-of.js';

/**
 * Writes all pictures as universal textures (KHR_texture_basisu): UASTC with levels of detail, packed by Zstandard. Sides become
 * multiples of four, as the extension asks.
 */
export async function packTextures(asset: ModelAsset): Promise<void> {
  const encode = await openEncoder();
  const colors = colorImages(asset.materials);
  const normals = new Set(asset.materials.flatMap(normalImages));
  for (const image of asset.images) {
    const { content } = image;
    if (content.kind === 'encoded' && content.mimeType !== 'image/ktx2') {
      const picture = (await sharpOf(content)).toColourspace('srgb').ensureAlpha();
      const { height = 4, width = 4 } = await picture.metadata();
      const [w, h] = [Math.max(4, Math.round(width / 4) * 4), Math.max(4, Math.round(height / 4) * 4)];
      const sized = w === width && h === height ? picture : picture.resize(w, h, { fit: 'fill' });
      const data = new Uint8Array(await sized.raw().toBuffer());
      const bytes = await encode(data, w, h, { isColor: colors.has(image), isNormals: normals.has(image) });
      image.content = { kind: 'encoded', mimeType: 'image/ktx2', bytes };
      if (image.uri !== undefined) image.uri = image.uri.replace(/\.\w+$/, '.ktx2');
    }
  }
}

type Encode = (
  data: Uint8Array,
  width: number,
  height: number,
  kind: { isColor: boolean; isNormals: boolean },
) => Promise<Uint8Array>;

/** The package ktx2-encoder, which talks to the console about what it does: that is kept from standard output. */
async function openEncoder(): Promise<Encode> {
  const { encodeToKTX2 } = await import('ktx2-encoder');
  return async (data, width, height, { isColor, isNormals }) => {
    const { log } = console;
    console.log = () => undefined;
    try {
      return await encodeToKTX2(new Uint8Array(1), {
        isUASTC: true,
        uastcLDRQualityLevel: 2,
        generateMipmap: true,
        needSupercompression: true,
        isSetKTX2SRGBTransferFunc: isColor,
        isPerceptual: isColor,
        isNormalMap: isNormals,
        imageDecoder: () => Promise.resolve({ data, width, height }),
      });
    } finally {
      console.log = log;
    }
  };
}

function normalImages(material: Material): Image[] {
  return ['normalTexture', 'clearcoatNormalTexture'].flatMap((name) => {
    const use = (material as Record<string, { texture?: Texture } | undefined>)[name];
    return use?.texture ? [use.texture.image] : [];
  });
}
