import { readFileSync } from 'node:fs';
import { box, type EdgeMode, type Effect, LensError, lensOn, Scene, type SceneNode } from '../../index.js';
import { keptBy } from '../../../../../tests/heap.js';
import { TraceDevice } from '../../device.js';
import { compileWgsl, drawWgsl } from '@umber-lens/core/engine';
import { LIBRARY } from '@umber-lens/core/shading';
import { BLUR_DEVIATION, BLUR_EDGE, BLUR_FLOATS, BLUR_SHIFT, BLUR_WEIGHTS } from '../../compiled/layouts.js';
import { linksOf } from './effect-links.js';
import { newMoment } from './effect-moment.js';

const AT = { ...newMoment(), area: { left: 0, top: 0, width: 100, height: 100 }, height: 100 };

const shape = (effects: Effect[]): [name: string, reads: readonly number[]][] =>
  linksOf(effects).map(({ name, reads }) => [name, reads]);

test('what changes each pixel by itself is one pass, up to eight at a time; a shadow reads what it lies below', () => {
  const grey: Effect = { type: 'grayscale' };
  expect(
    shape([{ type: 'sepia' }, { type: 'contrast', amount: 2 }, { type: 'hue-rotate', angle: 1 }]),
  ).toEqual([['1 sepia', [0]]]);
  expect(shape(new Array<Effect>(9).fill(grey))).toEqual([
    ['1 grayscale', [0]],
    ['2 grayscale', [1]],
  ]);
  expect(shape([grey, { type: 'drop-shadow' }, { type: 'offset', dx: 1 }])).toEqual([
    ['1 grayscale', [0]],
    ['2 drop-shadow across', [1]],
    ['3 drop-shadow down', [2]],
    ['4 drop-shadow', [1, 3]],
    ['5 offset', [4]],
  ]);
  expect(
    shape([
      { type: 'flood', result: 'ink' },
      { type: 'sepia', in: 'SourceGraphic', result: 'old' },
      { type: 'invert' },
      { type: 'grayscale', in: 'old' },
      { type: 'composite', operator: 'in', in2: 'ink' },
      { type: 'blend' },
      { type: 'blur', stdDeviation: 1, in: 'nothing of this name' },
    ]),
  ).toEqual([
    ['1 flood', [0]],
    ['2 sepia', [0]],
    ['3 invert', [2]],
    ['4 grayscale', [2]],
    ['5 composite', [4, 1]],
    ['6 blend', [5, 0]],
    ['7 blur across', [6]],
    ['8 blur down', [7]],
  ]);
  expect(shape([{ type: 'glow' } as unknown as Effect])).toEqual([]);
});

test('lengths in pixels shrink with a canvas that is drawn with fewer', () => {
  const written = (effect: Effect, scale: number): number[] => {
    const values = new Float32Array(80);
    const [link] = linksOf([effect]);
    link!.write(values, new Uint32Array(values.buffer), [effect], { ...AT, scale });
    return [...values.subarray(0, 4)];
  };
  expect(written({ type: 'blur', stdDeviation: [8, 2] }, 0.5)).toEqual([1, 0, 4, 0]);
  expect(written({ type: 'drop-shadow', offset: [6, 4], stdDeviation: 2 }, 0.25)).toEqual([1, 0, 0.5, 1.5]);
  expect(written({ type: 'offset', dx: 10, dy: -4 }, 0.5)).toEqual([5, -2, 0, 0]);
  expect(written({ type: 'morphology', radius: 6 }, 0.5)).toEqual([1, 0, 3, 1]);
});

test('a blur of any size keeps what there is, and takes no more steps than the picture has pixels', () => {
  const text = readFileSync('packages/core/src/shading/library/effects/effect-blur.wgsl', 'utf8');
  const shader = compileWgsl(text, { file: 'umber/effect-blur.wgsl', sources: LIBRARY });
  const [width, height] = [31, 1];
  const data = new Float32Array(width * 4);
  data.fill(1, 15 * 4, 16 * 4);
  const drawn = (stdDeviation: number, edgeMode?: EdgeMode): number[] => {
    const effects: Effect[] = [{ type: 'blur', stdDeviation, ...(edgeMode ? { edgeMode } : {}) }];
    const values = new Float32Array(BLUR_FLOATS);
    linksOf(effects)[0]!.write(values, new Uint32Array(values.buffer), effects, AT);
    const blur = {
      direction: [1, 0],
      deviation: values[BLUR_DEVIATION]!,
      shift: values[BLUR_SHIFT]!,
      weights: values[BLUR_WEIGHTS]!,
      edge: values[BLUR_EDGE]!,
    };
    const resources = { picture: { width, height, data }, blur };
    const { data: pixels } = drawWgsl(shader, 'blurFragment', { width, height, resources });
    return Array.from({ length: width }, (_, x) => pixels[x * 4]!);
  };
  const soft = drawn(2);
  expect(soft.reduce((sum, value) => sum + value)).toBeCloseTo(1, 4);
  expect(soft[15]! / soft[17]!).toBeCloseTo(Math.exp(0.5), 4);
  expect(drawn(1e9).every((value) => value >= 0 && value < 1e-6)).toBe(true);

  // Edges that go on, and the other side, by the plain sum over a picture without an end.
  for (let x = 0; x < width; x++) data.fill((x * 7) % 11, x * 4, x * 4 + 4);
  const value = (x: number): number => (x * 7) % 11;
  const EDGES = {
    duplicate: (x: number) => value(Math.min(Math.max(x, 0), width - 1)),
    wrap: (x: number) => value(((x % width) + width) % width),
  };
  for (const deviation of [0.8, 4, 20, 90])
    for (const [mode, there] of Object.entries(EDGES) as [EdgeMode, (x: number) => number][])
      drawn(deviation, mode).forEach((found, x) => {
        let [sum, weights] = [0, 0];
        for (let i = -Math.ceil(deviation * 3); i <= deviation * 3 + 1; i++) {
          const weight = Math.exp((-0.5 * i * i) / deviation ** 2);
          sum += weight * there(x + i);
          weights += weight;
        }
        expect(Math.abs(found - sum / weights)).toBeLessThan(0.03);
      });
  data.fill(0.5);
  for (const mode of ['duplicate', 'wrap'] as const)
    for (const found of drawn(1e9, mode)) expect(found).toBeCloseTo(0.5, 3);
});

interface Stage {
  device: TraceDevice;
  lens: ReturnType<typeof lensOn>;
  scene: Scene;
  camera: SceneNode;
  heard: string[];
}

function stage(): Stage {
  const device = new TraceDevice();
  const heard: string[] = [];
  const lens = lensOn(device, { onMessage: ({ summary }) => void heard.push(summary) });
  const scene = new Scene();
  scene.createNode({ mesh: { geometry: box(), material: { unlit: true } } });
  const camera = scene.createNode({
    translation: [0, 0, 4],
    camera: { type: 'perspective', yfov: 0.8, znear: 0.1 },
  });
  return { device, lens, scene, camera, heard };
}

const LIST: Effect[] = [
  { type: 'blur', stdDeviation: 3 },
  { type: 'saturate', amount: 0.5 },
  { type: 'component-transfer', red: { type: 'table', tableValues: [0, 0.5, 1] } },
  { type: 'drop-shadow' },
  { type: 'morphology', radius: 1 },
  { type: 'turbulence', baseFrequency: 0.1, result: 'noise' },
  { type: 'composite', operator: 'atop', in: 'SourceGraphic', in2: 'noise' },
  { type: 'convolve', kernelMatrix: [0, 1, 0, 1, 1, 1, 0, 1, 0] },
];

test('frames with effects that change keep nothing on the heap, and upload what changed alone', async () => {
  const { device, lens, scene, camera, heard } = stage();
  device.recording = false;
  const blur: Effect = { type: 'blur', stdDeviation: 3 };
  lens.view.finish = [...LIST, blur];
  await lens.load(scene);
  let time = 0;
  const frame = (): void => {
    blur.stdDeviation = 1 + (time++ % 7);
    lens.draw(scene, camera);
  };
  for (let i = 0; i < 300; i++) frame();
  // Both directions of the blur that changes.
  expect(lens.ledger.bytesUploaded).toBeLessThan(100);
  expect(lens.ledger.passes.map(({ name }) => name).slice(-2)).toEqual(['12 blur across', '13 blur down']);
  // While developing, lists that change are looked at: their text is let go of again.
  const kept = keptBy(() => {
    for (let i = 0; i < 300; i++) frame();
  }, 8_000);
  expect(kept).toBeLessThan(8_000);
  expect(heard).toEqual([]);
  lens.dispose();
  expect(device.owners()).toEqual([]);
});

test('chains that are no longer used are freed; on demand, only what changed is drawn', async () => {
  const { device, lens, scene, camera } = stage();
  device.recording = false;
  lens.view.onDemand = true;
  lens.view.finish = LIST;
  await lens.load(scene);
  lens.draw(scene, camera);
  const { textures, buffers } = lens.ledger.living;
  lens.draw(scene, camera);
  expect(lens.ledger.unchanged).toBeGreaterThan(0);
  const before = lens.ledger.unchanged;
  (LIST[1] as { amount: number }).amount = 0.6;
  lens.draw(scene, camera);
  expect(lens.ledger.unchanged).toBe(before);
  lens.view.finish = [];
  lens.view.onDemand = false;
  for (let i = 0; i < 400; i++) lens.draw(scene, camera);
  expect(lens.ledger.living.textures).toBeLessThan(textures);
  expect(lens.ledger.living.buffers).toBeLessThan(buffers);
});

test('grain that moves by itself does not have pictures drawn on demand, on a node as on the picture', async () => {
  const { device, lens, scene, camera } = stage();
  device.recording = false;
  const grain: Effect[] = [{ type: 'film-grain', amount: 0.1 }];
  const node = scene.createNode({ mesh: { geometry: box(), material: { unlit: true } } });
  const drawn = async (onPicture: boolean): Promise<number> => {
    lens.view.finish = onPicture ? grain : [];
    node.effects = onPicture ? [] : grain;
    await lens.load(scene);
    for (let i = 0; i < 3; i++) lens.draw(scene, camera);
    const before = lens.ledger.unchanged;
    for (let i = 0; i < 5; i++) lens.draw(scene, camera);
    return 5 - (lens.ledger.unchanged - before);
  };
  lens.view.onDemand = true;
  expect([await drawn(true), await drawn(false)]).toEqual([0, 0]);
});

test.each<[given: unknown, said: RegExp]>([
  [{ type: 'blurr' }, /effect 1 of lens.view.finish cannot be "blurr"/],
  [{ type: 'blur' }, /blurs nothing: it has no stdDeviation/],
  [{ type: 'blur', stdDeviation: -1 }, /stdDeviation/],
  [{ type: 'sepia', stdDeviation: 1 }, /does nothing, since its type is sepia/],
  [{ type: 'brightness', amount: Number.NaN }, /not a number/],
  [{ amount: 1 }, /has no type/],
  [{ type: 'color-matrix', values: [1, 0, 0] }, /has 3 numbers/],
  [{ type: 'convolve', kernelMatrix: [1, 2] }, /has 2 numbers/],
  [{ type: 'composite', operator: 'dilate' }, /cannot be "dilate"/],
  [{ type: 'blend', mode: 'add' }, /"mode" of effect 1/],
  [{ type: 'displacement', scale: 4 }, /has no map/],
  [{ type: 'displacement', map: {} }, /is no texture/],
  [{ type: 'color-matrix' }, /has no values/],
  [{ type: 'convolve' }, /has no kernelMatrix/],
  [{ type: 'convolve', order: 'wide', kernelMatrix: [1] }, /"order" of effect 1/],
  [
    { type: 'component-transfer', red: { type: 'table' } },
    /"red" of effect 1 of lens.view.finish has no tableValues/,
  ],
  [{ type: 'sepia', in: 'ink' }, /nothing before effect 1 of lens.view.finish is called "ink"/],
  [{ type: 'component-transfer', red: { type: 'gamma', slope: 2 } }, /slope/],
  ['blur', /is no effect/],
  [null, /is no effect/],
])('%j is told once, and the picture is drawn', async (given, said) => {
  const { lens, scene, camera, heard } = stage();
  lens.view.finish = [given as Effect];
  await lens.load(scene);
  for (let i = 0; i < 3; i++) lens.draw(scene, camera);
  expect(heard).toEqual([expect.stringMatching(said)]);
  expect(lens.ledger.draws).toBeGreaterThan(0);
});

test('the picture of a map is not looked at', async () => {
  const { lens, scene, camera, heard } = stage();
  const content = { kind: 'pixels' as const, width: 1, height: 1, data: new Uint8Array(4) };
  const image = { content, toJSON: () => heard.push('looked at') };
  lens.view.finish = [{ type: 'displacement', map: { image }, scale: 4 }];
  await lens.load(scene);
  lens.draw(scene, camera);
  expect(heard).toEqual([]);
  expect(lens.ledger.passes.at(-1)!.name).toBe('1 displacement');
});

test('a finish that is no list is refused', () => {
  const { lens, scene, camera } = stage();
  const wrong = { type: 'blur', stdDeviation: 1 } as unknown as Effect[];
  expect(() => (lens.view.finish = wrong)).toThrow(LensError);
  expect(() => lens.draw(scene, camera, { finish: wrong })).toThrow(/a finish is a list of effects/);
});

function treatedStage(count: number, effects: () => Effect[]): Stage & { groups: SceneNode[] } {
  const found = stage();
  const groups = Array.from({ length: count }, (_, i) =>
    found.scene.createNode({
      name: `group ${i}`,
      translation: [(i % 4) - 1.5, Math.floor(i / 4) / 2 - 1, 0],
      mesh: { geometry: box({ width: 0.3, height: 0.3, depth: 0.3 }), material: { unlit: true } },
      effects: effects(),
    }),
  );
  return { ...found, groups };
}

test('treated nodes that move and change keep nothing on the heap, and are freed when they go', async () => {
  const { device, lens, scene, camera, heard, groups } = treatedStage(3, () => [...LIST]);
  device.recording = false;
  const blur: Effect = { type: 'blur', stdDeviation: 3 };
  groups[0]!.effects = [blur];
  await lens.load(scene);
  let time = 0;
  const frame = (): void => {
    blur.stdDeviation = 1 + (time++ % 7) / 8;
    groups[1]!.setTranslation(Math.sin(time) * 0.01, 0, 0);
    lens.draw(scene, camera);
  };
  for (let i = 0; i < 300; i++) frame();
  expect(lens.ledger.passes.map(({ name }) => name)).toEqual(
    expect.arrayContaining(['layer 1 group 0', 'layer 1 group 0: 1 blur across', 'layer 3 group 2']),
  );
  const kept = keptBy(() => {
    for (let i = 0; i < 300; i++) frame();
  }, 12_000);
  expect(kept).toBeLessThan(12_000);
  expect(heard).toEqual([]);
  const { textures, buffers } = lens.ledger.living;
  for (const group of groups) group.remove();
  for (let i = 0; i < 400; i++) lens.draw(scene, camera);
  expect(lens.ledger.living.textures).toBeLessThan(textures - 3);
  expect(lens.ledger.living.buffers).toBeLessThan(buffers - 6);
  lens.dispose();
  expect(device.owners()).toEqual([]);
});

test('sixteen treated nodes share what they are drawn in', async () => {
  const blurred = (): Effect[] => [{ type: 'blur', stdDeviation: 4 }];
  const bytes = async (count: number): Promise<number> => {
    const { device, lens, scene, camera } = treatedStage(count, blurred);
    const target = lens.createTarget({ width: 1280, height: 800 });
    await lens.load(scene);
    for (let i = 0; i < 3; i++) lens.draw(scene, camera, { target });
    return device.owners().reduce((sum, owner) => sum + owner.bytes, 0);
  };
  const [none, sixteen] = [await bytes(0), await bytes(16)];
  const picture = 1280 * 800 * (8 + 4) * 4;
  expect(sixteen - none).toBeGreaterThan(0);
  expect(sixteen - none).toBeLessThan(picture / 2);
});

test('what is wrong with the effects of a node is told once, with its name', async () => {
  const { lens, scene, camera, heard } = stage();
  const node = scene.createNode({ name: 'lantern', mesh: { geometry: box(), material: { unlit: true } } });
  node.effects = [{ type: 'blurr' } as unknown as Effect];
  await lens.load(scene);
  for (let i = 0; i < 3; i++) lens.draw(scene, camera);
  expect(heard).toEqual([expect.stringMatching(/effect 1 of node "lantern" cannot be "blurr"/)]);
  expect(() => (node.effects = {} as Effect[])).toThrow(/the effects of node "lantern" are no list/);
});

test('nodes keep their effects when they are cloned, and lie in layers by where they hang', () => {
  const { scene } = stage();
  const outer = scene.createNode({ name: 'outer', effects: [{ type: 'sepia' }] });
  const mesh = { geometry: box(), material: { unlit: true } };
  const inner = scene.createNode({ parent: outer, mesh });
  const layers = (): (string | undefined)[] =>
    scene.drawables.batches.flatMap((batch) => (batch ? [batch.apart.layer?.name] : []));
  expect(layers()).toEqual([undefined, 'outer']);
  inner.setParent(undefined);
  expect(layers()).toEqual([undefined, undefined]);
  inner.setParent(outer);
  const twin = outer.clone({ name: 'twin' });
  expect(twin.effects).toEqual(outer.effects);
  expect(twin.effects[0]).not.toBe(outer.effects[0]);
  expect(layers()).toEqual([undefined, 'outer', 'twin']);
  outer.effects = [];
  twin.remove();
  expect(layers()).toEqual([undefined, undefined]);
});

test('effects on light come before those on what is shown, and a list that says otherwise is told so', async () => {
  const { lens, scene, camera, heard } = stage();
  lens.view.finish = [{ type: 'sepia' }, { type: 'bloom' }];
  await lens.load(scene);
  for (let i = 0; i < 3; i++) lens.draw(scene, camera);
  const names = lens.ledger.passes.map(({ name }) => name);
  expect(names.indexOf('2 bloom')).toBeLessThan(names.indexOf('finish'));
  expect(names.indexOf('1 sepia')).toBeGreaterThan(names.indexOf('finish'));
  expect(heard).toEqual([
    expect.stringMatching(/effect 2 of lens.view.finish, bloom, stands on light, before sepia/),
  ]);
});
