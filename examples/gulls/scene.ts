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
const VISITORS = 24;
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

/** Gulls beat their wings as long as they climb, spread them to land, and walk on the quay. */
const FLIGHT: StatesDefinition = {
  // Metres a second upwards, and metres above the quay.
  parameters: { climb: { type: 'number' }, above: { type: 'number', default: 10 } },
  layers: [
    {
      name: 'body',
      start: 'glide',
      states: {
        glide: { animation: 'glide' },
        flap: { animation: 'flap' },
        land: { animation: 'land', iterations: 1 },
        walk: { animation: 'walk' },
      },
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
        ...['glide', 'flap'].map((from) => ({
          from,
          to: 'land',
          when: [
            { parameter: 'above', below: 0.7 },
            { parameter: 'climb', below: -0.1 },
          ],
          fade: 0.25,
          priority: 1,
        })),
        { from: 'land', to: 'walk', when: [{ parameter: 'above', below: 0.01 }], after: 0.6, fade: 0.3 },
        { from: 'walk', to: 'flap', when: [{ parameter: 'above', above: 0.02 }], fade: 0.15 },
      ],
    },
  ],
};

/** Two hundred gulls on one skeleton: each has a motion of its own, and all are one draw. */
export async function createGulls(scene: Scene, placeModel: PlaceModel): Promise<Example> {
  addDaylight(scene, { sun: SUN, turbidity: 2, sea: 0, reach: 22, cascades: 2 });
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
  const gulls = Array.from({ length: GULLS + VISITORS }, (_, i) =>
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
  const visitors = gulls.slice(GULLS).map((node, i): Visitor => {
    const machine = new StateMachine(new Motion(node, { animations }), FLIGHT);
    return { node, machine, phase: ((i * 0.618) % 1) * ROUND, number: i };
  });
  let last = 0;
  return {
    camera: scene.createNode({
      name: 'camera',
      translation: [2.6, 1.9, 8.2],
      rotation: facing([-0.3, 0.08, -1]),
      camera: { type: 'perspective', yfov: 0.85, znear: 0.1 },
    }),
    rig: { target: [0, 2.6, 0], distanceRange: [2, 30], elevationRange: [-0.25, 1.57] },
    prepare(lens) {
      lens.look.toneMapping = 'aces';
      lens.look.exposure = -0.7;
    },
    frame(time) {
      const delta = Math.max(0, time - last);
      last = time;
      counts.clear();
      for (const flier of fliers) fly(flier, time, delta);
      for (const visitor of visitors) visit(visitor, time, delta);
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
  act(machine, delta);
}

function act(machine: StateMachine, delta: number): void {
  machine.update(delta);
  const [body] = machine.inspect();
  if (body) counts.set(body.state, (counts.get(body.state) ?? 0) + 1);
}

/** One that comes down to the quay, walks there, and leaves again. */
interface Visitor {
  node: SceneNode;
  machine: StateMachine;
  /** Seconds of its round that are over at the beginning. */
  phase: number;
  number: number;
}

/** Seconds: a circle in the air, the way down, a walk, and the way up. */
const [CIRCLE, DOWN, WALK, UP] = [9, 3, 9, 3];
const ROUND = CIRCLE + DOWN + WALK + UP;
const STANDING = 1.05;

function visit({ node, machine, phase, number }: Visitor, time: number, delta: number): void {
  const [from, to] = [placeInRound(number, time + phase - 0.02), placeInRound(number, time + phase)];
  const [vx, vy, vz] = to.map((v, k) => (v - from[k]!) / 0.02) as Vec3;
  node.setTranslation(...to);
  const turn = Math.atan2(-vx, -vz) / 2;
  node.setRotation(0, Math.sin(turn), 0, Math.cos(turn));
  machine.set('climb', vy);
  machine.set('above', to[1] - STANDING);
  act(machine, delta);
}

/** Where a visitor is at a time of its round. */
function placeInRound(number: number, seconds: number): Vec3 {
  const t = ((seconds % ROUND) + ROUND) % ROUND;
  const own = (k: number): number => ((number + 1) * k) % 1;
  const radius = 3.5 + 3 * own(0.7548);
  const start = own(0.5698) * Math.PI * 2;
  const speed = (Math.PI * 2) / CIRCLE;
  const high = 2.6 + own(0.31);
  const circle = (s: number): Vec3 => {
    const angle = start + s * speed;
    return [radius * Math.cos(angle), high + 0.3 * Math.sin(s * 2), radius * Math.sin(angle)];
  };
  const circling: Vec3 = [-radius * speed * Math.sin(start), 0, radius * speed * Math.cos(start)];
  const side = own(0.618) < 0.5 ? 1 : -1;
  const pace: Vec3 = [side * 0.28, 0, 0];
  const down: Vec3 = [side * (-3.6 + 2 * own(0.41)), STANDING, 1.3 + 1.8 * own(0.618034)];
  const off = down.map((v, k) => v + pace[k]! * WALK) as Vec3;
  if (t < CIRCLE) return circle(t);
  if (t < CIRCLE + DOWN) return curve(circle(CIRCLE), circling, down, pace, (t - CIRCLE) / DOWN, DOWN);
  if (t < CIRCLE + DOWN + WALK) return down.map((v, k) => v + pace[k]! * (t - CIRCLE - DOWN)) as Vec3;
  const s = (t - CIRCLE - DOWN - WALK) / UP;
  return curve(off, [side * 1.5, 1.2, 0], circle(0), circling, s, UP);
}

/** Hermite's cubic between two places with the speeds there. */
function curve(a: Vec3, va: Vec3, b: Vec3, vb: Vec3, s: number, seconds: number): Vec3 {
  const [h0, h1] = [(1 + 2 * s) * (1 - s) ** 2, s * s * (3 - 2 * s)];
  const [g0, g1] = [s * (1 - s) ** 2 * seconds, s * s * (s - 1) * seconds];
  return a.map((v, k) => v * h0 + va[k]! * g0 + b[k]! * h1 + vb[k]! * g1) as Vec3;
}

export function gullControls(lens: Lens, _scene: Scene, controls: Controls): void {
  controls.choice('wings', ['as they climb', 'flap', 'glide'] as const, wings, (choice) => (wings = choice));
  const line = controls.text('states');
  setInterval(() => {
    line.textContent = [...counts].map(([state, count]) => `${count} ${state}`).join(', ');
  }, 500);
  controls.range('exposure', -5, 2, lens.look.exposure ?? 0, (stops) => (lens.look.exposure = stops));
}
