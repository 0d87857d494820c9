import { LensError } from '@umber-lens/core/engine';
import type { OpenDeviceOptions, OpenedDevice } from '../open-device.js';
import { openWebgl2 } from './open-webgl2.js';

/**
 * A WebGL2 device in place of a WebGPU one that does not come back. A canvas that had a context of the one kind gives none of
 * the other: a canvas of our own lies over it, lets all events through, and follows its size and place.
 *
 * @throws LensError `lens/no-gpu`
 */
export function openBeside(
  canvas: HTMLCanvasElement | undefined,
  powerPreference?: OpenDeviceOptions['powerPreference'],
): OpenedDevice {
  const isInPage = canvas && 'after' in canvas;
  const shown = isInPage ? document.createElement('canvas') : undefined;
  const opened = openWebgl2(shown, powerPreference);
  if (typeof opened === 'string') throw new LensError('lens/no-gpu', opened);
  if (!canvas || !shown) return opened;
  shown.setAttribute('aria-hidden', 'true');
  canvas.after(shown);
  const follow = (): void => {
    if (shown.width !== canvas.width) shown.width = canvas.width;
    if (shown.height !== canvas.height) shown.height = canvas.height;
    const place = `position:absolute;pointer-events:none;left:${canvas.offsetLeft}px;top:${canvas.offsetTop}px;width:${canvas.clientWidth}px;height:${canvas.clientHeight}px`;
    if (shown.style.cssText !== place) shown.style.cssText = place;
  };
  follow();
  return {
    ...opened,
    follow,
    release: () => {
      opened.release();
      shown.remove();
    },
  };
}
