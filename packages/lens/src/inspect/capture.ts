import { type Panorama, panoramaOfCube, type Scene } from '@umber-lens/core/engine';
import type { Lens } from '../lens.js';
import { lookAtSide } from './draw-cube.js';
import { defaultSettings } from '../view/view.js';

export interface CaptureOptions {
  /** Pixels of a side of the cube: default 128. */
  side?: number;
  /** Metres within which nothing is seen. Default 0.05. */
  near?: number;
}

/** Radiance beyond which light is cut off. */
const BRIGHTEST = 1024;

/**
 * The light that arrives at a place: the scene is drawn six ways from there. For `scene.probes`, or for an environment.
 * What should not be in it is to be hidden meanwhile. Radiance up to 1,024.
 *
 *     const panorama = await captureLight(lens, scene, [0, 1, 0]);
 *     scene.probes.push({ panorama, position: [0, 1, 0], box: { min: [-2, 0, -2], max: [2, 3, 2] } });
 *
 * @param position world space
 */
export async function captureLight(
  lens: Lens,
  scene: Scene,
  position: readonly [number, number, number],
  { side = 128, near = 0.05 }: CaptureOptions = {},
): Promise<Panorama> {
  const { device } = lens;
  const camera = scene.createNode({
    name: 'capture',
    translation: [...position],
    camera: { type: 'perspective', yfov: Math.PI / 2, aspectRatio: 1, znear: near },
  });
  const textures = SIDES.map(() =>
    device.createTexture({
      label: 'capture',
      width: side,
      height: side,
      format: 'rgba16float',
      renderable: true,
    }),
  );
  // Whatever the lens shows: light as it is, of all there is, so dark that nothing is cut off.
  const { time, delta } = lens.settings;
  const look = { exposure: -Math.log2(BRIGHTEST), toneMapping: 'none' } as const;
  const settings = { ...defaultSettings(), look, time, delta };
  const draw = (number: number): void => {
    lookAtSide(camera, number);
    lens.drawWith(settings, scene, camera, textures[number]!); // one a side
  };
  try {
    // What is around the scene is loaded by the first, its shaders by the second, their pipelines by the third.
    for (let i = 0; i < 3; i++) {
      draw(0);
      await lens.whenReady();
    }
    SIDES.forEach(draw);
    const sides = await Promise.all(
      textures.map(async (texture) => decoded(await device.readTexture(texture))),
    );
    return panoramaOfCube({ side, sides }, 'capture');
  } finally {
    camera.remove();
    for (const texture of textures) texture.dispose();
  }
}

const SIDES = [0, 1, 2, 3, 4, 5];

/** From what was drawn so dark to radiance. */
function decoded(pixels: ArrayLike<number>): Float32Array {
  return Float32Array.from(pixels, (value, i) => (i % 4 === 3 ? 1 : BRIGHTEST * value));
}
