import {
  box,
  facing,
  geometryFrom,
  type Lens,
  pointerEvents,
  type Scene,
  type SceneNode,
  setWorldTransforms,
} from 'umber-lens';
import type { Controls } from '../controls.js';
import { addDaylight } from '../daylight.js';
import type { Example, PlaceModel } from '../example.js';
import { NET, Pour, QUAY } from './pour.js';

type Vec3 = [number, number, number];

const CRATES = 240;
const SUN: Vec3 = [-0.5, 0.55, 0.669];

let pour: Pour | undefined;

/** Crates poured on the quay by a physics package, which gives all transforms at once: one draw of all. */
export async function createCratePour(scene: Scene, placeModel: PlaceModel): Promise<Example> {
  addDaylight(scene, { sun: SUN, turbidity: 2, sea: 0, reach: 24 });
  const [width, height, depth] = QUAY.half.map((half) => half * 2) as Vec3;
  scene.createNode({
    name: 'quay',
    translation: [...QUAY.middle],
    mesh: {
      geometry: box({ width, height, depth }),
      material: {
        name: 'quay stone',
        baseColorFactor: [0.33, 0.31, 0.28, 1],
        metallicFactor: 0,
        roughnessFactor: 0.9,
      },
    },
  });
  scene.createNode({ name: 'net', translation: [0, NET, 0], mesh: net() });
  const falling = (pour = await Pour.begin(CRATES));
  const model = await placeModel('crate', scene);
  const { mesh } = [model, ...model.descendants()].find((node) => node.mesh)!; // the model has one
  model.remove();
  const crates = Array.from({ length: CRATES }, (_, i) =>
    scene.createNode({ name: `crate ${i + 1}`, mesh: mesh! }),
  );
  const rows = Uint32Array.from(crates, ({ row }) => row);
  const numbers = new Map<SceneNode, number>(crates.map((node, i) => [node, i]));
  const camera = scene.createNode({
    name: 'camera',
    translation: [4, 4.6, 11],
    rotation: facing([-0.33, -0.2, -0.92]),
    camera: { type: 'perspective', yfov: 0.75, znear: 0.1 },
  });
  let isLive = false;
  return {
    camera,
    rig: { target: [0, 2.2, 0], distanceRange: [3, 30], elevationRange: [-0.2, 1.57] },
    prepare(lens) {
      lens.look.toneMapping = 'aces';
      lens.look.exposure = -0.6;
    },
    frame(time) {
      falling.advance(time, isLive);
      setWorldTransforms(scene, rows, falling.transforms);
    },
    listen(canvas) {
      isLive = true;
      const pointers = pointerEvents(camera, canvas);
      for (const crate of crates) pointers.cursor(crate, 'pointer');
      // A crate that is clicked is kicked, away from where one looks.
      pointers.on(scene.root, 'click', ({ target, hit }) => {
        const number = numbers.get(target);
        if (number === undefined || !hit) return;
        falling.push(number, [-hit.normal[0] * 4, 3, -hit.normal[2] * 4]);
      });
    },
  };
}

/** Lines of rope a metre apart. */
function net(): NonNullable<SceneNode['mesh']> {
  const position: number[] = [];
  for (let i = -4; i <= 4; i++) {
    const sag = (x: number, z: number): number => -0.12 * (1 - (x * x + z * z) / 32);
    for (let k = -4; k < 4; k++) {
      position.push(i, sag(i, k), k, i, sag(i, k + 1), k + 1);
      position.push(k, sag(k, i), i, k + 1, sag(k + 1, i), i);
    }
  }
  return {
    primitives: [
      {
        geometry: { ...geometryFrom({ position }), mode: 'lines' },
        material: { name: 'net rope', unlit: true, baseColorFactor: [0.2, 0.16, 0.1, 1] },
      },
    ],
  };
}

export function cratePourControls(lens: Lens, _scene: Scene, controls: Controls): void {
  controls.range('gravity', -9.81, 9.81, -9.81, (up) => {
    // Around the middle there is none.
    if (pour) pour.gravity = Math.abs(up) < 0.5 ? 0 : up;
  });
  const line = controls.text('crates');
  setInterval(() => {
    if (pour) line.textContent = `${pour.awake} of ${CRATES} move, ${lens.ledger.draws} draws`;
  }, 500);
  controls.range('exposure', -5, 2, lens.look.exposure ?? 0, (stops) => (lens.look.exposure = stops));
}
