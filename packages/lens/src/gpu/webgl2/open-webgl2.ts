import { SHADERS } from '../../compiled/compiled-glsl.js';
import type { OpenDeviceOptions, OpenedDevice } from '../open-device.js';
import { Webgl2Device } from './webgl2-device.js';

/** A device on the canvas's context, or why there is none. */
export function openWebgl2(
  given: HTMLCanvasElement | undefined,
  powerPreference?: OpenDeviceOptions['powerPreference'],
): OpenedDevice | string {
  const own = (): HTMLCanvasElement =>
    typeof document === 'undefined'
      ? (new OffscreenCanvas(1, 1) as unknown as HTMLCanvasElement) // the same for all that is asked of it here
      : document.createElement('canvas');
  if (!given && typeof document === 'undefined' && typeof OffscreenCanvas === 'undefined')
    return 'WebGL2 needs a page';
  const canvas = given ?? own();
  const gl = canvas.getContext('webgl2', {
    alpha: true,
    antialias: false,
    depth: false,
    stencil: false,
    premultipliedAlpha: true,
    ...(powerPreference ? { powerPreference } : {}),
  });
  if (!gl) return 'this browser offers no WebGL2 for the canvas';
  return onWebgl2(gl, canvas, given === undefined);
}

function onWebgl2(gl: WebGL2RenderingContext, canvas: HTMLCanvasElement, isOurs: boolean): OpenedDevice {
  let isReleased = false;
  const reopen = (): Promise<OpenedDevice> =>
    new Promise((resolve) => {
      const opened = (): void => resolve(onWebgl2(gl, canvas, isOurs));
      if (gl.isContextLost()) canvas.addEventListener('webglcontextrestored', opened, { once: true });
      else opened();
    });
  return {
    device: new Webgl2Device(gl),
    shaders: SHADERS,
    onLoss: (listener) =>
      canvas.addEventListener(
        'webglcontextlost',
        (event) => {
          // Without this the browser would not give the context back.
          event.preventDefault();
          if (!isReleased) listener();
        },
        { once: true },
      ),
    reopen,
    release: () => {
      isReleased = true;
      // Browsers keep few contexts: one on a canvas that nobody sees is given up at once.
      if (isOurs) gl.getExtension('WEBGL_lose_context')?.loseContext();
    },
  };
}
