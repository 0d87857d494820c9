import { linearFromSrgb } from '../math/srgb.js';
import type { BakedLight } from './bake.js';

/**
 * Light from all directions as one picture: columns go round the horizon, rows from straight up (+Y) to straight
 * down. The middle column looks along -Z, three quarters of the way across along +X.
 */
export interface Panorama {
  name?: string;
  /** Pixels; as a rule twice the height. */
  width: number;
  height: number;
  /** Linear radiance, RGBA, `width * height * 4` numbers; alpha is not looked at. */
  data: Float32Array;
  /** What surfaces see of it, where that was made ahead of time: `bakePanorama`, `umber bake`. */
  baked?: BakedLight;
}

/** Where a direction of length 1 lies in a panorama: both 0..1, from the left and from the top. */
export function panoramaCoordinates(x: number, y: number, z: number): [u: number, v: number] {
  return [Math.atan2(x, -z) / (2 * Math.PI) + 0.5, Math.acos(Math.min(1, Math.max(-1, y))) / Math.PI];
}

/** The direction of length 1 at a place of a panorama, u and v 0..1 from the left and from the top. */
export function panoramaDirection(u: number, v: number): [x: number, y: number, z: number] {
  const turn = (u - 0.5) * 2 * Math.PI;
  const sine = Math.sin(v * Math.PI);
  return [Math.sin(turn) * sine, Math.cos(v * Math.PI), -Math.cos(turn) * sine];
}

/** The panorama of a picture of bytes, sRGB-encoded RGBA: white is radiance 1. */
export function panoramaOfBytes(
  { width, height }: { width: number; height: number },
  bytes: ArrayLike<number>,
  name: string,
): Panorama {
  const linear = Float32Array.from({ length: 256 }, (_, i) => linearFromSrgb(i / 255));
  return { name, width, height, data: Float32Array.from(bytes, (byte) => linear[byte]!) }; // 256 of them
}
