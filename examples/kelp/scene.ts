import {
  clumpAt,
  facing,
  geometryFrom,
  type Geometry,
  hashFloat,
  type Lens,
  plane,
  type Scene,
  scatterOnGrid,
  createMaterial,
  Swarm,
} from 'umber-lens';
import { addSkyLight } from '../daylight.js';
import type { Controls } from '../controls.js';
import type { Example, PlaceModel } from '../example.js';
import { blade, fishShape } from './shapes.js';
import fish from './fish.wgsl';
import ground from './ground.wgsl';
import kelp from './kelp.wgsl';
import motes from './motes.wgsl';
import surface from './surface.wgsl';

/** Metres across of the bed, and how high the sea stands over it. */
const BED = 120;
const SEA = 7;
/** What is far away below it, and above: as in water.wgsl and surface.wgsl. */
const DEEP: [number, number, number, number] = [0.01, 0.1, 0.135, 1];
const SKY: [number, number, number, number] = [0.62, 0.75, 0.78, 1];

const materials = {
  kelp: createMaterial(kelp, { name: 'kelp', doubleSided: true }),
  fish: createMaterial(fish, { name: 'fish' }),
  motes: createMaterial(motes, { name: 'motes', alphaMode: 'blend', doubleSided: true }),
  surface: createMaterial(surface, { name: 'surface', doubleSided: true }),
};
let bed: Swarm | undefined;

/** A million blades of kelp in the swell, with fish, motes and the sea's surface over them. */
export function createKelp(scene: Scene, _placeModel?: PlaceModel, blades = 1_000_000): Example {
  scene.clearColor = DEEP;
  addSkyLight(scene, [0.3, 0.62, 0.66], [0.03, 0.07, 0.05]);
  scene.createNode({
    name: 'sun through the water',
    rotation: facing([0.35, -1, -0.25]),
    light: { type: 'directional', color: [0.85, 0.97, 0.92], intensity: 2.6 },
  });
  scene.createNode({
    name: 'sea floor',
    mesh: { geometry: plane({ width: BED * 3, depth: BED * 3 }), material: createMaterial(ground) },
  });
  bed = kelpBed(blades);
  scene.createNode({ name: 'kelp', mesh: bed });
  const schools: [number, number, number][] = [
    [-3, 3.3, 13],
    [7, 2.7, 4],
    [-12, 4.2, -10],
  ];
  schools.forEach((at, i) =>
    scene.createNode({ name: `school ${i + 1}`, translation: at, mesh: school(140, i) }),
  );
  scene.createNode({ name: 'motes', mesh: moteSwarm(1500) });
  scene.createNode({
    name: 'surface',
    translation: [0, SEA, 0],
    mesh: { geometry: plane({ width: BED * 5, depth: BED * 5 }), material: materials.surface },
  });
  const camera = scene.createNode({
    name: 'camera',
    translation: [0, 1.7, 24],
    rotation: facing([0, 0.17, -1]),
    camera: { type: 'perspective', yfov: 1.05, znear: 0.05 },
  });
  const place = [0, 0, 0];
  return {
    camera,
    rig: { target: [0, 3.74, 12], distanceRange: [2, 70], elevationRange: [-0.4, 1.57] },
    frame() {
      // Over the water there is sky, below it the deep.
      scene.clearColor = camera.readWorldPosition(place)[1]! > SEA ? SKY : DEEP; // three numbers
    },
  };
}

function kelpBed(blades: number): Swarm {
  const { count, translations } = scatterOnGrid({
    width: BED,
    depth: BED,
    spacing: BED / Math.sqrt(blades),
    seed: 3,
  });
  const rotations = new Float32Array(count * 4);
  const scales = new Float32Array(count);
  const [lean, clump, phase, age] = [0, 1, 2, 3].map(() => new Float32Array(count)) as [
    Float32Array,
    Float32Array,
    Float32Array,
    Float32Array,
  ];
  for (let i = 0; i < count; i++) {
    const [x, z] = [translations[i * 3]!, translations[i * 3 + 2]!];
    const chance = (k: number): number => hashFloat(i, k, 0, 5);
    const { chance: of, distance, x: cx, z: cz } = clumpAt(x, z, { size: 1.6, seed: 2 });
    // Out of the clump's middle, some more and some less.
    const away = Math.atan2(x - cx, z - cz) + (chance(0) - 0.5) * 2.4;
    rotations[i * 4 + 1] = Math.sin(away / 2);
    rotations[i * 4 + 3] = Math.cos(away / 2);
    scales[i] = 0.75 + 0.6 * of[0] + 0.35 * chance(1) - 0.25 * distance;
    lean[i] = 0.4 + 1.2 * chance(2);
    clump[i] = of[1];
    phase[i] = of[2] * 6.2 + chance(3);
    age[i] = 0.7 * of[1] + 0.3 * chance(4);
  }
  return new Swarm({
    name: 'kelp',
    material: materials.kelp,
    levels: [
      { geometry: blade(6), minPixels: 150 },
      { geometry: blade(3), minPixels: 42 },
      { geometry: blade(1) },
    ],
    transforms: { translations, rotations, scales },
    settings: { lean, clump, phase, age },
    density: { minPixels: 64, minShare: 0.03, grow: 0.6 },
    boundsMargin: 0.6,
  });
}

function school(count: number, seed: number): Swarm {
  const chances = (k: number): Float32Array =>
    Float32Array.from({ length: count }, (_, i) => hashFloat(i, k, seed, 9));
  const translations = new Float32Array(count * 3);
  const [up, size, angle, radius] = [0, 1, 2, 3].map(chances) as [
    Float32Array,
    Float32Array,
    Float32Array,
    Float32Array,
  ];
  for (let i = 0; i < count; i++) translations[i * 3 + 1] = (up[i]! - 0.5) * 2.4;
  return new Swarm({
    name: 'fish',
    geometry: fishShape(),
    material: materials.fish,
    transforms: { translations, scales: size.map((s) => 0.22 + 0.16 * s) },
    settings: {
      radius: radius.map((r) => 7 + 9 * r),
      angle: angle.map((a, i) => a * 1.9 + seed * 2 + (i % 3) * 0.3),
    },
    boundsMargin: 17,
  });
}

function moteSwarm(count: number): Swarm {
  const translations = new Float32Array(count * 3);
  for (let i = 0; i < count; i++) {
    translations[i * 3] = (hashFloat(i, 0, 0, 21) - 0.5) * 40;
    translations[i * 3 + 1] = 0.4 + hashFloat(i, 1, 0, 21) * 5.8;
    translations[i * 3 + 2] = (hashFloat(i, 2, 0, 21) - 0.5) * 60;
  }
  const quad: Geometry = geometryFrom(
    {
      position: [-1, -1, 0, 1, -1, 0, 1, 1, 0, -1, 1, 0],
      normal: [0, 0, 1, 0, 0, 1, 0, 0, 1, 0, 0, 1],
      texcoord0: [0, 1, 1, 1, 1, 0, 0, 0],
    },
    [0, 1, 2, 0, 2, 3],
    { name: 'mote' },
  );
  return new Swarm({
    name: 'motes',
    geometry: quad,
    material: materials.motes,
    transforms: {
      translations,
      scales: Float32Array.from({ length: count }, (_, i) => 0.008 + 0.014 * hashFloat(i, 3)),
    },
    settings: { phase: Float32Array.from({ length: count }, (_, i) => hashFloat(i, 4) * 6.28) },
    boundsMargin: 90,
  });
}

export function kelpControls(lens: Lens, _scene: Scene, controls: Controls): void {
  const { kelp: k, fish: f, motes: m, surface: s } = materials;
  const of = (name: keyof typeof k.settings & string, label: string, least: number, most: number): void =>
    controls.range(label, least, most, k.settings[name] as number, (value) => {
      (k.settings as Record<string, unknown>)[name] = value;
    });
  of('curve', 'bend', 0, 1.2);
  of('clumps', 'clumps', 0, 1);
  of('swell', 'swell', 0, 1.5);
  of('pace', 'wave speed', 0, 3);
  of('reach', 'wavelength, m', 4, 40);
  of('turn', 'wave direction', 0, 3.2);
  of('round', 'roundness', 0, 1.2);
  of('widen', 'edge width', 0, 1);
  of('root', 'root darkness', 0, 1);
  controls.range('density', 0.02, 1, 1, (value) => {
    if (bed) bed.share = value;
  });
  controls.range('detail', 0.25, 2, 1, (value) => {
    if (bed) bed.detail = value;
  });
  controls.range('fish, m/s', 0, 3, f.settings.speed, (value) => (f.settings.speed = value));
  controls.range('mote drift', 0, 2, m.settings.drift, (value) => (m.settings.drift = value));
  controls.range('surface waves', 0, 1.5, s.settings.waves, (value) => (s.settings.waves = value));
  const line = controls.text('blades');
  const all = bed?.count ?? 0;
  setInterval(() => {
    const { milliseconds, triangles } = lens.ledger;
    const shown = Math.round(all * (bed?.share ?? 1));
    line.textContent = `${shown.toLocaleString('en')}: ${triangles.toLocaleString('en')} triangles, ${milliseconds.toFixed(2)} ms of script`;
  }, 500);
}
