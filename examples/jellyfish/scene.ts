import {
  box,
  facing,
  geometryFrom,
  type Geometry,
  icosphere,
  plane,
  type Scene,
  createMaterial,
  axisAngle,
} from 'umber-lens';
import { addSkyLight } from '../daylight.js';
import type { Example } from '../example.js';
import jelly from './jellyfish.wgsl';
import water from './water.wgsl';

type Vec3 = [number, number, number];

/** Jellyfish among the kelp: marched shapes and triangles in one picture, by one sun. */
export function createJellyfish(scene: Scene): Example {
  scene.clearColor = [0.012, 0.07, 0.115, 1];
  addSkyLight(scene, [0.1, 0.32, 0.42], [0.02, 0.05, 0.06]);
  const material = createMaterial(jelly, { name: 'jellyfish' });
  const around = box({ width: 1.2, height: 1.65, depth: 1.2 });
  const swarm: [Vec3, number, number, Vec3][] = [
    [[0, 1.5, 0], 1, 0, [1, 1, 1]],
    [[-1.35, 1.15, -0.9], 0.7, 2.1, [0.75, 1, 1.1]],
    [[1.4, 1.9, -1.3], 0.85, 4.2, [1.1, 0.9, 0.7]],
    [[0.75, 0.8, 0.95], 0.5, 1.2, [0.9, 0.8, 1.2]],
    [[-0.9, 2.2, -2.4], 0.8, 3.3, [1, 1, 1]],
  ];
  const nodes = swarm.map(([translation, size, phase, tint], i) =>
    scene.createNode({
      name: `jellyfish ${i + 1}`,
      translation,
      rotation: axisAngle([0.4, 0, 1], 0.25 * Math.sin(i * 2.3)),
      scale: [size, size, size],
      settings: { phase, tint },
      mesh: { geometry: around, material },
    }),
  );
  const sand = createMaterial(water, {
    name: 'sand',
    baseColorFactor: [0.42, 0.37, 0.28, 1],
    metallicFactor: 0,
    roughnessFactor: 0.95,
  });
  scene.createNode({
    name: 'sea floor',
    mesh: { geometry: plane({ width: 30, depth: 30 }), material: sand },
  });
  const rock = {
    ...sand,
    name: 'rock',
    baseColorFactor: [0.12, 0.13, 0.13, 1] as [number, number, number, number],
  };
  const boulder = icosphere({ radius: 0.5, subdivisions: 2 });
  const kelp = createMaterial(water, {
    name: 'kelp',
    settings: { sway: 0.16 },
    baseColorFactor: [0.1, 0.19, 0.06, 1],
    metallicFactor: 0,
    roughnessFactor: 0.6,
    doubleSided: true,
  });
  const ribbon = kelpRibbon();
  for (let i = 0; i < 26; i++) {
    const angle = i * 2.399963;
    const radius = 0.7 + 0.5 * Math.sqrt(i) * (1 + 0.2 * Math.sin(i * 7.1));
    const at: Vec3 = [Math.cos(angle) * radius, 0, Math.sin(angle) * radius - 0.8];
    const height = 0.8 + 0.5 * Math.abs(Math.sin(i * 4.7));
    scene.createNode({
      name: `kelp ${i + 1}`,
      translation: at,
      rotation: axisAngle([0, 1, 0], i * 1.1),
      scale: [1, height, 1],
      mesh: { geometry: ribbon, material: kelp },
    });
    if (i % 4 !== 1) continue;
    scene.createNode({
      name: `rock ${i + 1}`,
      translation: [at[0] + 0.3, 0.05, at[2] + 0.2],
      rotation: axisAngle([0.3, 1, 0.2], i),
      scale: [0.9, 0.5, 0.7],
      mesh: { geometry: boulder, material: rock },
    });
  }
  scene.createNode({
    name: 'sun through the water',
    rotation: facing([0.35, -1, -0.25]),
    light: { type: 'directional', color: [0.72, 0.95, 1], intensity: 2.6 },
  });
  const camera = scene.createNode({
    name: 'camera',
    translation: [0.2, 1.35, 3.6],
    rotation: facing([-0.05, -0.01, -1]),
    camera: { type: 'perspective', yfov: 0.75, znear: 0.05 },
  });
  return {
    camera,
    rig: { target: [0, 1.3, -0.3], distanceRange: [1.2, 8], elevationRange: [-0.3, 1.57] },
    frame(time) {
      nodes.forEach((node, i) => {
        const [translation, , phase] = swarm[i]!; // one a node
        const rise = 0.1 * Math.sin(time * 1.8 + phase - 0.8) + 0.15 * Math.sin(time * 0.3 + phase);
        node.setTranslation(
          translation[0] + 0.12 * Math.sin(time * 0.4 + phase),
          translation[1] + rise,
          translation[2],
        );
      });
    },
  };
}

/** A leaf two metres tall, waved along its edges. */
function kelpRibbon(): Geometry {
  const rows = 24;
  const position: number[] = [];
  const normal: number[] = [];
  const indices: number[] = [];
  for (let row = 0; row <= rows; row++) {
    const v = row / rows;
    const half = 0.09 * Math.sin(Math.PI * Math.min(1, v * 0.9 + 0.08)) ** 0.6;
    for (const side of [-1, 1]) {
      const wave = 0.035 * Math.sin(v * 19 + (side > 0 ? 1.4 : 0));
      position.push(side * half, v * 2, wave);
      normal.push(-wave * 6 * side, 0.1, 1);
    }
    if (row === rows) continue;
    const at = row * 2;
    indices.push(at, at + 1, at + 3, at, at + 3, at + 2);
  }
  return geometryFrom({ position, normal }, indices, { name: 'kelp ribbon' });
}
