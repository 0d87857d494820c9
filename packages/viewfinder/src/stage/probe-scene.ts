import { cameraRay, castRay, type Scene, type SceneNode } from '@umber-lens/core/engine';
import type { Lens } from 'umber-lens';
import type { PixelAt, SceneHit } from '../logic/graph/graph-probe.js';
import type { Vec } from '../logic/handles/vectors.js';
import type { Stage } from './stage.js';

/** What the probe is on, and through which camera it is seen. */
export interface ProbedHit extends SceneHit {
  camera: SceneNode;
  /** Number of the primitive in the node's mesh. */
  primitive: number;
  /** CSS pixels of the picture, and its size. */
  at: { x: number; y: number; width: number; height: number };
  /** The pixel of the drawn picture. */
  pixel: PixelAt;
  /** What is seen of the same thing at another place of that; undefined beside it. */
  hitAt(x: number, y: number): SceneHit | undefined;
}

/** The pixel of the drawn picture at a place of the editor's, CSS pixels. */
export function pixelUnder({ canvas }: Lens, { place }: Stage, x: number, y: number): PixelAt {
  const { height, width } = canvas ?? place;
  return {
    ...{ width, height },
    x: Math.floor((x / place.width) * width),
    y: Math.floor((y / place.height) * height),
  };
}

/** Puts the probe on what the GPU draws at a place of the editor's picture. @returns undefined where there is nothing */
export async function probeScene(
  lens: Lens,
  scene: Scene,
  stage: Stage,
  x: number,
  y: number,
): Promise<ProbedHit | undefined> {
  const { camera, place } = stage;
  const { height, width } = place;
  const hit = await lens.pick(scene, camera, x, y, { gpu: true, size: { width, height } });
  stage.probed = hit && { at: hit.point as unknown as Vec, normal: hit.normal as unknown as Vec };
  stage.touch();
  if (!hit) return undefined;
  const { node, normal, point, primitive, texcoord } = hit;
  const pixel = pixelUnder(lens, stage, x, y);
  const hitAt = (across: number, down: number): SceneHit | undefined => {
    const other = castRay(scene, cameraRay(camera, across, down, pixel.width, pixel.height));
    return other?.node === node && other.primitive === primitive ? other : undefined;
  };
  return { node, primitive, normal, point, texcoord, camera, at: { x, y, width, height }, pixel, hitAt };
}
