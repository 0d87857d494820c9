import type { Scene } from 'umber-lens';
import type { Example } from '../example.js';
import { placeSheet } from '../sheet.js';
import sheet from './glass-float.sheet.json';

/** Glass floats on the planks of the quay, with rope around them. */
export async function createGlassFloats(scene: Scene): Promise<Example> {
  const { prepare, stage } = await placeSheet(scene, sheet);
  const lantern = stage.find('lantern')!; // in the sheet
  return {
    camera: stage.camera!, // as above
    rig: { target: [0, 0.42, 0], distanceRange: [1.4, 9], elevationRange: [0.02, 1.57] },
    prepare,
    frame(time) {
      lantern.setTranslation(Math.sin(time * 0.7) * 1.6, 1.4, 1.3 + 0.4 * Math.cos(time * 0.7));
    },
  };
}
