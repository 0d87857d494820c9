import { Messages } from '#messages';
import {
  type Image,
  imageTypeOf,
  LensError,
  noteAddress,
  type Sampler,
  type TextureUse,
} from '@umber-lens/core/engine';
import { decodeImage, releaseImage } from '../resources/decode-image.js';
import { baseAddress } from './base-address.js';
import { type FetchOptions, fetchFile } from './queue.js';
import { SharedLoads } from './shared-loads.js';

export interface LoadTextureOptions extends FetchOptions {
  /** How it is sampled: wrapping, filters, levels of detail, anisotropy. Default linear, repeating, with levels. */
  sampler?: Sampler;
  /** Which texture coordinate set; default 0. */
  texCoord?: 0 | 1;
  /** How often it is repeated along its sides, and where it begins: KHR_texture_transform. */
  transform?: TextureUse['transform'];
}

/** What may be a texture while it goes on: the picture follows it. */
export type PictureElement =
  HTMLVideoElement | HTMLCanvasElement | OffscreenCanvas | HTMLImageElement | ImageBitmap;

/** A texture for a material, in the hands of whoever loaded it. */
export interface LoadedTexture extends TextureUse {
  /**
   * Shows another picture from the next frame on, wherever it is used: for all who loaded the same address.
   *
   * @throws those of `loadTexture`; the old picture stays then
   */
  replace(source: string | URL | PictureElement, options?: FetchOptions): Promise<void>;
  /** Gives it up: its picture is freed when nobody else has it. What still draws with it decodes it again. */
  dispose(): void;
}

const loads = new SharedLoads<Image, never>(releaseImage);

/**
 * Loads a picture (PNG, JPEG, WebP, AVIF, KTX2) for a material; PNG of 16 bits keep their steps. An address that is loaded
 * already is shared. A video, canvas or image on the page is followed: videos by themselves, canvases when
 * `texture.image.version` is raised.
 *
 *     model.getMaterial('hull').baseColorTexture = await loadTexture('planks.webp');
 *
 * A geometry without texture coordinates cannot show it: while developing the lens says so when it is drawn.
 *
 * @throws LensError those of `loadEnvironment`; `image/damaged` for what the browser cannot decode, `texture/no-picture` for
 *   an element that shows none
 */
export async function loadTexture(
  source: string | URL | PictureElement,
  options: LoadTextureOptions = {},
): Promise<LoadedTexture> {
  const { sampler, texCoord, transform } = options;
  const image = await imageOf(source, options);
  const { name } = image;
  let release: () => void = () => releaseOf(source, image);
  return {
    texture: { ...(name ? { name } : {}), image, ...(sampler ? { sampler } : {}) },
    ...(texCoord === undefined ? {} : { texCoord }),
    ...(transform ? { transform } : {}),
    async replace(other, fetching = {}) {
      // Not shared: whoever loads the other address has an image of its own.
      const loaded =
        typeof other === 'string' || other instanceof URL
          ? await fetchImage(addressOf(other), fetching)
          : await follow(other, image);
      release();
      release = () => releaseImage(image);
      image.content = loaded.content;
      image.version = (image.version ?? 0) + 1;
    },
    dispose: () => {
      release();
      release = () => undefined;
    },
  };
}

const addressOf = (source: string | URL): URL => new URL(source, baseAddress());

async function imageOf(source: string | URL | PictureElement, options: LoadTextureOptions): Promise<Image> {
  if (typeof source !== 'string' && !(source instanceof URL)) {
    if (typeof (source as unknown) !== 'object' || source === null || source instanceof Promise)
      Messages.source('loadTexture', source);
    const image: Image = { content: { kind: 'pixels', width: 1, height: 1, data: new Uint8Array(4) } };
    image.content = (await follow(source, image)).content;
    return image;
  }
  const address = addressOf(source);
  return loads.join(address.href, options.signal, undefined, (signal) =>
    fetchImage(address, { ...options, signal }),
  );
}

function releaseOf(source: string | URL | PictureElement, image: Image): void {
  if (typeof source === 'string' || source instanceof URL) loads.release(addressOf(source).href, image);
}

async function fetchImage(address: URL, options: FetchOptions): Promise<Image> {
  const bytes = await fetchFile(address, options, () => undefined);
  const name = address.pathname.replace(/.*\//, '');
  // The browser tells the kind by the bytes.
  const image: Image = {
    name,
    content: { kind: 'encoded', bytes, mimeType: (imageTypeOf(bytes) ?? '') as 'image/png' },
  };
  await decodeImage(image);
  noteAddress(image, address.href);
  return image;
}

/** A picture that follows an element: `image.version` counts its changes. */
async function follow(source: PictureElement, image: Image): Promise<Pick<Image, 'content'>> {
  if (source instanceof HTMLVideoElement) {
    if (source.readyState < source.HAVE_CURRENT_DATA) await once(source, 'loadeddata');
    const content: Image['content'] = {
      kind: 'host',
      width: source.videoWidth,
      height: source.videoHeight,
      source,
    };
    const changed = (): void => {
      // Somebody put another content in its place.
      if (image.content !== content) return;
      image.version = (image.version ?? 0) + 1;
      source.requestVideoFrameCallback(changed);
    };
    source.requestVideoFrameCallback(changed);
    return { content: seen(content) };
  }
  if (source instanceof HTMLImageElement) {
    if (!source.complete) await once(source, 'load');
    const { naturalHeight: height, naturalWidth: width } = source;
    return { content: seen({ kind: 'host', width, height, source }) };
  }
  const { height, width } = source;
  return { content: seen({ kind: 'host', width, height, source }) };
}

function seen(content: Extract<Image['content'], { kind: 'host' }>): Image['content'] {
  if (content.width > 0 && content.height > 0) return content;
  throw new LensError('texture/no-picture', 'the element has no pixels', {
    hint: 'Give it a size, or a picture that can be decoded.',
  });
}

function once(element: HTMLElement, event: string): Promise<void> {
  return new Promise((resolve, reject) => {
    element.addEventListener(event, () => resolve(), { once: true });
    element.addEventListener(
      'error',
      () =>
        reject(
          new LensError('texture/no-picture', 'the element cannot load its picture', {
            hint: 'See whether its address is right, and whether its host allows this page to read it.',
          }),
        ),
      { once: true },
    );
  });
}
