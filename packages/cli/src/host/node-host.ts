import type { Image, LensError } from '@umber-lens/core/engine';
import { type Lens, lensOn, modelOf } from 'umber-lens';
import { WebgpuDevice } from 'umber-lens/device';
import { compareShots } from '../browser/compare-shots.js';
import { type Drawable, drawShot } from '../browser/draw-shot.js';
import type { ShotRequest } from '../browser/shot.js';
import { sharpOf } from '../write/sharp-of.js';
import type { Drawing, DrawingHost, DrawnTogether, Shot } from './host.js';
import { openNodeGpu } from './node-gpu.js';

/** Draws in this process, without a browser. */
export class NodeHost implements DrawingHost {
  async with<T>({ models, picture }: DrawnTogether, act: (drawing: Drawing) => Promise<T>): Promise<T> {
    const assets = models.map(({ asset }) => asset);
    await Promise.all([...new Set(assets)].flatMap(({ images }) => images.map(decode)));
    const drawable = (model: number): Drawable => models[model]!.sheet ?? modelOf(assets[model]!); // one a model
    const panorama = ({ environment }: Shot): typeof picture =>
      environment === 'picture' ? picture : undefined;
    return act({
      draw: (model, shot, take) =>
        onGpu(async (lens, adapter) => {
          const own = panorama(shot)?.panorama;
          const drawn = await drawShot(lens, drawable(model), requestOf(shot), own, take);
          return { ...drawn, backend: `webgpu in Node (${adapter})` };
        }),
      compare: (a, b, how, onProgress) =>
        onGpu(async (lens, adapter) => {
          const comparison = await compareShots(
            lens,
            {
              a: [drawable(0), requestOf(a), panorama(a)?.panorama],
              b: [drawable(1), requestOf(b), panorama(b)?.panorama],
            },
            how,
            onProgress,
          );
          return { comparison, backend: `webgpu in Node (${adapter})` };
        }),
    });
  }
}

/** The picture of the environment is handed over besides. */
const requestOf = ({ environment, ...shot }: Shot): ShotRequest => ({
  ...shot,
  url: '',
  ...(environment ? { environment: environment === 'sky' ? environment : { url: '' } } : {}),
});

/** Opens a lens on the GPU for as long as something is drawn. @throws LensError what the GPU found, besides */
async function onGpu<T>(act: (lens: Lens, adapter: string) => Promise<T>): Promise<T> {
  const { gpu, adapter } = await openNodeGpu();
  try {
    const failures: LensError[] = [];
    const lens = lensOn(new WebgpuDevice(gpu, { onError: (error) => failures.push(error) }));
    const done = await act(lens, adapter);
    lens.dispose();
    if (failures[0]) throw failures[0];
    return done;
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
