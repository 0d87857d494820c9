import { type CastOptions, eyeRay, type SceneNode } from '@umber-lens/core';
import type { PickOptions, PictureSize } from './pick.js';

/** Nothing is drawn before the near plane nor beyond the far one. */
export function castOptions(
  eye: SceneNode,
  { filter, bothSides }: Pick<PickOptions, 'filter' | 'bothSides'>,
  x: number,
  y: number,
  { width, height }: PictureSize,
): CastOptions {
  const camera = eye.camera!; // rays of others cannot be had
  const [ahead, aside] = [
    eyeRay(eye, width / 2, height / 2, width, height),
    eyeRay(eye, x, y, width, height),
  ];
  const length = Math.hypot(...aside.direction);
  // Both are at distance 1 along the view, before they are scaled.
  const cosine = camera.type === 'orthographic' ? 1 : Math.hypot(...ahead.direction) / length;
  return {
    near: camera.znear / cosine,
    far: (camera.zfar ?? Infinity) / cosine,
    ...(filter ? { filter } : {}),
    ...(bothSides ? { bothSides } : {}),
  };
}
