import { axisAngle, easing, type Lens, noise, poseOf, type Scene } from 'umber-lens';
import type { Controls } from '../controls.js';
import type { Example } from '../example.js';
import { placeSheet } from '../sheet.js';
import sheet from './figurehead.sheet.json';

/** Seconds from one blink to the next, and of a blink. */
const EVERY = 3.6;
const BLINK = 0.26;

/** A ship's carved face: nine morph targets by name, moved by hand; it blinks and sways by itself. */
export async function createFigurehead(scene: Scene): Promise<Example> {
  const { prepare, stage } = await placeSheet(scene, sheet);
  const carving = stage.find('carving')!; // in the sheet
  const face = stage.find('carving/figurehead')!; // as above
  const shut = easing('ease-in-out');
  return {
    camera: stage.camera!, // as above
    rig: { target: [0, -0.1, 0], distanceRange: [0.8, 8], elevationRange: [-0.5, 1.57] },
    prepare,
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
  const face = scene.get('figurehead');
  const { targetNames, weights } = poseOf(face)!; // it has targets
  targetNames.forEach((name, i) => {
    if (name.startsWith('blink')) return;
    controls.range(name, 0, 1, weights[i]!, (weight) => face.setWeight(name, weight)); // a target
  });
}
