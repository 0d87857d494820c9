import type { SceneNode } from '../scene/scene-node.js';

/** Metres before and behind the plane of flat pictures that are seen. */
const DEPTH = 10_000;

/**
 * Has a camera node see a flat picture of one unit a pixel: x to the right and y down from the upper left, z away from whoever looks. To be
 * called again when the picture has another size.
 *
 * @param width of the picture: CSS pixels of a canvas, or pixels of a target
 */
export function fitPixelCamera(node: SceneNode, width: number, height: number): void {
  const { camera } = node;
  const size = { xmag: width / 2, ymag: height / 2 };
  if (camera?.type !== 'orthographic')
    node.setCamera({ type: 'orthographic', ...size, znear: 0, zfar: 2 * DEPTH });
  else Object.assign(camera, size);
  // It looks along +Z with y down.
  node.setTranslation(width / 2, height / 2, -DEPTH);
  node.setRotation(1, 0, 0, 0);
}
