import {
  box,
  cylinder,
  type Effect,
  facing,
  type Material,
  plane,
  type Scene,
  createMaterial,
  skyPanorama,
  sphere,
} from 'umber-lens';
import { addSkyLight } from '../daylight.js';
import type { Example } from '../example.js';
import water from './night-water.wgsl';

type Vec3 = [number, number, number];

const LANTERNS = 600;
const COLORS: Vec3[] = [
  [1, 0.36, 0.09],
  [1, 0.52, 0.17],
  [1, 0.2, 0.1],
  [1, 0.66, 0.28],
];

/** Light spreads around the lanterns, as in an eye that is used to the dark. */
const GLOW: Effect[] = [
  { type: 'bloom', amount: 0.5, spread: 0.8 },
  { type: 'saturate', amount: 1.08 },
];

/** Paper lanterns on strings over the quay and the water; each is a light of its own. */
export function createLanternNight(scene: Scene): Example {
  const sky = skyPanorama({ sunDirection: [-0.3, -0.1, -1], turbidity: 2.2, groundAlbedo: [0, 0, 0] });
  // Dusk as cameras see it that are used to the dark.
  scene.imageLight = { panorama: sky, intensity: 24 };
  scene.backdrop = { panorama: sky };
  addSkyLight(scene, [0.006, 0.009, 0.018], [0.001, 0.001, 0.002]);
  scene.createNode({
    name: 'water',
    mesh: {
      geometry: plane({ width: 240, depth: 240 }),
      material: createMaterial(water, {
        name: 'water',
        baseColorFactor: [0.008, 0.02, 0.03, 1],
        metallicFactor: 0,
        roughnessFactor: 0.2,
      }),
    },
  });
  const wood: Material = {
    name: 'quay wood',
    baseColorFactor: [0.2, 0.13, 0.08, 1],
    metallicFactor: 0,
    roughnessFactor: 0.8,
  };
  const plank = box({ width: 0.42, height: 0.12, depth: 7 });
  for (let i = 0; i < 60; i++)
    scene.createNode({
      name: 'plank',
      translation: [(i - 30) * 0.46, 0.62 + 0.01 * Math.sin(i * 3.1), -3],
      mesh: { geometry: plank, material: wood },
    });
  const pile = cylinder({ topRadius: 0.16, bottomRadius: 0.18, height: 4.4, slices: 20 });
  const poles = [-12, -6, 0, 6, 12].flatMap((x) => [-6.2, 0.3].map((z): Vec3 => [x, 1.6, z]));
  for (const translation of poles)
    scene.createNode({ name: 'pile', translation, mesh: { geometry: pile, material: wood } });
  const boards = { ...wood, name: 'crate boards' };
  const crate = box({ width: 0.9, height: 0.9, depth: 0.9 });
  for (let i = 0; i < 14; i++)
    scene.createNode({
      name: 'crate',
      translation: [((i * 5) % 23) - 11, 1.13 + (i % 4 === 0 ? 0.9 : 0), -4.6 + (i % 3) * 0.5],
      mesh: { geometry: crate, material: boards },
    });
  const paper = COLORS.map((color, i): Material => ({
    name: `paper ${i + 1}`,
    baseColorFactor: [0.12 * color[0], 0.12 * color[1], 0.12 * color[2], 1],
    metallicFactor: 0,
    roughnessFactor: 0.9,
    emissiveFactor: color,
    emissiveStrength: 0.8,
  }));
  // Few faces: each is a few pixels wide even near by, and what is lit by many lights is paid for by the face.
  const body = sphere({ radius: 0.12, slices: 10, stacks: 7 });
  const lanterns = Array.from({ length: LANTERNS }, (_, i) => {
    // Thirty strings from the quay out over the water, each hanging through.
    const string = i % 30;
    const along = (Math.floor(i / 30) + 0.5) / (LANTERNS / 30);
    const x = (string - 14.5) * 0.95 + 1.4 * Math.sin(string * 2.4);
    const home: Vec3 = [x, 3.9 - 2.6 * along * (1 - along) * 2, -6 + along * 19];
    const color = COLORS[(i * 7) % COLORS.length]!; // one of them
    const node = scene.createNode({
      name: 'lantern',
      translation: home,
      scale: [1, 1.2, 1],
      mesh: { geometry: body, material: paper[(i * 7) % COLORS.length]! }, // as many
      light: { type: 'point', color, intensity: 0.85, range: 6 },
    });
    return { node, home, phase: i * 1.7 };
  });
  const camera = scene.createNode({
    name: 'camera',
    translation: [-9.5, 3.4, 18],
    rotation: facing([0.44, -0.13, -1]),
    camera: { type: 'perspective', yfov: 0.85, znear: 0.1 },
  });
  return {
    camera,
    rig: { target: [0, 1.4, 0], elevationRange: [0.03, 1.57], distanceRange: [3, 40] },
    prepare(lens) {
      lens.look.toneMapping = 'aces';
      lens.look.exposure = 0.75;
      lens.view.finish = GLOW;
    },
    frame(time) {
      for (const { node, home, phase } of lanterns)
        node.setTranslation(
          home[0] + 0.04 * Math.sin(time * 1.1 + phase),
          home[1],
          home[2] + 0.03 * Math.sin(time + phase * 2),
        );
    },
  };
}
