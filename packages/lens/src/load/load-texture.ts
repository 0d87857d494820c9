import type { Image, Sampler, TextureUse } from '@umber-lens/core';
import { decodeImage } from './decode-image.js';
import { download } from './download.js';

export interface LoadTextureOptions {
  /** How it is sampled; default linear, repeating, with levels of detail. */
  sampler?: Sampler;
  /** Which texture coordinate set; default 0. */
  texCoord?: 0 | 1;
  /** Stops the load. */
  signal?: AbortSignal;
  /** Seconds without a single byte after which the load is given up. Default 30; Infinity waits for ever. */
  timeout?: number;
}

/**
 * Loads a picture (PNG, JPEG, WebP, AVIF) for a material.
 *
 *     model.material('hull').baseColorTexture = await loadTexture('planks.webp');
 *
 * A geometry without texture coordinates cannot show it: while developing the lens says so when it is drawn.
 *
 * @throws LensError those of `loadEnvironment`; `image/damaged` for what the browser cannot decode
 */
export async function loadTexture(url: string | URL, options: LoadTextureOptions = {}): Promise<TextureUse> {
  const { sampler, texCoord, signal = new AbortController().signal, timeout = 30 } = options;
  const address = new URL(url, document.baseURI);
  const bytes = await download(address, signal, timeout, () => undefined);
  const name = address.pathname.replace(/.*\//, '');
  // The browser tells the kind by the bytes.
  const image: Image = { name, content: { kind: 'encoded', bytes, mimeType: '' as 'image/png' } };
  await decodeImage(image);
  return {
    texture: { name, image, ...(sampler ? { sampler } : {}) },
    ...(texCoord === undefined ? {} : { texCoord }),
  };
}
