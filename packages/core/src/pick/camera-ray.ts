import { createCameraView, updateCameraView } from '../draw/camera-view.js';
import type { Vec3 } from '../math/vectors.js';
import type { SceneNode } from '../scene/scene-node.js';
import type { Ray } from './cast-ray.js';

const view = createCameraView();

/**
 * The ray through a place of the picture that a camera node gives.
 *
 * @param x from the left, in the units of `width`: pixels, or CSS pixels as events have them
 * @param y from the top
 * @throws LensError `camera/missing`, `camera/range`
 */
export function cameraRay(camera: SceneNode, x: number, y: number, width: number, height: number): Ray {
  updateCameraView(view, camera, width / height);
  const { projection: p } = view;
  const across = ((2 * x) / width - 1 - p[8]!) / p[0]!; // sixteen
  const up = (1 - (2 * y) / height - p[9]!) / p[5]!;
  const m = camera.readWorld(new Float64Array(12));
  const turn = (a: number, b: number, c: number, w: number): Vec3 =>
    [0, 4, 8].map((k) => m[k]! * a + m[k + 1]! * b + m[k + 2]! * c + m[k + 3]! * w) as Vec3; // twelve
  return camera.camera?.type === 'orthographic'
    ? { origin: turn(across, up, 0, 1), direction: turn(0, 0, -1, 0) }
    : { origin: turn(0, 0, 0, 1), direction: turn(across, up, -1, 0) };
}
