import {
  box,
  facing,
  type Geometry,
  geometryFrom,
  icosphere,
  type Lens,
  noise,
  pointerEvents,
  type Scene,
  type SceneNode,
  axisAngle,
  withSmoothNormals,
} from 'umber-lens';
import type { Controls } from '../controls.js';
import { addDaylight } from '../daylight.js';
import type { Example, PlaceModel } from '../example.js';
import { Crab } from './crab.js';

type Vec3 = [number, number, number];

/** Half the sand's width, metres. */
const REACH = 1.1;
const SUN: Vec3 = [0.5, 0.6, 0.6245];
/** Where it goes as long as nobody says where. */
const ROUNDS: readonly [number, number][] = [
  [0.1, 0.04],
  [0.02, -0.12],
  [-0.16, -0.05],
  [-0.05, 0.1],
];
const STEP = 1 / 60;

let crab: Crab | undefined;

/** A crab on wet sand between pebbles: it walks to where one clicks. */
export async function createShoreCrab(scene: Scene, placeModel: PlaceModel): Promise<Example> {
  addDaylight(scene, { sun: SUN, turbidity: 2, sea: -0.035, reach: 3 });
  const ground = scene.createNode({ name: 'ground' });
  scene.createNode({
    name: 'sand',
    parent: ground,
    mesh: {
      geometry: sand(),
      material: {
        name: 'wet sand',
        baseColorFactor: [0.3, 0.23, 0.15, 1],
        metallicFactor: 0,
        roughnessFactor: 0.62,
      },
    },
  });
  const stone = icosphere({ subdivisions: 3 });
  const shades = [0.12, 0.18, 0.25, 0.36].map((shade, i) => ({
    name: `pebble ${i + 1}`,
    baseColorFactor: [shade, shade * 0.95, shade * (0.85 + 0.08 * i), 1] as [number, number, number, number],
    metallicFactor: 0,
    roughnessFactor: 0.5,
  }));
  for (let i = 0; i < 70; i++) {
    const own = (k: number): number => ((i + 1) * k) % 1;
    const angle = own(0.618034) * Math.PI * 2;
    const far = 0.16 + 0.75 * Math.sqrt(own(0.754878));
    const [x, z] = [far * Math.cos(angle), far * Math.sin(angle)];
    const size = 0.012 + 0.035 * own(0.569841) ** 2;
    scene.createNode({
      name: `pebble ${i + 1}`,
      parent: ground,
      translation: [x, heightOf(x, z), z],
      rotation: axisAngle([0.2, 1, 0.1], own(0.271) * 6),
      scale: [size * (1 + 0.5 * own(0.33)), size * 0.55, size],
      mesh: {
        geometry: stone,
        material: shades[i % shades.length]!, // one of them
      },
    });
  }
  const mark = scene.createNode({
    name: 'mark',
    visible: false,
    mesh: {
      geometry: box({ width: 0.004, height: 0.06, depth: 0.004 }),
      material: { name: 'mark', baseColorFactor: [0.9, 0.25, 0.05, 1], emissiveFactor: [0.4, 0.08, 0] },
    },
  });
  const node = await placeModel('crab', scene);
  const isGround = ({ parent }: SceneNode): boolean => parent === ground;
  const walker = (crab = new Crab(scene, node, isGround));
  const camera = scene.createNode({
    name: 'camera',
    translation: [0.22, 0.27, 0.5],
    rotation: facing([-0.2, -0.27, -0.5]),
    camera: { type: 'perspective', yfov: 0.75, znear: 0.02 },
  });
  let now = 0;
  let isTold = false;
  return {
    camera,
    rig: { target: [0, 0.02, 0], distanceRange: [0.2, 3], elevationRange: [0.08, 1.57] },
    prepare(lens) {
      lens.look.toneMapping = 'aces';
      lens.look.exposure = -0.9;
    },
    frame(time) {
      // In equal steps, so that it walks the same however fast pictures come.
      for (; now + STEP <= time; now += STEP) {
        if (!isTold && walker.wayLeft < 0.03) walker.walkTo(...ROUNDS[Math.floor(now / 4) % ROUNDS.length]!); // one of them
        walker.step(STEP);
      }
      mark.setVisible(isTold && walker.wayLeft > 0.03);
    },
    listen(canvas) {
      const pointers = pointerEvents(camera, canvas);
      pointers.cursor(ground, 'crosshair');
      pointers.on(ground, 'click', ({ hit }) => {
        if (!hit) return;
        isTold = true;
        const [x, y, z] = hit.point;
        walker.walkTo(x, z);
        mark.setTranslation(x, y + 0.03, z);
      });
      // Whoever points at it is threatened.
      pointers.on(node, 'pointerenter', () => walker.threaten(true));
      pointers.on(node, 'pointerleave', () => walker.threaten(false));
    },
  };
}

const heightOf = (x: number, z: number): number =>
  0.035 * noise(x * 1.7, 0.3, z * 1.7, 4) + 0.008 * noise(x * 9, 1.1, z * 9, 5) - 0.02 * (x * x + z * z);

/** Sand with ripples, falling away into the sea. */
function sand(): Geometry {
  const n = 110;
  const position: number[] = [];
  const indices: number[] = [];
  for (let j = 0; j <= n; j++)
    for (let i = 0; i <= n; i++) {
      const [x, z] = [(i / n) * 2 - 1, (j / n) * 2 - 1].map((v) => v * REACH) as [number, number];
      position.push(x, heightOf(x, z) + 0.0022 * Math.sin(z * 70 + 3 * noise(x * 3, 0, z * 3, 9)), z);
      if (i === n || j === n) continue;
      const a = j * (n + 1) + i;
      indices.push(a, a + n + 1, a + n + 2, a, a + n + 2, a + 1);
    }
  return withSmoothNormals(geometryFrom({ position }, indices));
}

export function shoreCrabControls(lens: Lens, _scene: Scene, controls: Controls): void {
  const line = controls.text('crab');
  setInterval(() => {
    if (crab)
      line.textContent = crab.isWalking
        ? `walks, ${Math.round(crab.wayLeft * 100)} cm left`
        : 'waits for a click';
  }, 200);
  controls.range('exposure', -5, 2, lens.look.exposure ?? 0, (stops) => (lens.look.exposure = stops));
}
