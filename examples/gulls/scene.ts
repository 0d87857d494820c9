import {
  box,
  facing,
  type Lens,
  Motion,
  type Scene,
  type SceneNode,
  StateMachine,
  type StatesDefinition,
} from 'umber-lens';
import type { Controls } from '../controls.js';
import { addDaylight } from '../daylight.js';
import type { Example, PlaceModel } from '../example.js';

type Vec3 = [number, number, number];

const GULLS = 200;
const WALKERS = 14;
/** Towards the sun: of length 1, behind the viewer's left shoulder. */
const SUN: Vec3 = [-0.55, 0.45, 0.7036];

interface Flier {
  node: SceneNode;
  machine: StateMachine;
  radius: number;
  height: number;
  speed: number;
  phase: number;
}

/** Whether all beat their wings, none does, or those that climb. */
type Wings = 'as they climb' | 'flap' | 'glide';
let wings: Wings = 'as they climb';
/** How many are in which state. */
const counts = new Map<string, number>();

/** Gulls beat their wings as long as they climb. */
const FLIGHT: StatesDefinition = {
  parameters: { climb: { type: 'number' } },
  layers: [
    {
      name: 'body',
      start: 'glide',
      states: { glide: { clip: 'glide' }, flap: { clip: 'flap' } },
      transitions: [
        {
          from: 'glide',
          to: 'flap',
          when: [{ parameter: 'climb', above: 0.25 }],
          fade: 0.4,
          interruptible: true,
        },
        {
          from: 'flap',
          to: 'glide',
          when: [{ parameter: 'climb', below: -0.1 }],
          fade: 0.6,
          interruptible: true,
        },
      ],
    },
  ],
};

/** Two hundred gulls on one skeleton: each has a motion of its own, and all are one draw. */
export async function createGulls(scene: Scene, placeModel: PlaceModel): Promise<Example> {
  addDaylight(scene, { sun: SUN, turbidity: 3, sea: 0, reach: 22 });
  scene.createNode({
    name: 'quay',
    translation: [0, 0.4, 2.2],
    mesh: {
      geometry: box({ width: 12, height: 0.9, depth: 2.6 }),
      material: {
        name: 'quay stone',
        baseColorFactor: [0.33, 0.31, 0.28, 1],
        metallicFactor: 0,
        roughnessFactor: 0.9,
      },
    },
  });
  const first = await placeModel('gull', scene);
  const { animations } = new Motion(first);
  const gulls = Array.from({ length: GULLS + WALKERS }, (_, i) =>
    i === 0 ? first : first.clone({ name: `gull ${i}` }),
  );
  const fliers = gulls.slice(0, GULLS).map((node, i): Flier => {
    const own = (k: number): number => ((i + 1) * k) % 1;
    const machine = new StateMachine(new Motion(node, { animations }), FLIGHT);
    // They do not beat in step.
    for (const playback of machine.motion.playbacks) playback.seek(own(0.618) * 3);
    const speed = (own(0.31) < 0.7 ? 1 : -1) * (0.22 + 0.2 * own(0.57));
    return {
      node,
      machine,
      radius: 2.5 + 8 * Math.sqrt(own(0.6180339)),
      height: 2.2 + 5 * own(0.755),
      speed,
      phase: own(0.56984) * Math.PI * 2,
    };
  });
  const walkers = gulls.slice(GULLS).map((node, i) => {
    const motion = new Motion(node, { animations });
    motion.play('walk', { from: (i * 0.37) % 0.8 });
    return { node, motion, phase: i * 0.9, lane: 1.5 + ((i * 0.618) % 1) * 1.7 };
  });
  let last = 0;
  return {
    eye: scene.createNode({
      name: 'eye',
      translation: [2.6, 1.9, 8.2],
      rotation: facing([-0.3, 0.08, -1]),
      camera: { type: 'perspective', yfov: 0.85, znear: 0.1 },
    }),
    rig: { target: [0, 2.6, 0], minDistance: 2, maxDistance: 30, minElevation: -0.25 },
    prepare(lens) {
      lens.look.toneMapping = 'aces';
      lens.exposureStops = -1.6;
    },
    frame(time) {
      const delta = Math.max(0, time - last);
      last = time;
      counts.clear();
      for (const flier of fliers) fly(flier, time, delta);
      for (const { node, motion, phase, lane } of walkers) {
        // Up and down the quay, turning at its ends.
        const along = (time * 0.28 + phase) % 20;
        const isBack = along > 10;
        node.setTranslation(isBack ? 15 - along : along - 5, 1.05, lane);
        const turn = (isBack ? 1 : -1) * (Math.PI / 4);
        node.setRotation(0, Math.sin(turn), 0, Math.cos(turn));
        motion.update(delta);
      }
    },
  };
}

function fly({ node, machine, radius, height, speed, phase }: Flier, time: number, delta: number): void {
  const angle = phase + time * speed;
  const rise = Math.sin(time * 0.6 + phase * 3);
  node.setTranslation(radius * Math.cos(angle), height + 0.7 * rise, radius * Math.sin(angle) - 1);
  // Along the circle, leaning into it: a turn about Y, then one about the beak's own axis.
  const heading = (speed > 0 ? Math.PI : 0) - angle;
  const lean = (speed > 0 ? -0.5 : 0.5) * (0.4 + Math.abs(speed));
  const [sy, cy, sz, cz] = [
    Math.sin(heading / 2),
    Math.cos(heading / 2),
    Math.sin(lean / 2),
    Math.cos(lean / 2),
  ];
  node.setRotation(sy * sz, sy * cz, cy * sz, cy * cz);
  const climb = Math.cos(time * 0.6 + phase * 3);
  machine.set('climb', wings === 'flap' ? 1 : wings === 'glide' ? -1 : climb);
  machine.update(delta);
  const [body] = machine.inspect();
  if (body) counts.set(body.state, (counts.get(body.state) ?? 0) + 1);
}

export function gullControls(lens: Lens, _scene: Scene, controls: Controls): void {
  controls.choice('wings', ['as they climb', 'flap', 'glide'] as const, wings, (choice) => (wings = choice));
  const line = controls.text('states');
  setInterval(() => {
    line.textContent = [...counts].map(([state, count]) => `${count} ${state}`).join(', ');
  }, 500);
  controls.range('exposure', -5, 2, lens.exposureStops, (stops) => (lens.exposureStops = stops));
}
