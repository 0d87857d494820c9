import {
  encodedOf,
  type EncodedImage,
  type Image,
  type ImageContent,
  LensError,
} from '@umber-lens/core/engine';
import { openers } from './packing.js';

/** Contents by what they were decoded from, as long as somebody has them: models that bring the same picture share it. */
const known = new Map<string, WeakRef<ImageContent>>();
const users = new WeakMap<ImageContent, number>();
/** What is being decoded. */
const pending = new Map<string, Promise<ImageContent | undefined>>();

/**
 * Decodes an image in place: its encoded bytes give way to a picture the GPU can copy from, shared with all images of the
 * same bytes. KTX2 stays encoded until there is a lens, whose GPU says which formats it takes.
 *
 * @throws LensError `image/damaged` when the browser cannot decode it; those of `decodeKtx2`
 */
export async function decodeImage(image: Image): Promise<void> {
  const { content } = image;
  if (content.kind !== 'encoded') return;
  const key = await hashOf(content.bytes);
  let shared = key === undefined ? undefined : known.get(key)?.deref();
  if (!shared) {
    const begun = (key !== undefined && pending.get(key)) || decode(image, content);
    if (key !== undefined) pending.set(key, begun);
    try {
      shared = await begun;
    } finally {
      if (key !== undefined) pending.delete(key);
    }
    if (shared && key !== undefined) known.set(key, new WeakRef(shared));
  }
  // Somebody may have put another content in its place meanwhile.
  if (!shared || image.content !== content) return;
  image.content = shared;
  users.set(shared, (users.get(shared) ?? 0) + 1);
}

/** Gives back what `decodeImage` decoded: pictures that nobody else uses are freed, and decoded again if they are drawn after all. */
export function releaseImage(image: Image): void {
  const { content } = image;
  const encoded = encodedOf(image);
  const left = (users.get(content) ?? 0) - 1;
  if (left < 0 || !encoded || content.kind === 'encoded') return;
  users.set(content, left);
  image.content = { kind: 'encoded', ...encoded };
  if (left > 0) return;
  for (const [key, reference] of known) if (reference.deref() === content) known.delete(key);
  if (content.kind === 'host' && content.source instanceof ImageBitmap) content.source.close();
}

/** Undefined on pages that are not secure, which have no such sums. */
async function hashOf(bytes: Uint8Array): Promise<string | undefined> {
  const { subtle } = globalThis.crypto as Crypto & { subtle?: SubtleCrypto };
  if (!subtle) return undefined;
  const sum = new Uint8Array(await subtle.digest('SHA-256', bytes as Uint8Array<ArrayBuffer>));
  return String.fromCharCode(...sum);
}

async function decode(image: Image, { bytes, mimeType }: EncodedImage): Promise<ImageContent | undefined> {
  const isKtx2 = bytes[0] === 0xab && bytes[1] === 0x4b;
  // Bits of a channel, behind the name of the first chunk and two sizes.
  const isDeep = bytes[0] === 0x89 && bytes[24] === 16;
  if (isKtx2 && openers.size === 0) return undefined;
  if (isKtx2 || isDeep) {
    const { decodeLevels } = await import('./leveled-textures.js');
    const all = isKtx2 ? await Promise.all([...openers].map((open) => open())) : [];
    return decodeLevels(image, { bytes, mimeType }, all);
  }
  const blob = new Blob([bytes as BlobPart], { type: mimeType });
  let bitmap: ImageBitmap;
  try {
    // Alpha is not multiplied in and colours are left alone: textures may hold data.
    bitmap = await createImageBitmap(blob, { premultiplyAlpha: 'none', colorSpaceConversion: 'none' });
  } catch (cause) {
    const name = image.name ?? image.uri ?? '';
    throw new LensError('image/damaged', `the image "${name}" (${mimeType}) cannot be decoded`, {
      cause,
      hint: 'Open it in an image program and export it again.',
    });
  }
  const { width, height } = bitmap;
  return { kind: 'host', width, height, source: bitmap, encoded: { bytes, mimeType } };
}
