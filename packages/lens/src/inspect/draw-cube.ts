import { cubeDirection, facing, LensError, type Scene, type SceneNode } from '@umber-lens/core/engine';
import type { DrawOptions, Lens } from '../lens.js';
import type { RenderTarget } from '../view/render-target.js';

/** How a scene is drawn into a cube, besides what `draw` takes. */
export interface CubeOptions extends Omit<DrawOptions, 'target' | 'viewport' | 'scissor' | 'layer'> {
  /** Metres within which nothing is seen. Default 0.05. */
  near?: number;
  /** Bits of what is in it: see `SceneNode.visibleTo`. What shows the cube must not be. Default all. */
  sees?: number;
}

/** Turns a camera to a side of a cube about it: to its middle, and up to the middle of its upper edge. */
export function lookAtSide(camera: SceneNode, side: number): void {
  camera.setRotation(...facing(cubeDirection(side, 0, 0), cubeDirection(side, 0, -1)));
}

const NOTHING: readonly never[] = [];
const cameras = new WeakMap<Scene, SceneNode>();

/**
 * Draws a scene from a place into the six pictures of a cube: for shaders that read it as `texture_cube<f32>`, by directions of the world.
 *
 *     const around = lens.createTarget({ width: 128, height: 128, shape: 'cube', format: 'rgba16float', levels: true });
 *     drawCube(lens, scene, [0, 1, 0], around, { sees: 0b01 });
 *
 * @param place world space
 * @throws LensError `lens/cube` where the target is none
 */
export function drawCube(
  lens: Lens,
  scene: Scene,
  place: readonly [x: number, y: number, z: number],
  target: RenderTarget,
  { near = 0.05, sees, ...options }: CubeOptions = {},
): void {
  if (target.deviceTexture.shape !== 'cube')
    throw new LensError('lens/cube', `a target of shape ${target.deviceTexture.shape} has no six pictures`, {
      hint: "Make it by lens.createTarget({ shape: 'cube', … }).",
    });
  let camera = cameras.get(scene);
  if (!camera?.isAlive) cameras.set(scene, (camera = scene.createNode({ name: 'cube camera' })));
  camera.setCamera({
    ...{ type: 'perspective', yfov: Math.PI / 2, aspectRatio: 1, znear: near },
    ...(sees === undefined ? {} : { sees }),
  });
  camera.setTranslation(...place);
  for (let layer = 0; layer < 6; layer++) {
    lookAtSide(camera, layer);
    lens.draw(scene, camera, { finish: NOTHING, ...options, target, layer });
  }
}
