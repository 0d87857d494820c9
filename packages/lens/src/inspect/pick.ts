import {
  castRay,
  castRayAll,
  cameraFrustum,
  findInRegion,
  type FindOptions,
  type RayHit,
  LensError,
  type PictureRegion,
  preparePicking,
  type Scene,
  type SceneNode,
} from '@umber-lens/core/engine';
import type { Lens } from '../lens.js';
import { throughPicture } from './through-picture.js';

/** CSS pixels. */
export interface PictureSize {
  width: number;
  height: number;
}

export interface PickOptions {
  /** Whether a node counts. Default all that are shown. */
  filter?: (node: SceneNode) => boolean;
  /** Whether faces count from behind too, that are not drawn so. Default false; not for `exact`. */
  bothSides?: boolean;
  /**
   * Whether the GPU is asked, which knows what the script does not: vertices that a hook displaces, shapes that it
   * marches, holes that textures cut. Default false.
   */
  gpu?: boolean;
  /** CSS pixels around the place in which the nearest to it counts, for fingers; only with `exact`. Default 0. */
  radius?: number;
  /** Size of the picture that `x` and `y` count in. Default the canvas's own. */
  size?: PictureSize;
}

export interface PickRegionOptions extends Pick<FindOptions, 'filter' | 'contained'> {
  /** Whether only what can be seen counts, as the GPU draws it. Default false. */
  gpu?: boolean;
  size?: PictureSize;
}

/** What is at a place of the picture. */
export interface PickHit extends Omit<RayHit, 'triangle'> {
  /** Number of the triangle in the primitive's geometry; undefined for `exact`. */
  triangle: number | undefined;
}

/** The same options, for what the camera sees. */
function seenBy<T extends { filter?: (node: SceneNode) => boolean }>(
  scene: Scene,
  camera: SceneNode,
  options: T,
): T {
  const { sees = -1 } = camera.camera ?? {};
  if (scene.visibilities.size === 0) return options;
  const { filter } = options;
  return {
    ...options,
    filter: (node) => (scene.visibleBits(node.row) & sees) !== 0 && (!filter || filter(node)),
  };
}

/** See `Lens.pick`. */
export async function pick(
  lens: Lens,
  scene: Scene,
  camera: SceneNode,
  x: number,
  y: number,
  given: PickOptions = {},
): Promise<PickHit | undefined> {
  const options = seenBy(scene, camera, given);
  const size = sizeOf(lens, options);
  if (options.gpu) {
    const { pointAt } = await import('./pointing.js');
    return pointAt(lens, scene, camera, x, y, size, options);
  }
  await preparePicking(scene);
  const { ray, options: cast } = throughPicture(camera, x, y, size, options);
  return castRay(scene, ray, cast);
}

/** See `Lens.pickAll`. */
export async function pickAll(
  lens: Lens,
  scene: Scene,
  camera: SceneNode,
  x: number,
  y: number,
  given: PickOptions = {},
): Promise<PickHit[]> {
  const options = seenBy(scene, camera, given);
  const size = sizeOf(lens, options);
  await preparePicking(scene);
  const { ray, options: cast } = throughPicture(camera, x, y, size, options);
  return castRayAll(scene, ray, cast);
}

/** See `Lens.pickRegion`. */
export async function pickRegion(
  lens: Lens,
  scene: Scene,
  camera: SceneNode,
  region: PictureRegion,
  given: PickRegionOptions = {},
): Promise<SceneNode[]> {
  const options = seenBy(scene, camera, given);
  const { width, height } = sizeOf(lens, options);
  const planes = cameraFrustum(camera, region, width, height);
  if (!options.gpu) {
    await preparePicking(scene);
    return findInRegion(scene, planes, options);
  }
  const { pointIn } = await import('./pointing.js');
  const seen = await pointIn(lens, scene, camera, region, { width, height }, options.filter);
  if (!options.contained) return seen;
  await preparePicking(scene);
  const whole = new Set(findInRegion(scene, planes, options));
  return seen.filter((node) => whole.has(node));
}

function sizeOf({ canvas }: Lens, { size }: { size?: PictureSize }): PictureSize {
  if (size) return size;
  if (!canvas)
    throw new LensError('lens/no-target', 'this lens has no canvas', {
      hint: 'Tell how large the picture is: pick(scene, camera, x, y, { size: { width, height } }).',
    });
  return { width: canvas.clientWidth, height: canvas.clientHeight };
}
