import { facing, type LightCube, type Panorama, panoramaOfCube, type Scene } from '@umber-lens/core';
import type { Lens, Target } from '../lens.js';

export interface CaptureOptions {
  /** Pixels of a side of the cube: default 128. */
  side?: number;
  /** Metres within which nothing is seen. Default 0.05. */
  near?: number;
}

/** Radiance beyond which light is cut off. */
const BRIGHTEST = 1024;

/** Way and up of each side as GPUs have them. */
const SIDES: [way: [number, number, number], up: [number, number, number]][] = [
  [
    [1, 0, 0],
    [0, 1, 0],
  ],
  [
    [-1, 0, 0],
    [0, 1, 0],
  ],
  [
    [0, 1, 0],
    [0, 0, -1],
  ],
  [
    [0, -1, 0],
    [0, 0, 1],
  ],
  [
    [0, 0, 1],
    [0, 1, 0],
  ],
  [
    [0, 0, -1],
    [0, 1, 0],
  ],
];

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
  const { device, look, show, exposure } = lens;
  const kept = { ...look };
  await lens.load(scene);
  const texture = device.createTexture({
    label: 'capture',
    width: side,
    height: side,
    format: 'rgba16float',
    renderable: true,
  });
  const target: Target = {
    width: side,
    height: side,
    texture,
    read: () => Promise.reject(new Error('not to be read')),
    dispose: () => undefined,
  };
  // So dark that nothing is cut off; half floats keep the dark as exact as the bright.
  for (const key of Object.keys(look)) delete look[key as keyof typeof look];
  look.toneMapping = 'none';
  lens.show = 'light';
  lens.exposure = 1 / BRIGHTEST;
  const eye = scene.createNode({
    name: 'capture',
    translation: [...position],
    camera: { type: 'perspective', yfov: Math.PI / 2, aspectRatio: 1, znear: near },
  });
  const sides: Float32Array[] = [];
  try {
    await lens.load(scene);
    for (const [way, up] of SIDES) {
      eye.setRotation(...facing(way, up));
      lens.draw(scene, eye, target);
      sides.push(decoded((await device.readTexture(texture)) as Float32Array));
    }
  } finally {
    eye.remove();
    texture.dispose();
    for (const key of Object.keys(look)) delete look[key as keyof typeof look];
    Object.assign(look, kept);
    lens.show = show;
    lens.exposure = exposure;
  }
  const cube: LightCube = { side, sides };
  return panoramaOfCube(cube, 'capture');
}

/** From what a screen is sent to radiance. */
function decoded(pixels: Float32Array): Float32Array {
  return pixels.map((value, i) =>
    i % 4 === 3 ? 1 : BRIGHTEST * (value <= 0.04045 ? value / 12.92 : ((value + 0.055) / 1.055) ** 2.4),
  );
}
