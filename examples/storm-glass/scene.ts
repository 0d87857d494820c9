import {
  type ColorTable,
  createMaterial,
  type Effect,
  facing,
  type Lens,
  type Material,
  plane,
  type Scene,
  skyPanorama,
} from 'umber-lens';
import type { Controls } from '../controls.js';
import { addSkyLight } from '../daylight.js';
import type { Example, PlaceModel } from '../example.js';
import rain from './rain.wgsl';
import sea from './sea.wgsl';
import { seaAt } from './waves.js';

/** Evening in bad weather: cold shadows, warm lights, by a table as a `.cube` file has it. */
function grading(): ColorTable {
  const size = 17;
  const colors = new Float32Array(size ** 3 * 3);
  let at = 0;
  for (let b = 0; b < size; b++)
    for (let g = 0; g < size; g++)
      for (let r = 0; r < size; r++) {
        const given = [r, g, b].map((part) => part / (size - 1));
        const light = given[0]! * 0.2126 + given[1]! * 0.7152 + given[2]! * 0.0722;
        const warm = light * light * (3 - 2 * light);
        [0.94 + 0.14 * warm, 0.99 + 0.02 * warm, 1.12 - 0.2 * warm].forEach((tint, k) => {
          const part = given[k]! * tint;
          // A gentle curve: the dark a little darker.
          colors[at++] = Math.min(1, Math.max(0, part * (0.82 + 0.3 * part)) ** 0.95);
        });
      }
  return { size, colors };
}

const wet = { amount: 0.6 };
/** Each of them can be switched; light first, then what is shown. */
const EFFECTS: { name: string; effect: Effect }[] = [
  { name: 'Occlusion', effect: { type: 'ambient-occlusion', radius: 0.7 } },
  {
    name: 'Reflections',
    effect: { type: 'screen-space-reflections', maxRoughness: 0.6, maxDistance: 30, thickness: 0.6 },
  },
  { name: 'Bloom', effect: { type: 'bloom', amount: 0.3, spread: 0.72 } },
  {
    name: 'Depth of field',
    effect: { type: 'depth-of-field', focus: 11, fStop: 0.35, sensorHeight: 0.024, maxRadius: 7 },
  },
  { name: 'Rain on the lens', effect: { type: 'shader', shader: rain, settings: wet } },
  { name: 'Grading', effect: { type: 'lut', table: grading() } },
  { name: 'Fringes', effect: { type: 'chromatic-aberration', amount: 5 } },
  { name: 'Grain', effect: { type: 'film-grain', amount: 0.035 } },
];

/** The tug in heavy weather, through a wet lens. */
export async function createStormGlass(scene: Scene, placeModel: PlaceModel): Promise<Example> {
  const panorama = skyPanorama({
    sunDirection: [-0.72, 0.07, -0.69],
    turbidity: 4,
    groundAlbedo: [0.03, 0.04, 0.05],
  });
  scene.imageLight = { panorama, intensity: 0.75 };
  scene.backdrop = { panorama, intensity: 0.8, blur: 0.25 };
  addSkyLight(scene, [0.05, 0.07, 0.1], [0.01, 0.014, 0.02]);
  scene.fog = { type: 'exponential', color: 'sky', density: 0.016 };
  scene.createNode({
    name: 'last light',
    rotation: facing([0.75, -0.3, -0.25]),
    light: { type: 'directional', color: [1, 0.75, 0.55], intensity: 0.9 },
  });
  scene.createNode({
    name: 'sea',
    mesh: {
      geometry: plane({ width: 220, depth: 220, cells: [220, 220] }),
      material: createMaterial(sea, {
        name: 'sea',
        baseColorFactor: [0.012, 0.04, 0.05, 1],
        metallicFactor: 0,
        roughnessFactor: 0.16,
      }),
    },
  });
  const tug = await placeModel('tug', scene);
  const glow = (color: [number, number, number], strength: number): Material => ({
    name: 'lit',
    baseColorFactor: [0.1, 0.08, 0.05, 1],
    metallicFactor: 0,
    emissiveFactor: color,
    emissiveStrength: strength,
  });
  // Planks and paint are wet.
  for (const node of tug.descendants())
    if (node.mesh && !/pane|porthole|tyre|lamp/.test(node.name))
      node.setMesh(
        node.mesh.primitives.map(({ geometry, material }) => ({
          geometry,
          material: { ...material, roughnessFactor: node.name === 'deck' ? 0.1 : 0.28 },
        })),
      );
  // Lamps are lit: in the windows, at the mast.
  const warm = glow([1, 0.62, 0.26], 5);
  for (const node of [...tug.descendants()]) {
    const isWindow = /pane|porthole/.test(node.name);
    if (!isWindow && node.name !== 'lamp') continue;
    const own = node.mesh!.primitives;
    const material = isWindow ? warm : glow([1, 0.8, 0.5], 26);
    node.setMesh(own.map(({ geometry }) => ({ geometry, material })));
  }
  const mast = tug.get('lamp');
  scene.createNode({
    parent: mast,
    name: 'masthead light',
    light: { type: 'point', color: [1, 0.8, 0.5], intensity: 26, range: 30 },
  });
  for (const [x, color] of [
    [-1.45, [1, 0.06, 0.03]],
    [1.45, [0.05, 1, 0.35]],
  ] as const)
    scene.createNode({
      parent: tug,
      name: x < 0 ? 'port light' : 'starboard light',
      translation: [x, 1.7, 1],
      light: { type: 'point', color: [...color], intensity: 5, range: 9 },
    });
  scene.createNode({
    parent: tug,
    name: 'cabin light',
    translation: [0, 1.9, 2.6],
    light: { type: 'point', color: [1, 0.62, 0.3], intensity: 6, range: 8 },
  });
  const camera = scene.createNode({
    name: 'camera',
    translation: [-6.4, 2.5, 8.2],
    rotation: facing([0.56, -0.055, -0.83]),
    camera: { type: 'perspective', yfov: 0.62, znear: 0.1 },
  });
  return {
    camera,
    rig: { target: [0, 1.6, 0], elevationRange: [0.03, 1.2], distanceRange: [6, 40] },
    prepare(lens) {
      lens.look.toneMapping = 'agx';
      lens.look.exposure = 1.15;
      lens.look.contrast = 1.2;
      lens.look.saturation = 1.25;
      lens.view.finish = EFFECTS.map(({ effect }) => effect);
    },
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
  const isOn = new Set(EFFECTS.map(({ name }) => name));
  for (const { name } of EFFECTS)
    choice(name, ['on', 'off'], 'on', (now) => {
      if (now === 'on') isOn.add(name);
      else isOn.delete(name);
      lens.view.finish = EFFECTS.filter((one) => isOn.has(one.name)).map(({ effect }) => effect);
    });
  range('Rain', 0, 1, wet.amount, (amount) => (wet.amount = amount));
  const cost = text('Effects');
  void lens.timePasses(true);
  setInterval(() => {
    const own = lens.ledger.passes.filter(({ name }) => /^\d+ |^surfaces|occlusion|reflections/.test(name));
    const milliseconds = own.reduce((sum, { gpuMilliseconds = 0 }) => sum + gpuMilliseconds, 0);
    cost.textContent = `${own.length} passes${milliseconds > 0 ? `, ${milliseconds.toFixed(1)} ms` : ''}`;
  }, 500);
}
