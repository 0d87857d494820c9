import type { Lens, Scene } from 'umber-lens';
import type { Controls } from '../controls.js';
import type { Example } from '../example.js';
import { placeSheet } from '../sheet.js';
import sheet from './varnish.sheet.json';

/** A carved face painted by a shader graph, beside a glass float with a crust of salt that another graph lays over it. */
export async function createVarnish(scene: Scene): Promise<Example> {
  const { prepare, stage } = await placeSheet(scene, sheet);
  const face = stage.find('carving/figurehead')!; // in the sheet
  const lantern = stage.find('lantern')!; // as above
  return {
    camera: stage.camera!, // as above
    rig: { target: [0.05, -0.42, 0], distanceRange: [1.4, 9], elevationRange: [-0.2, 1.5] },
    prepare,
    frame(time) {
      const turn = time * 0.5 + 2.4;
      lantern.setTranslation(Math.sin(turn) * 2.1, 0.5, 1.2 + Math.cos(turn) * 1.1);
      face.setWeight('blink left', blinkAt(time)).setWeight('blink right', blinkAt(time));
    },
  };
}

/** Shut for a moment every few seconds. */
function blinkAt(time: number): number {
  const since = (time + 1) % 4.2;
  return since < 0.24 ? 1 - Math.abs((2 * since) / 0.24 - 1) : 0;
}

export function varnishControls(_lens: Lens, scene: Scene, controls: Controls): void {
  const [carved] = scene.get('figurehead').mesh!.primitives; // in the sheet
  const [glass] = scene.get('float').mesh!.primitives; // as above
  for (const [label, material] of [
    ['painted', carved?.material],
    ['salt', glass?.overlays?.[0]],
  ] as const) {
    for (const { default: value, name, range } of material?.shader?.settings ?? []) {
      if (!range || typeof value !== 'number') continue;
      const [low, high] = range;
      controls.range(`${label}: ${name}`, low, high, value, (now) => {
        material!.settings = { ...material!.settings, [name]: now }; // it has settings
      });
    }
  }
}
