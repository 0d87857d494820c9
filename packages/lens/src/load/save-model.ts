import {
  assetOf,
  encodedOf,
  type Image,
  LensError,
  type Material,
  type ModelAsset,
  type Scene,
  type SceneNode,
  type TextureUse,
  type Warning,
  writeGlb,
} from '@umber-lens/core/engine';

import { straightAlpha } from '../resources/straight-alpha.js';

export interface SaveModelOptions {
  /** Of the file. Default: the name of the node or scene, or `model`. */
  name?: string;
  /** Whether the browser gives it to its user as a download. Default true. */
  download?: boolean;
}

export interface SavedModel {
  bytes: Uint8Array;
  /** What has no place in a model: shaders, fog ... */
  warnings: Warning[];
}

/**
 * Writes a scene, what is below a node, or an asset as GLB, and gives it as a file to download. Pictures that came as files
 * are written as they came, others as PNG.
 *
 *     await saveModel(scene, { name: 'harbour' });
 *
 * @throws LensError `save/image` for pictures that the browser cannot encode
 */
export async function saveModel(
  from: Scene | SceneNode | ModelAsset,
  { name, download = true }: SaveModelOptions = {},
): Promise<SavedModel> {
  const asset = isAsset(from) ? from : assetOf(from);
  for (const image of imagesOf(asset)) await encode(image);
  const bytes = writeGlb(asset);
  if (download) {
    const own = isAsset(from) ? '' : from.name;
    offer(bytes, `${name ?? (own || 'model')}.glb`);
  }
  return { bytes, warnings: asset.warnings };
}

const isAsset = (from: Scene | SceneNode | ModelAsset): from is ModelAsset => 'format' in from;

/** Pictures of all materials that are drawn. */
function imagesOf(asset: ModelAsset): Set<Image> {
  const meshes = [...asset.meshes, ...asset.nodes.flatMap(({ mesh }) => mesh ?? [])];
  const materials = new Set<Material | undefined>(
    meshes.flatMap(({ primitives }) =>
      primitives.flatMap(({ material, standard, variants }) => [
        material,
        standard,
        ...Object.values(variants ?? {}),
      ]),
    ),
  );
  const uses = [...materials].flatMap((material) =>
    Object.values((material ?? {}) as Record<string, unknown>).filter(
      (value): value is TextureUse => typeof value === 'object' && value !== null && 'texture' in value,
    ),
  );
  return new Set([...asset.images, ...uses.map(({ texture }) => texture.image)]);
}

/** As PNG, where it did not come as a file. */
async function encode(image: Image): Promise<void> {
  if (encodedOf(image)) return;
  const { content } = image;
  if (content.kind === 'encoded') return;
  const { width, height } = content;
  const canvas = new OffscreenCanvas(width, height);
  const context = canvas.getContext('2d')!; // nobody else has asked for one
  let blob: Blob;
  try {
    if (content.kind === 'pixels')
      context.putImageData(new ImageData(new Uint8ClampedArray(content.data), width, height), 0, 0);
    else if (content.kind === 'levels') throw new Error('levels for the GPU');
    else if (content.kind === 'target') {
      const pixels = await (content.source as { read(): Promise<Uint8Array> }).read();
      context.putImageData(new ImageData(straightAlpha(pixels), width, height), 0, 0);
    } else context.drawImage(content.source as CanvasImageSource, 0, 0);
    blob = await canvas.convertToBlob({ type: 'image/png' });
  } catch (cause) {
    throw new LensError('save/image', `the picture "${image.name ?? ''}" cannot be encoded`, {
      cause,
      hint: 'Pictures of other hosts may only be read where those hosts allow it, and packed ones not at all.',
    });
  }
  const encoded = { mimeType: 'image/png', bytes: new Uint8Array(await blob.arrayBuffer()) };
  image.content = { ...content, encoded };
}

function offer(bytes: Uint8Array, file: string): void {
  const address = URL.createObjectURL(
    new Blob([bytes as Uint8Array<ArrayBuffer>], { type: 'model/gltf-binary' }),
  );
  const link = document.createElement('a');
  link.href = address;
  link.download = file;
  link.click();
  // The browser has taken it by then.
  setTimeout(() => URL.revokeObjectURL(address), 10_000);
}
