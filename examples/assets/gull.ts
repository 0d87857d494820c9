import {
  type Animation,
  type AnimationChannel,
  type AssetNode,
  type Geometry,
  multiplyRotations,
  axisAngle,
  type WritableAsset,
} from '@umber-lens/core/engine';
import { type Hold, type Joint, jointed, JointedShape, type Place, tube } from './jointed-shape.js';

type Vec3 = [number, number, number];

/** Joints with their places at rest: a gull of one metre across, beak towards -Z. */
const JOINTS: Joint[] = [
  ['body', undefined, [0, 0, 0]],
  ['neck', 'body', [0, 0.03, -0.14]],
  ['head', 'neck', [0, 0.07, -0.22]],
  ['tail', 'body', [0, 0.01, 0.18]],
  ...(['left', 'right'] as const).flatMap((side): Joint[] => {
    const s = side === 'left' ? -1 : 1;
    return [
      [`${side} wing`, 'body', [s * 0.05, 0.04, -0.04]],
      [`${side} hand`, `${side} wing`, [s * 0.26, 0.05, -0.06]],
      [`${side} tip`, `${side} hand`, [s * 0.42, 0.05, -0.01]],
      [`${side} thigh`, 'body', [s * 0.04, -0.06, 0.03]],
      [`${side} foot`, `${side} thigh`, [s * 0.04, -0.13, 0.04]],
    ];
  }),
];
const numberOf = (name: string): number => JOINTS.findIndex(([known]) => known === name);

const WHITE: Vec3 = [0.82, 0.82, 0.8];
const GREY: Vec3 = [0.32, 0.37, 0.43];
const BLACK: Vec3 = [0.02, 0.02, 0.025];
const YELLOW: Vec3 = [0.78, 0.42, 0.04];

/** From one joint to the next along an axis, evenly between two places. */
function between(value: number, steps: readonly [at: number, joint: number][]): [number, number][] {
  for (let i = 0; i + 1 < steps.length; i++) {
    const [from, a] = steps[i]!;
    const [to, b] = steps[i + 1]!;
    if (value > to && i + 2 < steps.length) continue;
    const t = Math.min(1, Math.max(0, (value - from) / (to - from)));
    return [
      [a, 1 - t],
      [b, t],
    ];
  }
  return [[steps[0]![1], 1]];
}

function shape(): Geometry {
  const body = new JointedShape();
  const [trunk, neck, head, tail] = ['body', 'neck', 'head', 'tail'].map(numberOf) as [
    number,
    number,
    number,
    number,
  ];
  const along: Hold = ([, , z]) =>
    between(-z, [
      [-0.24, tail],
      [-0.14, trunk],
      [0.12, trunk],
      [0.18, neck],
      [0.24, head],
    ]);
  body.grid(
    14,
    16,
    tube([
      [0.2, 0.01, 0.001, 0.001],
      [0.19, 0.01, 0.03, 0.02],
      [0.1, 0, 0.065, 0.055],
      [0, -0.005, 0.085, 0.075],
      [-0.1, 0.005, 0.07, 0.068],
      [-0.17, 0.04, 0.042, 0.045],
      [-0.21, 0.062, 0.038, 0.042],
      [-0.25, 0.07, 0.036, 0.038],
      [-0.285, 0.066, 0.02, 0.02],
      [-0.295, 0.062, 0.001, 0.001],
    ]),
    ([x, y, z]) =>
      z > -0.1 && y > 0.02
        ? GREY
        : z < -0.24 && Math.abs(x) > 0.026 && y > 0.075 && y < 0.087
          ? BLACK
          : WHITE,
    along,
  );
  body.grid(
    8,
    3,
    tube([
      [-0.28, 0.062, 0.014, 0.014],
      [-0.31, 0.058, 0.01, 0.011],
      [-0.34, 0.048, 0.006, 0.008],
      [-0.345, 0.042, 0.001, 0.001],
    ]),
    () => YELLOW,
    () => [[head, 1]],
  );
  body.grid(
    6,
    4,
    (u, v) => [(u - 0.5) * (0.06 + 0.13 * v), 0.012 - 0.02 * Math.abs(u - 0.5) * v, 0.15 + 0.14 * v],
    () => WHITE,
    () => [[tail, 1]],
  );
  for (const side of ['left', 'right']) wing(body, side);
  for (const side of ['left', 'right']) leg(body, side);
  return body.geometry();
}

function wing(body: JointedShape, side: string): void {
  const s = side === 'left' ? -1 : 1;
  const [inner, hand, tip] = ['wing', 'hand', 'tip'].map((part) => numberOf(`${side} ${part}`)) as [
    number,
    number,
    number,
  ];
  for (const face of [1, -1]) {
    body.grid(
      12,
      5,
      (u, v) => {
        const x = 0.03 + 0.49 * u;
        // Swept forward to the hand, back to the tip; cambered, and thin at its edges.
        const lead =
          -0.1 - 0.05 * Math.sin(Math.min(1, u * 2) * (Math.PI / 2)) + 0.16 * Math.max(0, u - 0.5) ** 1.3;
        const chord = 0.17 * (1 - u ** 2.2) + 0.015;
        const w = face * s > 0 ? v : 1 - v;
        const camber = 0.022 * Math.sin(w * Math.PI) * (1 - 0.6 * u);
        const thick = face * 0.006 * Math.sin(w * Math.PI) * (1 - u);
        return [s * x, 0.045 + camber + thick, lead + chord * w];
      },
      ([x]) => (Math.abs(x) > 0.43 ? BLACK : face > 0 ? GREY : WHITE),
      ([x]) =>
        between(Math.abs(x), [
          [0.03, numberOf('body')],
          [0.08, inner],
          [0.22, inner],
          [0.3, hand],
          [0.38, hand],
          [0.45, tip],
        ]),
    );
  }
}

function leg(body: JointedShape, side: string): void {
  const s = side === 'left' ? -1 : 1;
  const [thigh, foot] = [numberOf(`${side} thigh`), numberOf(`${side} foot`)];
  const ring =
    (top: number, bottom: number): Place =>
    (u, v) => {
      const angle = u * Math.PI * 2;
      const y = top + (bottom - top) * v;
      return [s * 0.04 + 0.007 * Math.cos(angle), y, 0.03 + 0.01 * v - 0.007 * Math.sin(angle)];
    };
  body.grid(
    6,
    2,
    ring(-0.05, -0.13),
    () => YELLOW,
    () => [[thigh, 1]],
  );
  body.grid(
    6,
    2,
    ring(-0.13, -0.2),
    () => YELLOW,
    ([, y]) =>
      between(-y, [
        [0.125, thigh],
        [0.14, foot],
      ]),
  );
  body.grid(
    4,
    2,
    (u, v) => [s * 0.04 + (u - 0.5) * 0.06 * (0.15 + 0.85 * v), -0.2, 0.045 - 0.07 * v],
    () => YELLOW,
    () => [[foot, 1]],
  );
}

/** A clip of rotations (about X, Y and Z in turn, radians) and heights by the share of its length. */
function clip(
  nodes: ReadonlyMap<string, AssetNode>,
  name: string,
  duration: number,
  turns: Record<string, (t: number) => Vec3>,
  height?: (t: number) => number,
): Animation<AssetNode> {
  const keys = 13;
  const input = Float32Array.from({ length: keys }, (_, i) => (i / (keys - 1)) * duration);
  const shares = Array.from({ length: keys }, (_, i) => i / (keys - 1));
  const channels = Object.entries(turns).map(([joint, turn]): AnimationChannel<AssetNode> => {
    const output = Float32Array.from(shares.flatMap((t) => rotation(turn(t))));
    return {
      target: nodes.get(joint)!, // a joint of the table
      path: 'rotation',
      sampler: { interpolation: 'linear', components: 4, input, output },
    };
  });
  if (height) {
    const output = Float32Array.from(shares.flatMap((t) => [0, height(t), 0]));
    const sampler = { interpolation: 'linear', components: 3, input, output } as const;
    channels.push({ target: nodes.get('body')!, path: 'translation', sampler });
  }
  return { name, duration, channels };
}

function rotation([x, y, z]: Vec3): number[] {
  const out = [0, 0, 0, 1];
  multiplyRotations(out, 0, axisAngle([0, 0, 1], z), 0, axisAngle([0, 1, 0], y), 0);
  multiplyRotations(out, 0, out, 0, axisAngle([1, 0, 0], x), 0);
  return out;
}

/** Both wings alike: `turn` is that of the right one. */
function wings(
  turn: Record<'wing' | 'hand' | 'tip', (t: number) => Vec3>,
): Record<string, (t: number) => Vec3> {
  return Object.fromEntries(
    Object.entries(turn).flatMap(([part, of]) => [
      [`right ${part}`, of],
      [
        `left ${part}`,
        (t: number): Vec3 => {
          const [x, y, z] = of(t);
          return [x, -y, -z];
        },
      ],
    ]),
  );
}

/** A gull with a skeleton of fourteen joints, and clips: glide, flap, walk, land. */
export function gull(): WritableAsset {
  const { joints, nodes, skin, skinned } = jointed('gull', JOINTS, 'feathers', shape(), {
    metallicFactor: 0,
    roughnessFactor: 0.75,
    doubleSided: true,
  });
  const wave = (t: number, late = 0): number => Math.sin((t - late) * Math.PI * 2);
  const tucked = (): Record<string, (t: number) => Vec3> => ({
    'left thigh': () => [1.2, 0, 0],
    'right thigh': () => [1.2, 0, 0],
    'left foot': () => [0.3, 0, 0],
    'right foot': () => [0.3, 0, 0],
  });
  // Laid back along the body, the feathers over the back.
  const folded = wings({
    wing: () => [-0.55, -1.6, -0.12],
    hand: () => [0, -0.06, 0.06],
    tip: () => [0, 0, 0.05],
  });
  const step = (t: number): number => 0.55 * wave(t);
  const animations = [
    clip(
      nodes,
      'glide',
      3,
      {
        ...tucked(),
        ...wings({
          wing: (t) => [0, 0, 0.14 + 0.03 * wave(t)],
          hand: (t) => [0, 0, -0.1 + 0.02 * wave(t, 0.2)],
          tip: (t) => [0, 0, -0.06 + 0.03 * wave(t, 0.3)],
        }),
        neck: (t) => [0.04 * wave(t, 0.1), 0.06 * wave(t), 0],
        tail: (t) => [0.05 * wave(t, 0.4), 0, 0.05 * wave(t)],
      },
      (t) => 0.02 * wave(t),
    ),
    clip(
      nodes,
      'flap',
      0.55,
      {
        ...tucked(),
        ...wings({
          wing: (t) => [0.12 * wave(t, 0.25), 0, 0.12 + 0.62 * wave(t)],
          hand: (t) => [0, -0.1 - 0.1 * wave(t, 0.35), -0.2 + 0.45 * wave(t, 0.16)],
          tip: (t) => [0, 0, 0.4 * wave(t, 0.28)],
        }),
        tail: (t) => [0.08 * wave(t, 0.5), 0, 0],
      },
      (t) => -0.035 * wave(t, 0.12),
    ),
    clip(
      nodes,
      'walk',
      0.8,
      {
        ...folded,
        'left thigh': (t) => [step(t), 0, 0],
        'right thigh': (t) => [step(t + 0.5), 0, 0],
        'left foot': (t) => [Math.max(0, -1.1 * wave(t, 0.15)), 0, 0],
        'right foot': (t) => [Math.max(0, -1.1 * wave(t, 0.65)), 0, 0],
        neck: (t) => [0.3 + 0.12 * wave(2 * t), 0, 0],
        head: (t) => [-0.3 - 0.12 * wave(2 * t), 0, 0],
        body: (t) => [0.12, 0, 0.06 * wave(t)],
      },
      (t) => 0.008 * wave(2 * t, 0.2),
    ),
    clip(nodes, 'land', 0.9, {
      ...wings({
        wing: (t) => [-0.5 * (1 - t), 0, 0.75 - 0.35 * t + 0.3 * wave(2 * t)],
        hand: (t) => [0, 0, 0.25 + 0.3 * wave(2 * t, 0.15)],
        tip: (t) => [0, 0, 0.2 * wave(2 * t, 0.3)],
      }),
      body: (t) => [0.75 * (1 - t), 0, 0],
      tail: (t) => [-0.5 * (1 - t), 0, 0],
      'left thigh': (t) => [-0.5 * (1 - t), 0, 0],
      'right thigh': (t) => [-0.5 * (1 - t), 0, 0],
      head: (t) => [-0.6 * (1 - t), 0, 0],
    }),
  ];
  return {
    generator: 'Umber Lens demo assets',
    nodes: [nodes.get('body')!, skinned, ...joints.slice(1)],
    skins: [skin],
    animations,
  };
}
