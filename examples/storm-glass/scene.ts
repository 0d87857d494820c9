import type { Effect, Lens, Scene } from 'umber-lens';
import type { Controls } from '../controls.js';
import type { Example } from '../example.js';
import { placeSheet } from '../sheet.js';
import sheet from './storm-glass.sheet.json';
import { seaAt } from './waves.js';

/** What the effects of the sheet's finish are called: each of them can be switched. */
const NAMES: readonly [Effect['type'], string][] = [
  ['ambient-occlusion', 'Occlusion'],
  ['screen-space-reflections', 'Reflections'],
  ['bloom', 'Bloom'],
  ['depth-of-field', 'Depth of field'],
  ['shader', 'Rain on the lens'],
  ['lut', 'Grading'],
  ['chromatic-aberration', 'Fringes'],
  ['film-grain', 'Grain'],
];

/** The tug in heavy weather, through a wet lens. */
export async function createStormGlass(scene: Scene): Promise<Example> {
  const { prepare, stage } = await placeSheet(scene, sheet);
  const tug = stage.find('tug')!; // in the sheet
  return {
    camera: stage.camera!, // as above
    rig: { target: [0, 1.6, 0], elevationRange: [0.03, 1.2], distanceRange: [6, 40] },
    prepare,
    frame(time) {
      const [height, alongX, alongZ] = seaAt(0, 0, time);
      tug.setTranslation(0, height * 0.85 + 0.12, 0);
      // It leans with the wave below it, and heads towards whoever looks.
      const heading = -0.95;
      const [pitch, roll] = [
        -(alongX * Math.sin(heading) + alongZ * Math.cos(heading)) * 0.5,
        (alongX * Math.cos(heading) - alongZ * Math.sin(heading)) * 0.5,
      ];
      const [sy, cy] = [Math.sin(heading / 2), Math.cos(heading / 2)];
      const [sx, cx] = [Math.sin(pitch / 2), Math.cos(pitch / 2)];
      const [sz, cz] = [Math.sin(roll / 2), Math.cos(roll / 2)];
      tug.setRotation(
        cy * sx * cz + sy * cx * sz,
        sy * cx * cz - cy * sx * sz,
        cy * cx * sz - sy * sx * cz,
        cy * cx * cz + sy * sx * sz,
      );
    },
  };
}

/** A switch for each effect, with what its passes cost on the GPU, where that can be told. */
export function addControls(lens: Lens, _scene: Scene, { choice, range, text }: Controls): void {
  const all = lens.view.finish;
  const off = new Set<Effect['type']>();
  for (const [type, name] of NAMES)
    choice(name, ['on', 'off'], 'on', (now) => {
      if (now === 'on') off.delete(type);
      else off.add(type);
      lens.view.finish = all.filter((effect) => !off.has(effect.type));
    });
  const rain = all.find((effect) => effect.type === 'shader')!; // in the sheet
  range('Rain', 0, 1, 0.6, (amount) => (rain.settings = { amount }));
  const cost = text('Effects');
  void lens.timePasses(true);
  setInterval(() => {
    const own = lens.ledger.passes.filter(({ name }) => /^\d+ |^surfaces|occlusion|reflections/.test(name));
    const milliseconds = own.reduce((sum, { gpuMilliseconds = 0 }) => sum + gpuMilliseconds, 0);
    cost.textContent = `${own.length} passes${milliseconds > 0 ? `, ${milliseconds.toFixed(1)} ms` : ''}`;
  }, 500);
}
