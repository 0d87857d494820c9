import { readdir } from 'node:fs/promises';
import { basename, dirname, join } from 'node:path';
import {
  decodeKtx2,
  type Image,
  LensError,
  type LoadedSheet,
  type ModelAsset,
  readModel,
} from '@umber-lens/core/engine';
import { isSheet, openSheet } from './open-sheet.js';
import { readInput } from './read-input.js';

/** A model read from disk, its pictures looked at. */
export interface OpenedModel {
  asset: ModelAsset;
  /** Every file it is made of: name relative to its folder, and bytes. The model itself comes first. */
  files: Map<string, Uint8Array>;
  images: Map<Image, ImageFacts>;
  /** What it was made of, where it is a sheet. */
  sheet?: LoadedSheet;
}

export interface ImageFacts {
  mimeType: string;
  width: number;
  height: number;
  /** Of pictures that GPUs take packed: what they take, all levels. */
  packedBytes?: number;
}

export interface OpenOptions {
  /** Lets the model name files outside its folder. */
  allowOutside?: boolean;
}

/** Reads a model, or a sheet as one, with all files it names. Pictures are decoded once, so that damage is found here. */
export async function openModel(file: string, options: OpenOptions = {}): Promise<OpenedModel> {
  const bytes = await readInput(file);
  if (isSheet(bytes)) {
    const { asset, files, loaded } = await openSheet(file, bytes, options.allowOutside ?? false);
    return { asset, files, images: await inspected(asset, file), sheet: loaded };
  }
  const files = new Map<string, Uint8Array>([[basename(file), bytes]]);
  const asset = await readModel(bytes, {
    file,
    allowOutside: options.allowOutside ?? false,
    resolve: async (path) => {
      const found = await readInput(await asOnDisk(dirname(file), path), file);
      files.set(path, found);
      return found;
    },
  });
  return { asset, files, images: await inspected(asset, file) };
}

async function inspected(asset: ModelAsset, file: string): Promise<Map<Image, ImageFacts>> {
  const images = new Map<Image, ImageFacts>();
  for (const [i, image] of asset.images.entries()) images.set(image, await inspectImage(image, file, i));
  return images;
}

/** Where a named file lies: as it is written, or as somebody wrote it where capitals did not matter. */
async function asOnDisk(folder: string, path: string): Promise<string> {
  let at = folder;
  for (const part of path.split('/')) {
    const names: string[] = await readdir(at).catch(() => []);
    const found = names.includes(part)
      ? part
      : names.find((name) => name.toLowerCase() === part.toLowerCase());
    at = join(at, found ?? part);
  }
  return at;
}

async function inspectImage(image: Image, file: string, index: number): Promise<ImageFacts> {
  const { content } = image;
  if (content.kind !== 'encoded') throw new LensError('image/damaged', 'a picture without bytes');
  const { mimeType, bytes } = content;
  if (mimeType === 'image/ktx2') {
    // As a GPU would have it that takes what is usual on phones.
    const supported = ['etc2-rgb8unorm', 'etc2-rgba8unorm', 'astc-4x4-unorm'];
    const { height, levels, width } = await decodeKtx2(bytes, { supported, file });
    return { mimeType, width, height, packedBytes: levels.reduce((sum, { length }) => sum + length, 0) };
  }
  const { default: sharp } = await import('sharp');
  try {
    const { info } = await sharp(bytes, { failOn: 'error' }).raw().toBuffer({ resolveWithObject: true });
    return { mimeType, width: info.width, height: info.height };
  } catch (cause) {
    throw new LensError(
      'image/damaged',
      `the image "${image.name ?? image.uri ?? index}" (${mimeType}) is damaged`,
      {
        cause,
        where: { file, pointer: `/images/${index}` },
        hint: `${cause instanceof Error ? cause.message.split('\n')[0] : ''}. Export it again.`,
      },
    );
  }
}
