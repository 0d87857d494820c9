import type { LensError } from '@umber-lens/core/engine';
import type { Image, Panorama } from '@umber-lens/core/engine';
import { type Comparison, lensOn, modelOf } from 'umber-lens';
import { WebgpuDevice } from 'umber-lens/device';
import { compareShots } from '../browser/compare-shots.js';
import { drawShot } from '../browser/draw-shot.js';
import type { CompareRequest, ShotFacts, ShotRequest } from '../browser/shot.js';
import type { OpenedModel } from '../open/open-model.js';
import { sharpOf } from '../write/sharp-of.js';
import { openNodeGpu } from './open-gpu.js';

/** Draws a model in this process, without a browser. */
export async function drawInNode(
  { asset }: OpenedModel,
  request: ShotRequest,
  picture?: Panorama,
  take?: (pixels: Uint8Array, number: number) => Promise<void>,
): Promise<ShotFacts & { pixels: Uint8Array; backend: string }> {
  const { gpu, adapter } = await openNodeGpu();
  try {
    const failures: LensError[] = [];
    const lens = lensOn(new WebgpuDevice(gpu, { onError: (error) => failures.push(error) }));
    await Promise.all(asset.images.map(decode));
    const model = modelOf(asset);
    const drawn = await drawShot(lens, model, request, picture, take);
    lens.dispose();
    if (failures[0]) throw failures[0];
    return { ...drawn, backend: `webgpu in Node (${adapter})` };
  } finally {
    gpu.destroy();
  }
}

/** The picture's own numbers: alpha not multiplied in, colours left alone. */
async function decode(image: Image): Promise<void> {
  const { content } = image;
  if (content.kind !== 'encoded') return;
  const { data, info } = await (
    await sharpOf(content)
  )
    .toColourspace('srgb')
    .ensureAlpha()
    .raw()
    .toBuffer({ resolveWithObject: true });
  image.content = { kind: 'pixels', width: info.width, height: info.height, data: new Uint8Array(data) };
}

/** Compares two ways of drawing in this process. */
export async function compareInNode(
  [{ asset: a }, { asset: b }]: readonly [OpenedModel, OpenedModel],
  request: CompareRequest,
  onProgress: (fraction: number) => void,
): Promise<{ comparison: Comparison; backend: string }> {
  const { gpu, adapter } = await openNodeGpu();
  try {
    const failures: LensError[] = [];
    const lens = lensOn(new WebgpuDevice(gpu, { onError: (error) => failures.push(error) }));
    await Promise.all([...a.images, ...b.images].map(decode));
    const comparison = await compareShots(
      lens,
      { a: [modelOf(a), request.a, undefined], b: [modelOf(b), request.b, undefined] },
      request,
      onProgress,
    );
    lens.dispose();
    if (failures[0]) throw failures[0];
    return { comparison, backend: `webgpu in Node (${adapter})` };
  } finally {
    gpu.destroy();
  }
}
