import { box, facing, type Scene, createMaterial, sphere, torus, tube, axisAngle } from 'umber-lens';
import { addSkyLight } from '../daylight.js';
import type { Example } from '../example.js';
import glass from './glass-float.wgsl';

type Vec3 = [number, number, number];

/** Glass floats on the planks of the quay, with rope around them. */
export function createGlassFloats(scene: Scene): Example {
  scene.clearColor = [0.035, 0.075, 0.1, 1];
  addSkyLight(scene, [0.2, 0.28, 0.34], [0.09, 0.07, 0.05]);
  const ball = sphere({ radius: 0.5, slices: 64, stacks: 40 });
  const material = createMaterial(glass, { name: 'glass' });
  const floats: [Vec3, number, Vec3][] = [
    [[-0.75, 0.5, 0.1], 1, [0.16, 0.62, 0.48]],
    [[0.45, 0.38, 0.55], 0.76, [0.72, 0.42, 0.1]],
    [[0.75, 0.62, -0.75], 1.24, [0.2, 0.42, 0.7]],
    [[-0.35, 0.26, 1.05], 0.52, [0.55, 0.2, 0.3]],
  ];
  const nodes = floats.map(([translation, size, tint], i) =>
    scene.createNode({
      name: `float ${i + 1}`,
      translation,
      scale: [size, size, size],
      settings: { tint },
      mesh: { geometry: ball, material },
    }),
  );
  const rope = {
    name: 'rope',
    baseColorFactor: [0.46, 0.36, 0.22, 1] as [number, number, number, number],
    metallicFactor: 0,
  };
  nodes.slice(0, 3).forEach((parent) =>
    [0, 1, 2].forEach((k) =>
      scene.createNode({
        name: 'rope',
        parent,
        rotation: axisAngle(k === 0 ? [1, 0, 0] : [0.5, 0, k === 1 ? 0.87 : -0.87], k === 0 ? 1.57 : 1.1),
        mesh: {
          geometry: torus({ radius: 0.507, tubeRadius: 0.016, rings: 64, sides: 8 }),
          material: rope,
        },
      }),
    ),
  );
  const plank = box({ width: 0.46, height: 0.1, depth: 6 });
  for (let i = -6; i <= 6; i++) {
    const shade = 0.7 + 0.3 * Math.abs(Math.sin(i * 12.9898));
    scene.createNode({
      name: `plank ${i + 7}`,
      translation: [i * 0.5, -0.05 + 0.008 * Math.sin(i * 3), 0],
      mesh: {
        geometry: plank,
        material: {
          name: `plank ${i + 7}`,
          baseColorFactor: [0.3 * shade, 0.21 * shade, 0.14 * shade, 1],
          metallicFactor: 0,
          roughnessFactor: 0.85,
        },
      },
    });
  }
  scene.createNode({
    name: 'under the planks',
    translation: [0, -0.4, 0],
    mesh: {
      geometry: box({ width: 8, height: 0.1, depth: 8 }),
      material: { name: 'shade', unlit: true, baseColorFactor: [0.012, 0.01, 0.01, 1] },
    },
  });
  const path = Array.from({ length: 40 }, (_, i): Vec3 => {
    const turn = i * 0.55;
    return [
      -1.9 + Math.cos(turn) * (0.55 - i * 0.004),
      0.03 + i * 0.004,
      -0.9 + Math.sin(turn) * (0.55 - i * 0.004),
    ];
  });
  scene.createNode({ name: 'coil', mesh: { geometry: tube({ path, radius: 0.035 }), material: rope } });
  scene.createNode({
    name: 'evening sun',
    rotation: facing([0.9, -0.7, -0.8]),
    light: { type: 'directional', color: [1, 0.75, 0.5], intensity: 3.6 },
  });
  const lantern = scene.createNode({
    name: 'lantern',
    translation: [0, 1.4, 1.6],
    light: { type: 'point', color: [1, 0.62, 0.3], intensity: 3 },
  });
  const camera = scene.createNode({
    name: 'camera',
    translation: [0.1, 1.35, 3.4],
    rotation: facing([-0.03, -0.3, -1]),
    camera: { type: 'perspective', yfov: 0.7, znear: 0.05 },
  });
  return {
    camera,
    rig: { target: [0, 0.42, 0], distanceRange: [1.4, 9], elevationRange: [0.02, 1.57] },
    frame(time) {
      lantern.setTranslation(Math.sin(time * 0.7) * 1.6, 1.4, 1.3 + 0.4 * Math.cos(time * 0.7));
    },
  };
}
