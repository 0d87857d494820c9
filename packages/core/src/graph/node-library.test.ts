import { compileWgsl, runWgsl } from '../wgsl/index.js';
import { LIBRARY } from '../shading/library.js';
import { comparesPixels } from './compares-pixels.js';
import { CALL_TABLE, LIBRARY_NODES } from './node-table.js';
import type { Graph, GraphInput } from './document.js';
import { checkGraph } from './read-graph.js';

type V = readonly number[];
const shaders = new Map(
  Object.keys(LIBRARY_NODES).map((file) => [
    file,
    compileWgsl(LIBRARY[file]!, { file, sources: { ...LIBRARY } }),
  ]),
);
const run = (name: string, ...args: unknown[]): number | number[] => {
  const [file] = Object.entries(LIBRARY_NODES).find(([, names]) => names.includes(name))!;
  return runWgsl(shaders.get(file)!, name, args) as number | number[];
};
const near = (found: number | number[], wanted: number | V, digits = 4): void => {
  const [a, b] = [[found].flat(), [wanted].flat() as number[]];
  expect(a).toHaveLength(b.length);
  a.forEach((one, i) => expect(one).toBeCloseTo(b[i]!, digits));
};
const PLACES: V[] = [
  [0.2, 0.7, -0.4],
  [-1.3, 0.1, 2.6],
  [0.9, -0.9, 0.05],
];
const COLORS: V[] = [
  [0.8, 0.3, 0.1],
  [0.02, 0.5, 0.9],
  [0.4, 0.4, 0.4],
  [1, 0, 1],
];

test('of functions it is known which compare a pixel with the next', () => {
  const found = Object.keys(LIBRARY_NODES).flatMap((file) =>
    LIBRARY[file]!.split(/^(?=fn )/m)
      .flatMap((text) => /^fn (\w+)/.exec(text)?.[1] ?? [])
      .map((name) => ({
        name,
        compares: /\b(dpdx|dpdy|fwidth)/.test(
          new RegExp(`^fn ${name}\\b[^]*?^}`, 'm').exec(LIBRARY[file]!)![0],
        ),
      })),
  );
  expect(found.length).toBeGreaterThan(30);
  for (const { compares, name } of found)
    expect([name, comparesPixels(`${name}(a)`)]).toEqual([name, compares]);
  expect(found.some(({ compares }) => compares)).toBe(true);
  expect([comparesPixels('fwidthFine(a)'), comparesPixels('let fwidth2 = 1;')]).toEqual([true, false]);
  expect(comparesPixels('edge(a)', { 'edge.wgsl': 'fn edge(a: f32) -> f32 { return dpdy(a); }' })).toBe(true);
});

test('distances are those of shapes that are measured by points on them', () => {
  for (const [x, y, z] of PLACES as [number, number, number][]) {
    near(run('sphereDistance', [x, y, z], 0.5), Math.hypot(x, y, z) - 0.5);
    // The nearest of many points of a box, whose inside is negative.
    const half = [0.4, 0.6, 0.3];
    const outside = Math.hypot(...[x, y, z].map((v, k) => Math.max(0, Math.abs(v) - half[k]!)));
    const inside = Math.min(0, Math.max(...[x, y, z].map((v, k) => Math.abs(v) - half[k]!)));
    near(run('boxDistance', [x, y, z], half), outside + inside);
    const small = half.map((one) => one - 0.1);
    const rounded = Math.hypot(...[x, y, z].map((v, k) => Math.max(0, Math.abs(v) - small[k]!)));
    if (rounded > 0) near(run('roundBoxDistance', [x, y, z], half, 0.1), rounded - 0.1);
    near(run('torusDistance', [x, y, z], 0.7, 0.2), Math.hypot(Math.hypot(x, z) - 0.7, y) - 0.2);
    let least = Infinity;
    for (let i = 0; i <= 4000; i++)
      least = Math.min(least, Math.hypot(x - 1 + i / 4000, y - (i / 4000) * 2, z));
    near(run('capsuleDistance', [x, y, z], [1, 0, 0], [0, 2, 0], 0.25), least - 0.25, 3);
    near(run('planeDistance', [x, y, z], [0, 1, 0], 0.3), y - 0.3);
  }
  near(run('smoothMin', 0.2, 0.9, 0.1), 0.2);
  near(run('smoothMin', 0.5, 0.5, 0.4), 0.4);
  near(run('smoothMax', 0.5, 0.5, 0.4), 0.6);
});

test('colors go there and back, and are those of the formulas', () => {
  for (const color of COLORS) {
    const [r, g, b] = color as [number, number, number];
    near(run('luminance', color), 0.2126 * r + 0.7152 * g + 0.0722 * b);
    near(run('rgbFromHsv', run('hsvFromRgb', color)), color);
    near(run('rgbFromOklab', run('oklabFromRgb', color)), color, 3);
    const above = [0.3, 0.6, 0.9];
    const each = (of: (below: number, over: number) => number): number[] =>
      color.map((one, k) => of(one, above[k]!));
    const screen = (x: number, y: number): number => 1 - (1 - x) * (1 - y);
    const hard = (x: number, y: number): number => (y <= 0.5 ? 2 * x * y : screen(x, 2 * y - 1));
    near(run('blendScreen', color, above), each(screen));
    near(run('blendHardLight', color, above), each(hard));
    near(
      run('blendOverlay', color, above),
      each((x, y) => hard(y, x)),
    );
    near(
      run('blendDifference', color, above),
      each((x, y) => Math.abs(x - y)),
    );
    const soft = (x: number, y: number): number => {
      if (y <= 0.5) return x - (1 - 2 * y) * x * (1 - x);
      const d = x <= 0.25 ? ((16 * x - 12) * x + 4) * x : Math.sqrt(x);
      return x + (2 * y - 1) * (d - x);
    };
    near(run('blendSoftLight', color, above), each(soft));
  }
  near(run('hsvFromRgb', [0, 0, 1]), [2 / 3, 1, 1]);
  near(run('hsvFromRgb', [0.25, 0.25, 0.25]), [0, 0, 0.25]);
  // White is light 1 without color; the middle of black and white is as light as half of it, which is not half the light.
  near(run('oklabFromRgb', [1, 1, 1]), [1, 0, 0], 3);
  near(run('mixEvenly', [0, 0, 0], [1, 1, 1], 0.5), [0.125, 0.125, 0.125], 3);
});

test('numbers and directions are bent as they say', () => {
  near(run('remap', 0.25, 0, 1, 10, 20), 12.5);
  near(run('remap', 3, 2, 4, 1, -1), 0);
  for (const t of [0, 0.2, 0.5, 0.9, 1]) {
    near(run('easeIn', t, 3), t ** 3);
    near(run('easeOut', t, 3), 1 - (1 - t) ** 3);
    near(run('easeInOut', t, 2), t < 0.5 ? 2 * t * t : 1 - 2 * (1 - t) ** 2);
    near(run('mirroredShare', t, 0.04), 0.04 + 0.96 * (1 - t) ** 5);
  }
  near(run('stepped', 0.4, 3, 0), 1 / 3);
  near(run('stepped', 1, 3, 0.1), 1);
  near(run('turnAbout', [1, 0, 0], [0, 1, 0], Math.PI / 2), [0, 0, -1]);
  near(run('turnAbout', [1, 2, 3], [0, 0, 1], 0.7), [
    Math.cos(0.7) - 2 * Math.sin(0.7),
    Math.sin(0.7) + 2 * Math.cos(0.7),
    3,
  ]);
  near(run('turnFlat', [1, 0], Math.PI / 6), [Math.cos(Math.PI / 6), 0.5]);
  const weights = run('triplanarWeights', [0.6, 0, -0.8], 4) as number[];
  near(weights, [0.6 ** 4 / (0.6 ** 4 + 0.8 ** 4), 0, 0.8 ** 4 / (0.6 ** 4 + 0.8 ** 4)], 3);
});

test('patterns repeat where they should and lie within what they say', () => {
  near(run('checker', [0.5, 0.5]), 0);
  near(run('checker', [1.5, 0.5]), 1);
  near(run('checker', [-0.5, 0.5]), 1);
  near(run('stripes', 7.2, 0.3), 1);
  near(run('stripes', -0.2, 0.3), 0);
  for (const place of PLACES) {
    const [nearest, second] = run('cells', place, 4) as [number, number];
    expect(nearest).toBeGreaterThanOrEqual(0);
    expect(second).toBeGreaterThanOrEqual(nearest);
    expect(nearest).toBeLessThan(Math.sqrt(3));
    near(run('layeredNoise', place, 1, 7), run('noise', place, 7));
    expect(Math.abs(run('layeredNoise', place, 5, 7) as number)).toBeLessThan(1.1);
  }
  // Each of sixteen thresholds once in four by four pixels.
  const all = Array.from({ length: 16 }, (_, i) =>
    run('ditherThreshold', [4 + (i % 4) + 0.5, 8 + (i >> 2) + 0.5]),
  );
  expect([...all].sort((a, b) => (a as number) - (b as number))).toEqual(
    Array.from({ length: 16 }, (_, i) => (i + 0.5) / 16),
  );
});

const EFFECTS = ['colorAt', 'secondAt', 'beforeAt', 'depthAt', 'distanceAt', 'normalAt'];
/** What calls are given that have no default of their own. */
const GIVEN: Readonly<Record<string, readonly GraphInput[]>> = {
  '!': [true],
  '~': [{ call: 'u32', in: [1] }],
  '&&': [true, false],
  '||': [true, false],
  '[]': ['@p.normal', 1],
  any: [{ call: '<', in: ['@p.normal', '@p.toCamera'] }],
  all: [{ call: '<', in: ['@p.normal', '@p.toCamera'] }],
  select: [null, null, true],
  textureLoad: ['bark', { call: 'vec2i', in: [1, 2] }],
  hashFloat: [{ call: 'vec3i', in: [1, 2, 3] }],
  hitAt: ['@p.position', '@p.normal'],
};

test('every call of the table compiles with its defaults', () => {
  const functionsOf = (takes: Record<string, string>, isOf: (name: string) => boolean): Graph['functions'] =>
    Object.fromEntries(
      [...CALL_TABLE]
        .filter(([name]) => isOf(name))
        .map(([name, { group, inputs }], i) => {
          const isTexture = inputs[0]?.name === 'texture';
          const bits = group === 'whole numbers' ? [5, 3] : undefined;
          const call = { call: name, in: GIVEN[name] ?? bits ?? (isTexture ? ['bark'] : []) };
          return [`call${i}`, { takes, nodes: { it: call }, gives: '@it' }];
        }),
    );
  const material = {
    graph: 1,
    textures: { bark: {} },
    functions: functionsOf({ p: 'Fragment', s: 'Surface', l: 'Light' }, (name) => !EFFECTS.includes(name)),
    hooks: { surface: {} },
  };
  const effect = {
    graph: 1,
    functions: functionsOf({ p: 'Pixel' }, (name) => EFFECTS.includes(name)),
    hooks: { effect: '@p.color' },
  };
  for (const graph of [material, effect]) {
    const found = checkGraph(JSON.stringify(graph));
    expect(found.flatMap(({ message, severity }) => (severity === 'error' ? [message] : []))).toEqual([]);
  }
  expect(Object.keys(material.functions!).length).toBeGreaterThan(110);
});
