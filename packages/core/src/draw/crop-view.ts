import { type CameraView, multiply, writePlanes } from './camera-view.js';

/** A part of a picture, in the picture's units: pixels, or CSS pixels. */
export interface PictureRegion {
  /** From the left and from the top. */
  x: number;
  y: number;
  width: number;
  height: number;
}

/**
 * Narrows a view to a part of its picture: `viewProjection` fills the target with that part, and `planes` bound it. All
 * else stays as the whole picture has it.
 *
 * @param width of the whole picture
 */
export function cropView(view: CameraView, region: PictureRegion, width: number, height: number): void {
  const across = width / region.width;
  const up = height / region.height;
  crop[0] = across;
  crop[5] = up;
  crop[12] = across - (2 * region.x) / region.width - 1;
  crop[13] = 1 - up + (2 * region.y) / region.height;
  whole.set(view.viewProjection);
  multiply(view.viewProjection, crop, whole);
  writePlanes(view.planes, view.viewProjection);
}

const whole = new Float32Array(16);
const crop = new Float32Array([1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1]);
