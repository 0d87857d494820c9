import {
  type Animation,
  type AnimationChannel,
  type AssetNode,
  type Geometry,
  axisAngle,
  type WritableAsset,
} from '@umber-lens/core/engine';
import { type Joint, jointed, JointedShape, type Place } from './jointed-shape.js';
import { lumps } from './noise.js';

type Vec3 = [number, number, number];

/** Legs of one side, from the front: where they begin, and which way they point, radians from straight aside. */
const LEGS: readonly [z: number, turn: number][] = [
  [-0.022, -0.5],
  [-0.006, -0.12],
  [0.01, 0.25],
  [0.024, 0.62],
];
/** Metres from hip to knee and from knee to tip. */
const THIGH = 0.046;
const SHIN = 0.055;

/** Joints with their places at rest: a shell of nine centimetres across, its face towards -Z. */
const JOINTS: Joint[] = [['shell', undefined, [0, 0, 0]]];
for (const [side, s] of [
  ['left', -1],
  ['right', 1],
] as const) {
  LEGS.forEach(([z, turn], i) => {
    const [out, along] = [Math.cos(turn) * s, Math.sin(turn)];
    const hip: Vec3 = [s * 0.036, -0.004, z];
    const knee: Vec3 = [hip[0] + out * THIGH * 0.85, hip[1] + THIGH * 0.52, hip[2] + along * THIGH * 0.85];
    const tip: Vec3 = [knee[0] + out * SHIN * 0.5, knee[1] - SHIN * 0.866, knee[2] + along * SHIN * 0.5];
    JOINTS.push([`${side} hip ${i + 1}`, 'shell', hip]);
    JOINTS.push([`${side} knee ${i + 1}`, `${side} hip ${i + 1}`, knee]);
    JOINTS.push([`${side} tip ${i + 1}`, `${side} knee ${i + 1}`, tip]);
  });
  JOINTS.push([`${side} arm`, 'shell', [s * 0.03, -0.004, -0.03]]);
  JOINTS.push([`${side} wrist`, `${side} arm`, [s * 0.052, -0.002, -0.052]]);
  JOINTS.push([`${side} finger`, `${side} wrist`, [s * 0.04, 0.004, -0.076]]);
  JOINTS.push([`${side} eye`, 'shell', [s * 0.012, 0.012, -0.033]]);
}
const numberOf = (name: string): number => JOINTS.findIndex(([known]) => known === name);
const placeOf = (name: string): Vec3 => JOINTS[numberOf(name)]![2]; // a joint of the table

const GREEN: Vec3 = [0.075, 0.11, 0.05];
const DARK: Vec3 = [0.03, 0.045, 0.022];
const PALE: Vec3 = [0.42, 0.36, 0.2];
const ORANGE: Vec3 = [0.5, 0.2, 0.06];
const BLACK: Vec3 = [0.008, 0.008, 0.01];
const mix = (a: Vec3, b: Vec3, t: number): Vec3 => a.map((v, k) => v + (b[k]! - v) * t) as Vec3;

/** A limb between two places: a tube that is thickest near its beginning. */
function limb(from: Vec3, to: Vec3, thick: number, thin: number, flat = 1): Place {
  const way = to.map((v, k) => v - from[k]!) as Vec3;
  const length = Math.hypot(...way);
  const along = way.map((v) => v / length) as Vec3;
  // Across it, level, and upwards of both.
  const across: Vec3 = [along[2], 0, -along[0]];
  const n = Math.hypot(...across) || 1;
  const [ax, , az] = across.map((v) => v / n) as Vec3;
  const up: Vec3 = [along[1] * az, along[2] * ax - along[0] * az, -along[1] * ax];
  return (u, v) => {
    const angle = u * Math.PI * 2;
    const round = Math.min(1, Math.min(v, 1 - v) * 9) ** 0.5;
    const r = (thick + (thin - thick) * v) * round * (1 + 0.18 * Math.sin(Math.min(1, v * 1.6) * Math.PI));
    const [c, s] = [Math.cos(angle) * r * flat, Math.sin(angle) * r];
    return [
      from[0] + way[0] * v + ax * c + up[0] * s,
      from[1] + way[1] * v + up[1] * s,
      from[2] + way[2] * v + az * c + up[2] * s,
    ];
  };
}

/** The carapace: broader before than behind, toothed at its front edge, bumpy on top. */
const carapace: Place = (u, v) => {
  const angle = u * Math.PI * 2;
  const down = v * Math.PI;
  const [sin, cos] = [Math.sin(angle), Math.cos(angle)];
  const rim = Math.sin(down) ** 0.7;
  const front = Math.max(0, -cos);
  const teeth = 1 + 0.045 * front * Math.max(0, Math.sin(angle * 11)) * rim ** 6;
  const x = 0.047 * sin * rim * teeth * (1 - 0.16 * Math.max(0, cos));
  const z = 0.036 * cos * rim * teeth + 0.002;
  const dome = Math.cos(down) > 0 ? 0.02 : 0.013;
  const bumps = Math.cos(down) > 0 ? 0.003 * lumps(x * 110, 0, z * 110, 8) : 0;
  return [x, 0.002 + dome * Math.cos(down) ** 3 * 0.4 + dome * Math.cos(down) * 0.6 + bumps * rim, z];
};

function shape(): Geometry {
  const body = new JointedShape();
  const shell = numberOf('shell');
  body.grid(
    44,
    20,
    carapace,
    ([x, y, z]) =>
      y < -0.002
        ? PALE
        : mix(GREEN, DARK, 0.5 + 0.5 * Math.sin(x * 130) * Math.sin(z * 170 + Math.abs(x) * 60)),
    () => [[shell, 1]],
  );
  for (const side of ['left', 'right']) {
    for (let i = 1; i <= LEGS.length; i++) {
      const [hip, knee, tip] = [`${side} hip ${i}`, `${side} knee ${i}`, `${side} tip ${i}`];
      const banded = ([x, , z]: Vec3): Vec3 =>
        mix(GREEN, PALE, 0.35 + 0.35 * Math.sin((Math.abs(x) + z) * 420));
      body.grid(8, 8, limb(placeOf(hip), placeOf(knee), 0.0062, 0.0048), banded, () => [[numberOf(hip), 1]]);
      body.grid(
        8,
        9,
        limb(placeOf(knee), placeOf(tip), 0.0046, 0.0006),
        ([, y]) => mix(ORANGE, GREEN, Math.min(1, Math.max(0, (y + 0.026) / 0.03))),
        () => [[numberOf(knee), 1]],
      );
    }
    claw(body, side);
    const eye = `${side} eye`;
    const [x, y, z] = placeOf(eye);
    body.grid(
      8,
      6,
      limb([x, y - 0.005, z + 0.003], [x, y + 0.007, z - 0.001], 0.0022, 0.003),
      ([, at]) => (at > y + 0.002 ? BLACK : GREEN),
      () => [[numberOf(eye), 1]],
    );
  }
  return body.geometry();
}

function claw(body: JointedShape, side: string): void {
  const s = side === 'left' ? -1 : 1;
  const [arm, wrist, finger] = [`${side} arm`, `${side} wrist`, `${side} finger`];
  const [from, elbow, hinge] = [placeOf(arm), placeOf(wrist), placeOf(finger)];
  body.grid(
    10,
    8,
    limb(from, elbow, 0.0075, 0.0085),
    () => GREEN,
    () => [[numberOf(arm), 1]],
  );
  const hand: Vec3 = [hinge[0] + s * 0.004, hinge[1] - 0.003, hinge[2] + 0.002];
  const tint = ([, y]: Vec3): Vec3 => mix(PALE, ORANGE, y > 0 ? 0.75 : 0.25);
  body.grid(12, 10, limb(elbow, hand, 0.0105, 0.0125, 0.75), tint, () => [[numberOf(wrist), 1]]);
  const point = (x: number, y: number): Vec3 => [hinge[0] - s * x, hinge[1] + y, hinge[2] - 0.027];
  body.grid(9, 8, limb(hand, point(0.012, -0.008), 0.0068, 0.0012), tint, () => [[numberOf(wrist), 1]]);
  body.grid(9, 8, limb(hinge, point(0.014, 0.004), 0.0056, 0.001), tint, () => [[numberOf(finger), 1]]);
}

/** A clip of turns about an axis by the share of its length. */
function clip(
  nodes: ReadonlyMap<string, AssetNode>,
  name: string,
  duration: number,
  turns: Record<string, [axis: Vec3, angle: (t: number) => number]>,
): Animation<AssetNode> {
  const keys = 17;
  const input = Float32Array.from({ length: keys }, (_, i) => (i / (keys - 1)) * duration);
  const channels = Object.entries(turns).map(([joint, [axis, angle]]): AnimationChannel<AssetNode> => ({
    target: nodes.get(joint)!, // a joint of the table
    path: 'rotation',
    sampler: {
      interpolation: 'linear',
      components: 4,
      input,
      output: Float32Array.from(
        Array.from({ length: keys }, (_, i) => axisAngle(axis, angle(i / (keys - 1)))).flat(),
      ),
    },
  }));
  return { name, duration, channels };
}

/** A shore crab with a skeleton of 33 joints: legs to be placed by whoever walks it, and clips for claws and eyes. */
export function crab(): WritableAsset {
  const { nodes, skin, skinned } = jointed('crab', JOINTS, 'chitin', shape(), {
    metallicFactor: 0,
    roughnessFactor: 0.38,
    doubleSided: true,
  });
  const wave = (t: number, late = 0): number => Math.sin((t - late) * Math.PI * 2);
  const UP: Vec3 = [0, 1, 0];
  const ASIDE: Vec3 = [1, 0, 0];
  const animations = [
    clip(nodes, 'idle', 4, {
      'left arm': [UP, (t) => 0.06 * wave(t)],
      'right arm': [UP, (t) => -0.06 * wave(t, 0.2)],
      'left finger': [ASIDE, (t) => 0.1 + 0.1 * wave(t, 0.1)],
      'right finger': [ASIDE, (t) => 0.1 + 0.1 * wave(2 * t)],
      'left eye': [ASIDE, (t) => 0.25 * wave(t, 0.3)],
      'right eye': [ASIDE, (t) => 0.25 * wave(t, 0.55)],
    }),
    clip(nodes, 'threaten', 1.6, {
      'left arm': [ASIDE, (t) => 0.55 + 0.2 * wave(t)],
      'right arm': [ASIDE, (t) => 0.55 + 0.2 * wave(t)],
      'left finger': [ASIDE, (t) => 0.35 + 0.35 * wave(2 * t)],
      'right finger': [ASIDE, (t) => 0.35 + 0.35 * wave(2 * t, 0.5)],
    }),
  ];
  return {
    generator: 'Umber Lens demo assets',
    nodes: [nodes.get('shell')!, skinned],
    skins: [skin],
    animations,
  };
}
