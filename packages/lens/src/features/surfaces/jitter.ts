import {
  FRAME_CAMERA_POSITION,
  FRAME_FORWARD,
  FRAME_IS_PARALLEL,
  FRAME_RIGHT,
  FRAME_UP,
  FRAME_VIEW_PROJECTION,
} from '../../compiled/layouts.js';

/** Places of samples within a pixel after which they begin anew. */
export const SAMPLES = 64;

/** The number of a base, mirrored at its point (Halton, "On the efficiency of certain quasi-random sequences", 1960). 0 to 1. */
export function halton(index: number, base: number): number {
  let sum = 0;
  let share = 1 / base;
  for (let i = index; i > 0; i = Math.floor(i / base)) {
    sum += (i % base) * share;
    share /= base;
  }
  return sum;
}

/**
 * Shifts a picture in what shaders are told of it.
 *
 * @param frame the structure `Frame` of frame.wgsl
 * @param x in clip space, to the right
 * @param y up
 */
export function shiftFrame(frame: Float32Array, x: number, y: number): void {
  for (let column = 0; column < 4; column++) {
    const at = FRAME_VIEW_PROJECTION + column * 4;
    frame[at]! += x * frame[at + 3]!; // sixteen numbers
    frame[at + 1]! += y * frame[at + 3]!;
  }
  // Rays through pixels start, or lean, the other way.
  const from = frame[FRAME_IS_PARALLEL]! > 0.5 ? FRAME_CAMERA_POSITION : FRAME_FORWARD;
  for (let k = 0; k < 3; k++) frame[from + k]! -= frame[FRAME_RIGHT + k]! * x + frame[FRAME_UP + k]! * y; // three each
}
