import { type CameraView, writePlanes } from './camera-view.js';
import { narrow, type PictureRegion } from './narrow.js';

/**
 * Narrows a view to a part of its picture: `viewProjection` fills the target with that part, and `planes` bound it. All
 * else stays as the whole picture has it.
 *
 * @param width of the whole picture
 */
export function cropView(view: CameraView, region: PictureRegion, width: number, height: number): void {
  narrow(view.viewProjection, region, width, height);
  writePlanes(view.planes, view.viewProjection);
}
