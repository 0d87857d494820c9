import { createCameraView, updateCameraView } from '../draw/camera-view.js';
import { cropView } from '../draw/crop-view.js';
import type { PictureRegion } from '../draw/narrow.js';
import { LensError } from '../errors/lens-error.js';
import type { SceneNode } from '../scene/scene-node.js';
import type { ConvexRegion } from './find-in-region.js';

/**
 * What a rectangle of the picture shows that a camera node gives, for `findInRegion`: between the near and the far plane.
 *
 * @param region in the units of `width`: pixels, or CSS pixels as events have them; a negative width or height counts
 *   the other way
 * @throws LensError `pick/rectangle` for an empty one, `camera/missing`, `camera/range`
 */
export function cameraFrustum(
  camera: SceneNode,
  region: PictureRegion,
  width: number,
  height: number,
): ConvexRegion {
  const { x, y, width: w, height: h } = region;
  if (!(w !== 0 && h !== 0 && [x, y, w, h].every(Number.isFinite)))
    throw new LensError('pick/rectangle', `a rectangle of ${w} x ${h} at (${x}, ${y}) shows nothing`, {
      hint: 'Give finite numbers, and a width and a height that are not 0.',
    });
  const view = createCameraView();
  updateCameraView(view, camera, width / height);
  const upright = { x: Math.min(x, x + w), y: Math.min(y, y + h), width: Math.abs(w), height: Math.abs(h) };
  cropView(view, upright, width, height);
  return view.planes;
}
