import {
  card,
  type Effect,
  fitPixelCamera,
  type Lens,
  LIGHT_EFFECTS,
  type Scene,
  type SceneNode,
} from 'umber-lens';
import type { Controls } from '../controls.js';
import type { Example } from '../example.js';
import { DESIGNS, flagTexture, gradient, softDisc } from './designs.js';
import wind from './wind.wgsl';

const [WIDTH, HEIGHT] = [960, 600];

/** What a flag is treated with besides the wind; the time may change it. */
interface Treatment {
  name: string;
  effects: Effect[];
  frame?: (time: number) => void;
}

const isOnLight = ({ type }: Effect): boolean => LIGHT_EFFECTS.includes(type);
const PLAIN: Treatment = { name: 'wind alone', effects: [] };

function treatments(): Treatment[] {
  const blur = { type: 'blur' as const, stdDeviation: 0 };
  const turn = { type: 'hue-rotate' as const, angle: 0 };
  const fade = { type: 'opacity' as const, amount: 1 };
  const ripples = { type: 'displacement' as const, in: 'cloth', map: 'ripples', scale: 0 };
  return [
    {
      name: 'shadow',
      effects: [{ type: 'drop-shadow', offset: [7, 9], stdDeviation: 4, color: [0.05, 0.02, 0.05, 0.7] }],
    },
    {
      name: 'blur',
      effects: [blur],
      frame: (time) => (blur.stdDeviation = 2.5 - 2.5 * Math.cos(time * 1.3)),
    },
    PLAIN,
    { name: 'grey', effects: [{ type: 'grayscale' }, { type: 'contrast', amount: 1.3 }] },
    { name: 'hues', effects: [turn], frame: (time) => (turn.angle = time * 0.8) },
    {
      name: 'ripples',
      effects: [
        { type: 'offset', dx: 0, dy: 0, result: 'cloth' },
        {
          type: 'turbulence',
          noise: 'fractalNoise',
          baseFrequency: [0.02, 0.05],
          numOctaves: 2,
          result: 'ripples',
        },
        { ...ripples, xChannel: 'red', yChannel: 'green', scale: 26 },
      ],
    },
    { name: 'fat', effects: [{ type: 'morphology', operator: 'dilate', radius: 3 }] },
    { name: 'fading', effects: [fade], frame: (time) => (fade.amount = 0.55 + 0.45 * Math.cos(time)) },
    {
      name: 'two inks',
      effects: [
        {
          type: 'color-matrix',
          values: [0.55, 0.4, 0.15, 0, 0.08, 0.35, 0.5, 0.15, 0, 0.02, 0.2, 0.35, 0.3, 0, 0.1, 0, 0, 0, 1, 0],
        },
        { type: 'contrast', amount: 1.25 },
      ],
    },
    { name: 'glow', effects: [{ type: 'bloom', amount: 0.45, spread: 0.6 }] },
    { name: 'old', effects: [{ type: 'sepia' }, { type: 'film-grain', amount: 0.16, size: 2 }] },
    { name: 'fringes', effects: [{ type: 'chromatic-aberration', amount: 14 }] },
    { name: 'barrel', effects: [{ type: 'lens-distortion', amount: 0.5 }] },
    { name: 'negative', effects: [{ type: 'invert' }] },
    {
      name: 'steps',
      effects: [
        {
          type: 'component-transfer',
          red: { type: 'discrete', tableValues: [0.1, 0.45, 0.95] },
          green: { type: 'discrete', tableValues: [0.1, 0.4, 0.9] },
          blue: { type: 'discrete', tableValues: [0.15, 0.4, 0.8] },
        },
      ],
    },
  ];
}

/** Where a line hangs: three of them, from the mast on the left to beyond the right edge. */
function lineAt(row: number, along: number): [x: number, y: number] {
  const [x0, y0] = [96, 62 + row * 168];
  const [x1, y1] = [WIDTH + 200, 118 + row * 174];
  return [x0 + (x1 - x0) * along, y0 + (y1 - y0) * along + 46 * 4 * along * (1 - along) * 0.55];
}

let all: Effect[] = [];

/** Signal flags on their lines, flat: each a card with a wind of its own and an effect of its own. */
export function createSignalFlags(scene: Scene): Example {
  scene.blendedOrder = 'tree';
  const camera = scene.createNode({ name: 'camera' });
  fitPixelCamera(camera, WIDTH, HEIGHT);
  const put = (
    mesh: ReturnType<typeof card>,
    x: number,
    y: number,
    more: { parent?: SceneNode; name?: string; rotation?: number } = {},
  ): SceneNode => {
    const { rotation = 0, ...rest } = more;
    return scene.createNode({
      translation: [x, y, 0],
      rotation: [0, 0, Math.sin(rotation / 2), Math.cos(rotation / 2)],
      mesh,
      ...rest,
    });
  };
  const sky = gradient([
    [38, 52, 74],
    [86, 92, 112],
    [188, 138, 112],
    [236, 190, 140],
  ]);
  // Wider than the picture: whatever its shape, there is sky.
  put(card({ texture: sky, width: WIDTH * 3, height: HEIGHT * 1.4, anchor: [0.5, 0.14] }), WIDTH / 2, 0, {
    name: 'sky',
  });
  put(card({ texture: softDisc([255, 226, 178]), width: 420, height: 420, anchor: [0.5, 0.5] }), 700, 520, {
    name: 'sun',
  });
  put(
    card({
      texture: gradient([
        [62, 66, 84],
        [30, 36, 52],
      ]),
      width: WIDTH * 3,
      height: 120,
      anchor: [0.5, 0],
    }),
    WIDTH / 2,
    552,
    { name: 'sea' },
  );
  for (let i = 0; i < 26; i++)
    put(
      card({ width: 34 + ((i * 37) % 60), height: 1.4, color: [0.75, 0.5, 0.34, 0.5] }),
      (i * 157) % WIDTH,
      560 + ((i * 13) % 38),
      { name: 'glint' },
    );
  put(card({ width: 15, height: HEIGHT * 1.2, color: [0.055, 0.035, 0.025, 1], anchor: [0.5, 0] }), 84, -10, {
    name: 'mast',
  });
  put(card({ width: 4, height: HEIGHT * 1.2, color: [0.16, 0.1, 0.06, 1], anchor: [0.5, 0] }), 79, -10, {
    name: 'light on the mast',
  });
  const own = treatments();
  const moving: ((time: number) => void)[] = [];
  const flags: SceneNode[] = [];
  for (let row = 0; row < 3; row++) {
    const steps = 48;
    for (let i = 0; i < steps; i++) {
      const [[x0, y0], [x1, y1]] = [lineAt(row, i / steps), lineAt(row, (i + 1) / steps)];
      put(
        card({
          width: Math.hypot(x1 - x0, y1 - y0) + 1,
          height: 2.2,
          color: [0.5, 0.42, 0.32, 1],
          anchor: [0, 0.5],
        }),
        x0,
        y0,
        {
          name: 'line',
          rotation: Math.atan2(y1 - y0, x1 - x0),
        },
      );
    }
    for (let column = 0; column < 5; column++) {
      const number = row * 5 + column;
      const along = 0.045 + column * 0.158;
      const [x, y] = lineAt(row, along);
      const [nx, ny] = lineAt(row, along + 0.125);
      const treatment = own[number]!; // as many
      const lean = Math.atan2(ny - y, nx - x);
      const flag = scene.createNode({
        name: treatment.name,
        translation: [x, y, 0],
        rotation: [0, 0, Math.sin(lean / 2), Math.cos(lean / 2)],
        effects: [
          // Light spreads before the picture is shown.
          ...treatment.effects.filter(isOnLight),
          { type: 'shader', shader: wind, settings: { strength: 0.75, phase: number * 1.9 } },
          ...treatment.effects.filter((effect) => !isOnLight(effect)),
        ],
      });
      put(card({ texture: flagTexture(DESIGNS[number]!, number) }), 0, 3, { parent: flag, name: 'cloth' }); // as many
      for (const at of [4, 124])
        put(card({ width: 4, height: 8, color: [0.62, 0.47, 0.2, 1], anchor: [0.5, 0.5] }), at, 2, {
          parent: flag,
          name: 'hook',
        });
      flags.push(flag);
      if (treatment.frame) moving.push(treatment.frame);
    }
  }
  all = flags.flatMap(({ effects }) => effects.filter(({ type }) => type === 'shader'));
  return {
    camera,
    isFlat: true,
    frame(time) {
      for (const move of moving) move(time);
    },
  };
}

export function addControls(_lens: Lens, _scene: Scene, { range }: Controls): void {
  range('Wind', 0, 1, 0.75, (strength) => {
    for (const effect of all)
      (effect as { settings?: Record<string, number> }).settings!['strength'] = strength; // each has them
  });
}
