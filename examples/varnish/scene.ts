import { box, createMaterial, facing, type Lens, type Material, type Scene, sphere, torus } from 'umber-lens';
import type { Controls } from '../controls.js';
import { addDaylight } from '../daylight.js';
import type { Example, PlaceModel } from '../example.js';
import paintedGraph from './painted.graph.json';
import saltGraph from './salt.graph.json';

type Vec3 = [number, number, number];

/** Towards the sun: of length 1. */
const SUN: Vec3 = [0.6, 0.36, 0.7146];

/** A carved face painted by a shader graph, beside a glass float with a crust of salt that another graph lays over it. */
export async function createVarnish(scene: Scene, placeModel: PlaceModel): Promise<Example> {
  addDaylight(scene, { sun: SUN, turbidity: 2.4, sea: -2.6, reach: 9 });
  const painted = createMaterial(paintedGraph, { name: 'painted', doubleSided: true });
  const salt = createMaterial(saltGraph, { name: 'salt', alphaMode: 'blend' });
  const carving = await placeModel('figurehead', scene);
  const face = carving.find('figurehead')!; // the file's only node
  const own = face.mesh!.primitives[0]!; // it has one
  face.setMesh({ ...face.mesh!, primitives: [{ ...own, material: painted }] });
  face.setWeight('smile', 0.5).setWeight('brows up', 0.3);
  carving.setTranslation(-0.72, 0.06, -0.2);
  const glass: Material = {
    name: 'sea glass',
    baseColorFactor: [0.72, 0.95, 0.9, 1],
    metallicFactor: 0,
    roughnessFactor: 0.04,
    transmissionFactor: 1,
    ior: 1.45,
    thicknessFactor: 0.7,
    attenuationColor: [0.35, 0.8, 0.7],
    attenuationDistance: 1.1,
  };
  const float = scene.createNode({
    name: 'float',
    translation: [0.62, -0.83, 0.75],
    mesh: { geometry: sphere({ radius: 0.46 }), material: glass, overlays: [salt] },
  });
  const rope = {
    name: 'rope',
    baseColorFactor: [0.4, 0.3, 0.18, 1],
    metallicFactor: 0,
    roughnessFactor: 0.95,
  } as Material;
  for (const tilt of [0, 1])
    scene.createNode({
      name: 'rope',
      parent: float,
      rotation: tilt === 0 ? [0, 0, 0, 1] : [Math.SQRT1_2, 0, 0, Math.SQRT1_2],
      mesh: { geometry: torus({ radius: 0.468, tubeRadius: 0.016 }), material: rope },
    });
  const wood = createMaterial(paintedGraph, {
    name: 'planks',
    baseColorFactor: [0.2, 0.13, 0.085, 1],
    settings: { shine: 0, bands: 5, glow: [0.05, 0.07, 0.1] },
  });
  for (let i = -5; i <= 5; i++)
    scene.createNode({
      name: `plank ${i + 6}`,
      translation: [i * 0.62 + 0.2, -1.36 + 0.012 * Math.sin(i * 3), 0],
      mesh: { geometry: box({ width: 0.59, height: 0.14, depth: 5 }), material: wood },
    });
  const lantern = scene.createNode({
    name: 'lantern',
    light: { type: 'point', color: [1, 0.5, 0.2], intensity: 9, range: 8 },
  });
  const camera = scene.createNode({
    name: 'camera',
    translation: [0.75, 0.02, 3.7],
    rotation: facing([-0.2, -0.165, -1]),
    camera: { type: 'perspective', yfov: 0.66, znear: 0.05 },
  });
  return {
    camera,
    rig: { target: [0.05, -0.42, 0], distanceRange: [1.4, 9], elevationRange: [-0.2, 1.5] },
    prepare(lens) {
      lens.look.toneMapping = 'aces';
      lens.look.exposure = -0.3;
    },
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
  const materials = new Set(
    [...scene.meshes.values()].flatMap(({ primitives }) =>
      primitives.flatMap(({ material, overlays = [] }) => [...(material ? [material] : []), ...overlays]),
    ),
  );
  for (const name of ['painted', 'salt']) {
    const material = [...materials].find((one) => one.name === name);
    if (!material?.shader) continue;
    for (const { default: value, name: setting, range } of material.shader.settings) {
      if (!range || typeof value !== 'number') continue;
      const [low, high] = range;
      controls.range(`${name}: ${setting}`, low, high, value, (now) => {
        material.settings = { ...material.settings, [setting]: now };
      });
    }
  }
}
