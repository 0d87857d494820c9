import { LensError } from '@umber-lens/core/engine';
import type { Lens } from '../lens.js';
import { straightAlpha } from '../resources/straight-alpha.js';

/** As many frames as temporal antialiasing puts together. */
const SAMPLES = 64;

/** How a picture is kept. */
export interface SnapshotOptions {
  /** Default `image/png`: alpha is kept. Of `image/jpeg` what is transparent becomes black. */
  type?: 'image/png' | 'image/jpeg' | 'image/webp';
  /** Of JPEG and WebP, 0 to 1. Default: the browser's. */
  quality?: number;
  /** Pixels. Default: those of the last picture; where only one of them is given, the other keeps its shape. */
  width?: number;
  height?: number;
}

/** See `Lens.snapshot`. */
export async function snapshot(
  lens: Lens,
  { type = 'image/png', quality, ...size }: SnapshotOptions,
): Promise<Blob> {
  const { last } = lens.renderer;
  if (!last)
    throw new LensError('lens/no-picture', 'nothing was drawn yet', {
      hint: 'Draw a frame first: the snapshot is of the last one.',
    });
  const { scene, camera, settings, target: drawn } = last;
  const shape = settings.part?.part ?? drawn;
  const { width = size.height ? Math.round((size.height * shape.width) / shape.height) : shape.width } = size;
  const { height = Math.round((width * shape.height) / shape.width) } = size;
  const most = lens.device.limits.maxTextureSize;
  if (!(width >= 1 && height >= 1 && Math.max(width, height) <= most))
    throw new LensError('lens/snapshot', `a snapshot cannot have ${width} x ${height} pixels`, {
      hint: `This GPU takes 1 to ${most} a side.`,
    });
  const target = lens.createTarget({ width: Math.round(width), height: Math.round(height) });
  try {
    // What is put together out of frames has all of them at once.
    const frames = settings.finish.some((one) => one?.type === 'temporal-antialiasing') ? SAMPLES : 1;
    for (let i = 0; i < frames; i++)
      lens.drawWith({ ...settings, part: undefined, onDemand: false }, scene, camera, target.deviceTexture);
    const pixels = straightAlpha(await target.read());
    const canvas = new OffscreenCanvas(target.width, target.height);
    canvas.getContext('2d')!.putImageData(new ImageData(pixels, target.width, target.height), 0, 0); // nobody else has asked for one
    return await canvas.convertToBlob({ type, ...(quality === undefined ? {} : { quality }) });
  } finally {
    target.dispose();
  }
}
