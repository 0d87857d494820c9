import { LensError } from '@umber-lens/core/engine';
import type * as api from '../device.js';

/**
 * Reads pixels of the bound framebuffer. Unless it blocks, the page goes on while the GPU draws them: they come by way of a buffer.
 *
 * @param type of the numbers, as WebGL names it
 * @throws LensError `device/lost` when the context is lost meanwhile
 */
export async function readBack(
  gl: WebGL2RenderingContext,
  width: number,
  height: number,
  type: number,
  out: api.TypedNumbers,
  blocks = false,
): Promise<void> {
  if (blocks) {
    gl.readPixels(0, 0, width, height, gl.RGBA, type, out);
    return;
  }
  const target = gl.PIXEL_PACK_BUFFER;
  const buffer = gl.createBuffer();
  gl.bindBuffer(target, buffer);
  gl.bufferData(target, out.byteLength, gl.STREAM_READ);
  gl.readPixels(0, 0, width, height, gl.RGBA, type, 0);
  gl.bindBuffer(target, null);
  const sync = gl.fenceSync(gl.SYNC_GPU_COMMANDS_COMPLETE, 0);
  gl.flush();
  let state: number = gl.TIMEOUT_EXPIRED;
  while (sync && state === gl.TIMEOUT_EXPIRED) {
    await new Promise((again) => setTimeout(again, 1));
    state = gl.clientWaitSync(sync, 0, 0);
  }
  gl.deleteSync(sync);
  const isLost = gl.isContextLost() || !sync || state === gl.WAIT_FAILED;
  if (!isLost) {
    gl.bindBuffer(target, buffer);
    gl.getBufferSubData(target, 0, out);
    gl.bindBuffer(target, null);
  }
  gl.deleteBuffer(buffer);
  if (isLost) throw new LensError('device/lost', 'the graphics context is lost');
}
