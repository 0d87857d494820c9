import {
  attributeFloats,
  attributeFrom,
  asTriangles,
  box,
  facing,
  type Geometry,
  lathe,
  type Scene,
  createMaterial,
  withFlatNormals,
} from 'umber-lens';
import { addSkyLight } from '../daylight.js';
import type { Example } from '../example.js';
import urnShader from './urn.wgsl';

/** A clay jar whose faces fly apart near the pointer. */
export function createUrn(scene: Scene): Example {
  scene.clearColor = [0.16, 0.11, 0.085, 1];
  addSkyLight(scene, [0.34, 0.33, 0.36], [0.16, 0.11, 0.08]);
  const material = createMaterial(urnShader, { name: 'clay', doubleSided: true });
  const { settings } = material;
  scene.createNode({ name: 'urn', mesh: { geometry: withFaces(jar()), material } });
  scene.createNode({
    name: 'quay stone',
    translation: [0, -0.1, 0],
    mesh: {
      geometry: box({ width: 3, height: 0.2, depth: 3 }),
      material: {
        name: 'stone',
        baseColorFactor: [0.2, 0.19, 0.18, 1],
        metallicFactor: 0,
        roughnessFactor: 0.9,
      },
    },
  });
  scene.createNode({
    name: 'low sun',
    rotation: facing([-1, -0.8, -0.7]),
    light: { type: 'directional', color: [1, 0.86, 0.68], intensity: 3.4 },
  });
  scene.createNode({
    name: 'lantern',
    translation: [-1.2, 0.9, 1.1],
    light: { type: 'point', color: [1, 0.6, 0.3], intensity: 1.6 },
  });
  const camera = scene.createNode({
    name: 'camera',
    translation: [0, 0.95, 2.5],
    rotation: facing([0, -0.18, -1]),
    camera: { type: 'perspective', yfov: 0.62, znear: 0.05 },
  });
  let isPointed = false;
  return {
    camera,
    rig: { target: [0, 0.5, 0], distanceRange: [1, 6], elevationRange: [0.02, 1.57] },
    frame(time) {
      // Without a pointer a breeze plays around the jar.
      if (isPointed) return;
      settings.pointer = [
        0.34 * Math.sin(time * 0.5 + 0.9),
        0.62 + 0.2 * Math.sin(time * 0.37),
        0.34 * Math.cos(time * 0.5 + 0.9),
      ];
    },
    point(ray) {
      isPointed = ray !== undefined;
      if (!ray) return;
      // The nearest place on the jar's axis, then out towards the camera.
      const { origin: o, direction: d } = ray;
      const t = -(o[0]! * d[0]! + o[2]! * d[2]!) / (d[0]! * d[0]! + d[2]! * d[2]!);
      settings.pointer = [0, 1, 2].map((k) => o[k]! + d[k]! * (t - 0.3)) as [number, number, number];
    },
  };
}

function jar(): Geometry {
  const outside: [number, number][] = [
    [0, 0],
    [0.17, 0.01],
    [0.2, 0.05],
    [0.3, 0.25],
    [0.355, 0.45],
    [0.34, 0.62],
    [0.24, 0.8],
    [0.16, 0.88],
    [0.15, 0.95],
    [0.21, 1.02],
  ];
  const inside = outside.slice(1).map(([r, y]): [number, number] => [r - 0.025, y + 0.01]);
  return lathe({ profile: [...finer(outside), ...finer(inside.reverse()), [0, 0.03]], slices: 56 });
}

/** More points along an outline, a few centimetres apart, so that faces are about as wide as high. */
function finer(points: [number, number][]): [number, number][] {
  return points.flatMap((to, i): [number, number][] => {
    const from = points[i - 1];
    if (!from) return [to];
    const steps = Math.ceil(Math.hypot(to[0] - from[0], to[1] - from[1]) / 0.045);
    return Array.from({ length: steps }, (_, k): [number, number] => {
      const t = (k + 1) / steps;
      return [from[0] + (to[0] - from[0]) * t, from[1] + (to[1] - from[1]) * t];
    });
  });
}

/** Gives every face its own corners, with its middle, a tint and a number as attributes. */
function withFaces(smooth: Geometry): Geometry {
  const geometry = withFlatNormals(asTriangles(smooth));
  const position = attributeFloats(geometry.attributes['position']!); // every geometry has it
  const vertices = position.length / 3;
  const center = new Float32Array(vertices * 3);
  const tint = new Float32Array(vertices * 3);
  const offset = new Float32Array(vertices);
  for (let face = 0; face < vertices / 3; face++) {
    const own = fraction(face * 0.754877 + 0.13);
    const y = (position[face * 9 + 1]! + position[face * 9 + 4]! + position[face * 9 + 7]!) / 3;
    // Two painted bands around the shoulder.
    const isPainted = (y > 0.56 && y < 0.63) || (y > 0.68 && y < 0.7);
    const band = isPainted ? 0.3 : 1;
    const clay = [0.55 + 0.12 * own, 0.24 + 0.06 * own, 0.12 + 0.03 * own];
    for (let corner = 0; corner < 3; corner++) {
      const at = face * 3 + corner;
      offset[at] = own;
      for (let k = 0; k < 3; k++) {
        tint[at * 3 + k] = clay[k]! * band;
        const sum = [0, 3, 6].reduce((total, c) => total + position[face * 9 + c + k]!, 0);
        center[at * 3 + k] = sum / 3;
      }
    }
  }
  Object.assign(geometry.attributes, {
    center: attributeFrom(center, 3),
    tint: attributeFrom(tint, 3),
    offset: attributeFrom(offset, 1),
  });
  return geometry;
}

const fraction = (x: number): number => x - Math.floor(x);
