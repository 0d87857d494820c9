import { LensError } from '@umber-lens/core/engine';
import type { Lens } from '../lens.js';
import { straightAlpha } from '../resources/straight-alpha.js';
import type { RenderTarget } from '../view/render-target.js';
import type { Drawn } from '../view/renderer.js';
import { type Tile, tilesOf } from './tiles.js';

/** As many frames as temporal antialiasing puts together. */
const SAMPLES = 64;
/** Pixels of a side that browsers have canvases of, and of all. */
const MOST_SIDE = 32767;
const MOST_PIXELS = 2 ** 28;

/** How a picture is kept. */
export interface SnapshotOptions {
  /** Default `image/png`: alpha is kept. Of `image/jpeg` what is transparent becomes black. */
  type?: 'image/png' | 'image/jpeg' | 'image/webp';
  /** Of JPEG and WebP, 0 to 1. Default: the browser's. */
  quality?: number;
  /**
   * Pixels. Default: those of the last picture; where only one of them is given, the other keeps its shape. What is larger than the GPU takes
   * at once, or than 8K, is drawn in tiles.
   */
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
  const { width, height } = sizeOf(last, size);
  const canvas = new OffscreenCanvas(width, height);
  const context = canvas.getContext('2d')!; // nobody else has asked for one
  const { finish } = last.settings;
  // What is put together out of frames has all of them at once, and begins anew with each tile.
  const frames = finish.some((one) => one?.type === 'temporal-antialiasing') ? SAMPLES : 1;
  let target: RenderTarget | undefined;
  try {
    const { tiles, isTight } = tilesOf(width, height, finish, lens.device.limits.maxTextureSize);
    if (isTight) lens.renderer.messages.tiles(finish);
    for (const tile of tiles) {
      const { drawn } = tile;
      if (frames > 1 || target?.width !== drawn.width || target.height !== drawn.height) {
        target?.dispose();
        target = lens.createTarget({ width: drawn.width, height: drawn.height });
      }
      drawTile(lens, last, tile, target, frames);
      const pixels = straightAlpha(await target.read());
      const image = new ImageData(pixels, drawn.width, drawn.height);
      const [x, y] = [tile.x - drawn.x, tile.y - drawn.y];
      context.putImageData(image, drawn.x, drawn.y, x, y, tile.width, tile.height);
    }
    return await canvas.convertToBlob({ type, ...(quality === undefined ? {} : { quality }) });
  } finally {
    target?.dispose();
  }
}

/** @throws LensError `lens/snapshot` */
function sizeOf(
  { settings, target }: Drawn,
  size: Pick<SnapshotOptions, 'width' | 'height'>,
): { width: number; height: number } {
  const shape = settings.part?.part ?? target;
  const { width = size.height ? Math.round((size.height * shape.width) / shape.height) : shape.width } = size;
  const { height = Math.round((width * shape.height) / shape.width) } = size;
  if (!(width >= 1 && height >= 1 && Math.max(width, height) <= MOST_SIDE && width * height <= MOST_PIXELS))
    throw new LensError('lens/snapshot', `a snapshot cannot have ${width} x ${height} pixels`, {
      hint: `Browsers keep pictures of 1 to ${MOST_SIDE} pixels a side, and of ${MOST_PIXELS / 2 ** 20} million in all.`,
    });
  return { width: Math.round(width), height: Math.round(height) };
}

/** Draws a tile of the last picture; that one stays the last. */
function drawTile(lens: Lens, last: Drawn, { drawn }: Tile, target: RenderTarget, frames: number): void {
  const isWhole = drawn.width === drawn.wholeWidth && drawn.height === drawn.wholeHeight;
  const settings = {
    ...last.settings,
    ...{ part: undefined, onDemand: false, tile: isWhole ? undefined : drawn },
  };
  for (let i = 0; i < frames; i++) lens.drawWith(settings, last.scene, last.camera, target.deviceTexture);
  lens.renderer.last = last;
}
