import { type Lens, type Scene, type SceneNode } from 'umber-lens';
import { verdictText } from 'umber-lens/figures';
import type { Controls } from '../controls.js';
import { frameChart } from './chart.js';
import { yard } from './scene.js';

/** Something that can be on or off, and what it brings is held against. */
interface Switch {
  name: string;
  isOn: boolean;
  set(lens: Lens, on: boolean): void;
}

const SWITCHES: Switch[] = [
  {
    name: 'material batching',
    isOn: true,
    set(_, on) {
      yard!.merged = on; // made before the panel, here and below
      yard!.apply();
    },
  },
  { name: 'bulk transforms', isOn: true, set: (_, on) => (yard!.inBulk = on) },
  { name: 'cluster culling', isOn: true, set: (lens, on) => (lens.view.culling.clusters = on) },
  { name: 'occlusion culling (WebGPU)', isOn: false, set: (lens, on) => (lens.view.culling.occlusion = on) },
  { name: 'small-object culling', isOn: false, set: (lens, on) => (lens.view.minPixels = on ? 4 : 0) },
  {
    name: 'depth prepass',
    isOn: false,
    set: (lens, on) => (lens.view.renderPath = on ? 'prepass' : 'forward'),
  },
  {
    name: 'deferred path',
    isOn: false,
    set: (lens, on) => (lens.view.renderPath = on ? 'deferred' : 'forward'),
  },
  { name: 'moving belts', isOn: true, set: (_, on) => (yard!.runs = on) },
];

/** Switches, the ledger, a chart of frames, and what comparing the chosen switch says. */
export function crateYardControls(lens: Lens, scene: Scene, controls: Controls): void {
  for (const one of SWITCHES)
    controls.choice(one.name, ['on', 'off'], one.isOn ? 'on' : 'off', (value) => {
      one.isOn = value === 'on';
      one.set(lens, one.isOn);
    });
  const line = controls.text('ledger');
  const apart = controls.text('draws stand apart by');
  const verdict = controls.text('verdict');
  const camera = [...scene.cameras.keys()][0]!; // the example has one
  let chosen = SWITCHES[0]!;
  controls.choice('does it pay?', ['choose', ...SWITCHES.map(({ name }) => name)], 'choose', (name) => {
    const found = SWITCHES.find((one) => one.name === name);
    if (!found) return;
    chosen = found;
    verdict.textContent = 'drawing both ways in turn ...';
    pays(lens, scene, camera, chosen).then(
      (text) => (verdict.textContent = text),
      (error: unknown) => (verdict.textContent = String(error)),
    );
  });
  const chart = frameChart(lens.ledger.recent);
  setInterval(() => {
    const { draws, instances, triangles, bytesUploaded, culled, small } = lens.ledger;
    line.textContent = `${draws} draws of ${instances.toLocaleString('en')}, ${triangles.toLocaleString('en')} triangles, ${(bytesUploaded / 1000).toFixed(0)} kB sent, ${culled.toLocaleString('en')} left out, ${small.toLocaleString('en')} too small`;
    chart();
    void lens.batchBreaks().then((list) => {
      const counts = new Map<string, number>();
      for (const { reason, words } of list)
        if (reason !== 'first') counts.set(words.split(':')[0]!, (counts.get(words.split(':')[0]!) ?? 0) + 1); // split gives one
      apart.textContent = [...counts].map(([words, count]) => `${words} (${count})`).join(', ') || 'nothing';
    });
  }, 500);
}

/** Draws with a switch off and on in turn. @returns the verdict in words */
async function pays(lens: Lens, scene: Scene, camera: SceneNode, one: Switch): Promise<string> {
  const was = one.isOn;
  const way = (on: boolean) => (): void => {
    one.set(lens, on);
    if (yard!.runs) yard!.move(performance.now() / 1000);
    lens.draw(scene, camera);
  };
  const { verdict, a, b } = await lens.compare({ a: way(false), b: way(true) }, { turns: 16, frames: 2 });
  one.set(lens, was);
  const script = `script ${a.script.median.toFixed(2)} ms without, ${b.script.median.toFixed(2)} ms with`;
  return `${verdictText(verdict, ['without', 'with'])}; ${script}; ${a.draws} and ${b.draws} draws`;
}
