import { LensError, type PictureRegion } from '@umber-lens/core/engine';
import type { TargetPart } from '../frame/finish-pass.js';
import type { DeviceTexture } from '../gpu/device.js';
import type { DrawPart } from '../features/feature.js';

/** What part of a target a picture is drawn into, and what stays of what is there. */
export interface PartOptions {
  /**
   * The rectangle that the picture fills; left out: the whole target. Nothing outside of it changes. CSS pixels of the canvas, as
   * events have them; of a target its pixels; from the upper left.
   */
  viewport?: PictureRegion;
  /** A rectangle outside of which nothing changes. In the same pixels. */
  scissor?: PictureRegion;
  /**
   * What begins anew, default all. Without `color` the picture is put over what is there, by its alpha: the scene's `clearColor`
   * does not count. Without `depth` things are hidden by those of the draw before into the same target, which must have been drawn with
   * `keepDepth`, and with a viewport of the same size.
   */
  clear?: { color?: boolean; depth?: boolean };
  /** Whether depths are kept for draws after it. Default false. */
  keepDepth?: boolean;
  /** Which picture of a target with several: of a cube +X, -X, +Y, -Y, +Z, -Z. Default 0. */
  layer?: number;
}

/**
 * The parts of options, as settings have them; undefined where there are none.
 *
 * @param scaleOf pixels to one of the options; asked where they have some, since a page may lay itself out to answer
 */
export function partOf(
  { clear, keepDepth = false, layer = 0, scissor, viewport }: PartOptions,
  { width, height, layers }: DeviceTexture,
  scaleOf: () => number,
): DrawPart | undefined {
  const keepsColor = clear?.color === false;
  const keptDepth = clear?.depth === false;
  if (!viewport && !scissor && !keepsColor && !keptDepth && !keepDepth && layer === 0) return undefined;
  if (!(Number.isInteger(layer) && layer >= 0 && layer < layers))
    throw new LensError('lens/layer', `the target has no layer ${layer}`, {
      hint: layers > 1 ? `It has 0 to ${layers - 1}.` : 'Make it with `layers`, or as a cube.',
    });
  const whole = { x: 0, y: 0, width, height };
  const scale = viewport || scissor ? scaleOf() : 1;
  const into = viewport ? pixelsOf(viewport, 'viewport', scale) : whole;
  const { x, y } = into;
  if (x < 0 || y < 0 || x + into.width > width || y + into.height > height)
    throw new LensError('lens/viewport', `the viewport is not within the ${inPixels(width, height, scale)}`, {
      hint: 'To show a part of the picture alone, give a scissor.',
    });
  const cut = scissor && within(pixelsOf(scissor, 'scissor', scale), into);
  const part: TargetPart = { ...into, scissor: cut, layer, isOver: keepsColor };
  return { part, keptDepth, keepsDepth: keepDepth };
}

const inPixels = (width: number, height: number, scale: number): string =>
  scale === 1
    ? `target of ${width} x ${height} pixels`
    : `canvas of ${Math.round(width / scale)} x ${Math.round(height / scale)} CSS pixels`;

function pixelsOf(region: PictureRegion, what: string, scale: number): PictureRegion {
  const { x, y, width, height } = region;
  if (!(Math.abs(x + y + width + height) < Infinity) || !(width > 0 && height > 0))
    throw new LensError('lens/viewport', `a ${what} of ${width} x ${height} at ${x}, ${y} shows nothing`, {
      hint: 'Give x, y, width and height in pixels, from the upper left.',
    });
  // Neighbours meet: edges are rounded, not sizes.
  const [left, top] = [Math.round(x * scale), Math.round(y * scale)];
  return {
    x: left,
    y: top,
    width: Math.max(1, Math.round((x + width) * scale) - left),
    height: Math.max(1, Math.round((y + height) * scale) - top),
  };
}

/** What two rectangles have in common; nothing at the first one's corner where that is nothing. */
function within(region: PictureRegion, bounds: PictureRegion): PictureRegion {
  const x = Math.min(Math.max(region.x, bounds.x), bounds.x + bounds.width);
  const y = Math.min(Math.max(region.y, bounds.y), bounds.y + bounds.height);
  return {
    x,
    y,
    width: Math.max(0, Math.min(region.x + region.width, bounds.x + bounds.width) - x),
    height: Math.max(0, Math.min(region.y + region.height, bounds.y + bounds.height) - y),
  };
}
