import {
  box,
  cone,
  cylinder,
  facing,
  type Geometry,
  hashFloat,
  icosphere,
  type Lens,
  type Material,
  plane,
  type Scene,
  type SceneNode,
  transformsChanged,
} from 'umber-lens';
import { addSkyLight } from '../daylight.js';
import type { Example, PlaceModel } from '../example.js';
import { paintMarks } from './marks.js';

/** How many there are, and how many of them ride on belts. */
export const ALL = 100_000;
const BELTS = 40;
const ON_BELT = 250;
const MOVING = BELTS * ON_BELT;
/** Metres from one to the next, and how many stand side by side. */
const STEP = 1.25;
const ROW = 300;

/** Everything that can be switched, to see what it brings. */
export interface Yard {
  /** Whether materials that differ in numbers alone are one draw. */
  merged: boolean;
  /** Whether what rides is moved in one piece, and not node by node. */
  inBulk: boolean;
  /** Whether belts run. */
  runs: boolean;
  /** Changes a material's wish to be drawn apart. */
  apply(): void;
  /** Brings it to a time, in seconds. */
  move(time: number): void;
}

export let yard: Yard | undefined;

/** A hundred thousand crates, casks and floats on the quay, of twenty paints and five shapes; a tenth rides on belts. */
export function createCrateYard(scene: Scene, _placeModel?: PlaceModel, all = ALL): Example {
  scene.clearColor = [0.42, 0.55, 0.62, 1];
  addSkyLight(scene, [0.5, 0.56, 0.62], [0.3, 0.26, 0.22]);
  scene.createNode({
    name: 'sun',
    rotation: facing([-0.6, -1, -0.35]),
    light: { type: 'directional', intensity: 2.6 },
  });
  const quay = scene.createNode({
    name: 'quay',
    translation: [0, 0, 0],
    mesh: {
      geometry: plane({ width: 900, depth: 900 }),
      material: {
        name: 'quay stone',
        baseColorFactor: [0.2, 0.19, 0.17, 1],
        metallicFactor: 0,
        roughnessFactor: 0.9,
      },
    },
  });
  paintMarks(scene, quay);
  const shapes = shapesOfYard();
  const paints = Array.from({ length: 20 }, (_, i) => paint(i));
  const moving = Math.min(MOVING, Math.floor(all / 10));
  const nodes: SceneNode[] = [];
  for (let i = 0; i < all; i++) {
    const chance = (k: number): number => hashFloat(i, k, 0, 6);
    const geometry = shapes[Math.floor(chance(0) * 5)]!; // five, and twenty
    const material = paints[Math.floor(chance(1) * 20)]!;
    const turn = (chance(2) - 0.5) * 0.3;
    const options = {
      rotation: [0, Math.sin(turn / 2), 0, Math.cos(turn / 2)] as [number, number, number, number],
      mesh: { geometry, material },
    };
    // Those that ride come first, so that they lie side by side.
    nodes.push(scene.createNode(i < moving ? options : { ...options, translation: standing(i - moving) }));
  }
  const first = nodes[0]!.row;
  yard = {
    merged: true,
    inBulk: true,
    runs: true,
    apply() {
      for (const material of paints) material.batch = this.merged;
    },
    move(time) {
      const { translation } = scene.columns;
      for (let i = 0; i < moving; i++) {
        const [belt, place] = [Math.floor(i / ON_BELT), i % ON_BELT];
        const way = ROW * STEP;
        const x =
          ((((place * STEP * 1.2 + time * (belt % 2 === 0 ? 1 : -1) * (2 + (belt % 3)) + way * 9) % way) +
            way) %
            way) -
          way / 2;
        const y = 0.9;
        const z = (BELTS / 2 - belt) * 7.5 - 4.4;
        if (this.inBulk) {
          const at = (first + i) * 3;
          translation[at] = x;
          translation[at + 1] = y;
          translation[at + 2] = z;
        } else nodes[i]!.setTranslation(x, y, z); // i < moving
      }
      if (this.inBulk) transformsChanged(scene, first, moving);
    },
  };
  yard.move(0);
  const camera = scene.createNode({
    name: 'camera',
    translation: [0, 26, 194],
    rotation: facing([0, -0.34, -1]),
    camera: { type: 'perspective', yfov: 0.75, znear: 0.2 },
  });
  return {
    camera,
    rig: { target: [0, 0, 106], distanceRange: [8, 260], elevationRange: [0.03, 1.57] },
    prepare: (lens: Lens) => {
      lens.look.exposure = -0.1;
    },
    frame(time) {
      if (yard?.runs) yard.move(time);
    },
  };
}

/** Where what does not ride stands: in rows, up to four high, with lanes for the belts. */
function standing(i: number): [number, number, number] {
  const high = 2;
  const [pile, level] = [Math.floor(i / high), i % high];
  const [column, row] = [pile % ROW, Math.floor(pile / ROW)];
  // Five rows of piles between two belts, the nearest first.
  const lane = Math.floor(row / 5);
  const z = (BELTS / 2 - lane) * 7.5 - (row % 5) * STEP + 2;
  return [(column - ROW / 2) * STEP, 0.45 + level * 0.92, z];
}

function shapesOfYard(): Geometry[] {
  return [
    box({ width: 0.9, height: 0.9, depth: 0.9 }),
    cylinder({ topRadius: 0.4, bottomRadius: 0.4, height: 0.9, slices: 10 }),
    box({ width: 1.1, height: 0.7, depth: 0.6 }),
    icosphere({ radius: 0.45, subdivisions: 1 }),
    cone({ radius: 0.45, height: 0.95, slices: 10 }),
  ].map((geometry, i) => ({ ...geometry, name: ['crate', 'cask', 'chest', 'float', 'marker'][i]! })); // five
}

/** Paints of the harbour: rust, teal, ochre, bone and tar, each in four strengths. */
function paint(i: number): Material {
  const tones = [
    [0.42, 0.13, 0.06],
    [0.05, 0.26, 0.27],
    [0.55, 0.36, 0.08],
    [0.62, 0.56, 0.45],
    [0.06, 0.06, 0.07],
  ];
  const tone = tones[i % 5]!; // five
  const strength = 0.55 + 0.2 * Math.floor(i / 5);
  return {
    name: `paint ${i + 1}`,
    baseColorFactor: [tone[0]! * strength, tone[1]! * strength, tone[2]! * strength, 1], // three each
    metallicFactor: 0,
    roughnessFactor: 0.35 + 0.03 * i,
  };
}
