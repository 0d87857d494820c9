import { easing, facing, type Lens, noise, poseOf, type Scene, axisAngle } from 'umber-lens';
import type { Controls } from '../controls.js';
import { addDaylight } from '../daylight.js';
import type { Example, PlaceModel } from '../example.js';

type Vec3 = [number, number, number];

/** Towards the sun: of length 1. */
const SUN: Vec3 = [0.62, 0.42, 0.6627];
/** Seconds from one blink to the next, and of a blink. */
const EVERY = 3.6;
const BLINK = 0.26;

/** A ship's carved face: nine morph targets by name, moved by hand; it blinks and sways by itself. */
export async function createFigurehead(scene: Scene, placeModel: PlaceModel): Promise<Example> {
  addDaylight(scene, { sun: SUN, turbidity: 2.2, sea: -2.2, reach: 8 });
  const carving = await placeModel('figurehead', scene);
  const face = carving.find('figurehead')!; // the file's only node
  face.setWeight('smile', 0.35);
  const camera = scene.createNode({
    name: 'camera',
    translation: [0.75, 0.1, 2.1],
    rotation: facing([-0.33, -0.1, -1]),
    camera: { type: 'perspective', yfov: 0.7, znear: 0.05 },
  });
  const shut = easing('ease-in-out');
  return {
    camera,
    rig: { target: [0, -0.1, 0], distanceRange: [0.8, 8], elevationRange: [-0.5, 1.57] },
    prepare(lens) {
      lens.look.toneMapping = 'aces';
      lens.look.exposure = -0.6;
    },
    frame(time) {
      // Down and up again.
      const since = (time + 0.4) % EVERY;
      const lid = since < BLINK ? shut(1 - Math.abs((2 * since) / BLINK - 1)) : 0;
      face.setWeight('blink left', lid).setWeight('blink right', lid);
      const [yaw, nod] = [0.16 * noise(time * 0.31, 1), 0.08 * noise(time * 0.27, 7)];
      const [, y, , w] = axisAngle([0, 1, 0], yaw);
      const [x, , , v] = axisAngle([1, 0, 0], nod);
      carving.setRotation(w * x, y * v, -y * x, w * v);
    },
  };
}

export function figureheadControls(_lens: Lens, scene: Scene, controls: Controls): void {
  // The node that carries the mesh stands below the one that was placed.
  const face = scene.findAll('figurehead').at(-1);
  const pose = face && poseOf(face);
  if (!pose) return;
  pose.targetNames.forEach((name, i) => {
    if (name.startsWith('blink')) return;
    controls.range(name, 0, 1, pose.weights[i]!, (weight) => face.setWeight(name, weight)); // a target
  });
}
