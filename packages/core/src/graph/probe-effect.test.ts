import { checkHooks, linkHooks } from '../shading/check-hooks.js';
import { runWgsl } from '../wgsl/run/run.js';
import type { Graph } from './document.js';
import { probedValues, probeEffect, roomForProbed } from './probe-effect.js';

const GRAPH: Graph = {
  graph: 1,
  settings: { much: { type: 'f32', value: 0.3 } },
  nodes: {
    across: { value: '@p.place' },
    pixel: { value: '@p.position' },
    half: { call: '*', in: ['@p.size', '@settings.much'] },
    far: { call: '>', in: ['@p.time', 2] },
    huge: { call: 'vec3f', in: [-3e30, 1e-30, 0] },
    seen: { value: '@p.color' },
    beside: { call: 'colorOf', in: [{ call: 'vec2i', in: [{ call: '+', in: ['@p.position', [1, 0]] }] }] },
    none: { call: 'sqrt', in: [{ call: '-', in: ['@p.delta', 1] }] },
  },
  hooks: { effect: { call: 'vec4f', in: ['@across', '@half.x', 1] } },
};

const [WIDTH, HEIGHT] = [8, 6];
const shade = (x: number, y: number): number[] => [x / 8, y / 8, 0.5, 1];
const RESOURCES = {
  effectPicture: {
    width: WIDTH,
    height: HEIGHT,
    data: Array.from({ length: WIDTH * HEIGHT }, (_, i) => shade(i % WIDTH, Math.floor(i / WIDTH))).flat(),
  },
  effectFrame: {
    ...{ corner: [0, 0], size: [WIDTH, HEIGHT], scale: 1, time: 0, delta: 0, isParallel: 0 },
    ...{ depthScale: 0, depthOffset: 0, right: [0, 0, 0], sees: 0, up: [0, 0, 0], forward: [0, 0, 0] },
  },
};

/** All of the picture, from its upper left on. */
const FROM = { probedPixel: [5, 2], probedCorner: [0, 0], probedStart: [0, 0], probedAcross: WIDTH } as const;

test('an effect tells what its nodes are at one pixel, in the first pixels of a picture', () => {
  const probed = probeEffect(GRAPH)!;
  expect(checkHooks(probed.wgsl).filter(({ severity }) => severity === 'error')).toEqual([]);
  const shader = linkHooks(probed.wgsl);
  // As it is drawn: pixel by pixel, into eight bits a channel.
  const picture: number[] = [];
  for (let i = 0; i < WIDTH * HEIGHT; i++) {
    const position = [(i % WIDTH) + 0.5, Math.floor(i / WIDTH) + 0.5];
    const p = {
      ...{ position, place: [position[0]! / WIDTH, position[1]! / HEIGHT], size: [WIDTH, HEIGHT] },
      ...{ color: shade(i % WIDTH, Math.floor(i / WIDTH)), time: 3, delta: 0 },
    };
    const settings = { much: 0.25, ...FROM };
    const rgba = runWgsl(shader, 'effect', [p, settings], { resources: RESOURCES }) as number[];
    picture.push(...rgba.map((part) => Math.round(part * 255)));
  }
  const values = probedValues(probed, picture, WIDTH, FROM)!;
  const near = (...numbers: number[]): number[] =>
    numbers.map((number) => expect.closeTo(number, 4) as number);
  expect(Object.fromEntries(values)).toEqual({
    across: near(5.5 / 8, 2.5 / 6, 0),
    pixel: near(5.5, 2.5, 0),
    half: near(2, 1.5, 0),
    far: [1, 1, 1],
    huge: [expect.any(Number), expect.any(Number), 0],
    seen: near(5 / 8, 2 / 8, 0.5),
    beside: near(6 / 8, 2 / 8, 0.5),
    none: [NaN, NaN, NaN],
  });
  // Any other picture is none of these.
  expect(probedValues(probed, picture.slice(4), WIDTH, FROM)).toBeUndefined();
  expect(probedValues(probed, picture.slice(0, 40), WIDTH, FROM)).toBeUndefined();
  const [most, least] = values.get('huge')!;
  expect(most! / -3e30).toBeCloseTo(1, 4);
  expect(least! / 1e-30).toBeCloseTo(1, 4);
});

test('numbers may begin anywhere, in rows of any length', () => {
  const probed = { nodes: ['a', 'b'], isPaired: false };
  // Of 1, 2, 3 and 4, 5, 6: their first three bytes.
  const bytes = [0x3f80, 0x4000, 0x4040, 0x4080, 0x40a0, 0x40c0].map((one) => [one >> 8, one & 255, 0, 255]);
  const pixels = [...bytes, [85, 170, 51, 255]];
  for (const [side, isPaired] of [
    [1, false],
    [2, true],
  ] as const) {
    const from = { ...FROM, probedCorner: [1, 0], probedStart: [2, 2], probedAcross: 3 * side } as const;
    const picture = new Uint8Array(20 * 20 * 4).fill(7);
    pixels.forEach((pixel, i) => {
      const [x, y] = [2 + (i % 3) * side, 2 + Math.floor(i / 3) * side];
      // Pixel 5 lies at 6 in the texture: the left one of two; and 2 at 2.
      picture.set(pixel, (y * 20 + x) * 4);
    });
    const values = probedValues({ ...probed, isPaired }, picture, 20, from);
    expect(Object.fromEntries(values!)).toEqual({ a: [1, 2, 3], b: [4, 5, 6] });
    // Six numbers and the mark.
    expect(roomForProbed({ ...probed, isPaired })).toBe(7 * side * side);
    expect(
      probedValues({ ...probed, isPaired }, picture, 20, { ...from, probedStart: [4, 2] }),
    ).toBeUndefined();
  }
});

test('what is no effect has nothing to tell; what compares neighbours is told by two by two', () => {
  expect(probeEffect({ ...GRAPH, hooks: {} })).toBeUndefined();
  expect(probeEffect({ ...GRAPH, nodes: {}, hooks: { effect: [0, 0, 0, 1] } })).toBeUndefined();
  const edges = { change: { call: 'fwidth', in: ['@p.color.r'] } };
  const compared = probeEffect({ ...GRAPH, nodes: { ...GRAPH.nodes, ...edges } })!;
  expect(compared).toMatchObject({ isPaired: true, nodes: expect.arrayContaining(['change']) as string[] });
  expect(checkHooks(compared.wgsl).filter(({ severity }) => severity === 'error')).toEqual([]);
  expect(probeEffect(GRAPH)).toMatchObject({ isPaired: false });
});
