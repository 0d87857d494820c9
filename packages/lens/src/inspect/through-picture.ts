import { type CastOptions, cameraRay, type Ray, type SceneNode } from '@umber-lens/core/engine';
import type { PickOptions, PictureSize } from './pick.js';

/** The ray through a place of the picture, and where along it things are drawn: between the near plane and the far one. */
export function throughPicture(
  cameraNode: SceneNode,
  x: number,
  y: number,
  { width, height }: PictureSize,
  { filter, bothSides }: Pick<PickOptions, 'filter' | 'bothSides'>,
): { ray: Ray; options: CastOptions } {
  const ray = cameraRay(cameraNode, x, y, width, height);
  const camera = cameraNode.camera!; // cameraRay throws without one
  // Rays that spread are all of length 1 along the view, before they are scaled.
  const ahead =
    camera.type === 'orthographic' ? ray : cameraRay(cameraNode, width / 2, height / 2, width, height);
  const stretch = Math.hypot(...ray.direction) / Math.hypot(...ahead.direction);
  const options = {
    near: camera.znear * stretch,
    far: (camera.zfar ?? Infinity) * stretch,
    ...(filter ? { filter } : {}),
    ...(bothSides ? { bothSides } : {}),
  };
  return { ray, options };
}
