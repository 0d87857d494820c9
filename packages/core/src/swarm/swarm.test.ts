import fc from 'fast-check';
import { holds } from '../../../../tests/holds.js';
import { createCameraView, updateCameraView } from '../draw/camera-view.js';
import { LensError } from '../errors/lens-error.js';
import { swarmInWorker } from '../formats/apart/in-worker.js';
import { box, plane } from '../geometry/flat-shapes.js';
import { castRay } from '../pick/cast-ray.js';
import { Scene } from '../scene/scene.js';
import { facing } from '../math/rotation.js';
import { repeated } from './repeat.js';
import { BAND, Swarm } from './swarm.js';
import type { SwarmOptions } from './swarm-options.js';
import { shareOf, SwarmView } from './swarm-view.js';

const random = (seed: number): (() => number) => {
  let state = seed;
  return () => (state = (state * 16807) % 2147483647) / 2147483647;
};

/** Places on a square of `side` metres. */
function placesOn(count: number, side: number, seed = 5): number[] {
  const next = random(seed);
  return Array.from({ length: count * 3 }, (_, i) => (i % 3 === 1 ? 0 : (next() - 0.5) * side));
}

const options = (count: number, more: Partial<SwarmOptions> = {}): SwarmOptions => ({
  geometry: box({ width: 0.2, height: 0.2, depth: 0.2 }),
  transforms: { translations: placesOn(count, 200) },
  ...more,
});

/** An camera at one end of the square that looks along it, 800 pixels high. */
function look(swarm: Swarm): {
  view: SwarmView;
  camera: ReturnType<typeof createCameraView>;
  perMetre: number;
} {
  const scene = new Scene();
  const node = scene.createNode({
    translation: [0, 2, 100],
    rotation: facing([0, -0.1, -1]),
    camera: { type: 'perspective', yfov: 0.8, znear: 0.1 },
  });
  const camera = createCameraView();
  updateCameraView(camera, node, 1.5);
  const view = new SwarmView();
  const perMetre = 400 / Math.tan(0.4);
  view.update(swarm, UNTURNED, 0, { view: camera, pixelsAtOne: perMetre, isParallel: false }, 0);
  return { view, camera, perMetre };
}

const UNTURNED = Float32Array.from([1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0]);

/** Records that a run draws, by level. */
function drawn(view: SwarmView): Set<number>[] {
  return view.runs.map(({ words, count }) => {
    const found = new Set<number>();
    for (let i = 0; i < count; i++) {
      const code = words[i * 4 + 2]!;
      const first = code & 0xffffff;
      for (let k = 0; k <= ((code >>> 24) & 63); k++) found.add(first + k);
    }
    return found;
  });
}

function placeOf(swarm: Swarm, record: number): [number, number, number] {
  const at = (swarm.shapes[0]!.firstRecord + record * swarm.stride) * 4;
  return [swarm.values[at + 3]!, swarm.values[at + 7]!, swarm.values[at + 11]!];
}

test('tiles hold every copy once, few enough and near one another', () => {
  const swarm = new Swarm(options(20_000));
  const { tiles, order } = swarm.shapes[0]!;
  expect([...order].sort((a, b) => a - b)).toEqual(Array.from({ length: 20_000 }, (_, i) => i));
  let [next, area] = [0, 0];
  for (let tile = 0; tile < tiles.count; tile++) {
    expect(tiles.first[tile]).toBe(next);
    expect(tiles.copies[tile]).toBeLessThanOrEqual(1024);
    next += tiles.copies[tile]!;
    area += Math.PI * tiles.spheres[tile * 7 + 3]! ** 2;
  }
  expect(next).toBe(20_000);
  // Circles around squares that cover the place without gaps have pi / 2 of its area; around halves of squares 2.5 times.
  expect(area).toBeLessThan(200 * 200 * 2.6);
});

test('whatever is in view is drawn, and most of the rest is not', () => {
  const swarm = new Swarm(options(20_000));
  const { view, camera } = look(swarm);
  const [found] = drawn(view);
  let [inView, missed] = [0, 0];
  for (let record = 0; record < swarm.count; record++) {
    const [x, y, z] = placeOf(swarm, record);
    let isIn = true;
    for (let p = 0; p < 24; p += 4) {
      const d =
        camera.planes[p]! * x + camera.planes[p + 1]! * y + camera.planes[p + 2]! * z + camera.planes[p + 3]!;
      const length = Math.hypot(camera.planes[p]!, camera.planes[p + 1]!, camera.planes[p + 2]!);
      if (d < -0.1 * length) isIn = false;
    }
    if (!isIn) continue;
    inView++;
    if (!found!.has(record)) missed++;
  }
  expect(missed).toBe(0);
  expect(inView).toBeGreaterThan(2000);
  expect(found!.size).toBeLessThan(inView * 1.6);
  expect(view.tilesLeftOut).toBeGreaterThan(0);
});

test('every copy is in the levels that its size asks for', () => {
  const coarse = plane({ width: 0.2, depth: 0.2 });
  const pixels = [40, 8, 0];
  const levels = pixels.map((least, i) => ({
    geometry: i === 0 ? box({ width: 0.2, height: 0.2, depth: 0.2 }) : coarse,
    ...(least ? { minPixels: least } : {}),
  }));
  const swarm = new Swarm({ transforms: { translations: placesOn(20_000, 200) }, levels });
  const { view, camera, perMetre } = look(swarm);
  const found = drawn(view);
  const all = new Set([...found[0]!, ...found[1]!, ...found[2]!]);
  let [both, missed] = [0, 0];
  for (const record of all) {
    const [x, y, z] = placeOf(swarm, record);
    const away = Math.hypot(x - camera.position[0]!, y - camera.position[1]!, z - camera.position[2]!);
    const size = (2 * swarm.shapes[0]!.radius * perMetre) / away;
    for (let level = 0; level < 3; level++) {
      const begins = size > pixels[level]!;
      const isCovered = level > 0 && size >= pixels[level - 1]! * BAND;
      if (begins && !isCovered && !found[level]!.has(record)) missed++;
    }
    if (found[0]!.has(record) && found[1]!.has(record)) both++;
  }
  expect(missed).toBe(0);
  expect(both).toBeLessThan(all.size / 4);
});

test('thinning leaves out what the shader would not show, and no more', () => {
  const density = { minPixels: 12, minShare: 0.1, grow: 0.5 };
  const whole = look(new Swarm(options(20_000))).view;
  const swarm = new Swarm(options(20_000, { density }));
  const { view, camera, perMetre } = look(swarm);
  expect(view.runs[0]!.copies).toBeLessThan(whole.runs[0]!.copies * 0.6);
  expect(view.thinned).toBeGreaterThan(0);
  const { tiles, radius } = swarm.shapes[0]!;
  const [found] = drawn(view);
  let missed = 0;
  for (let tile = 0; tile < tiles.count; tile++) {
    const first = tiles.first[tile]!;
    if (!found!.has(first)) continue;
    for (let i = 0; i < tiles.copies[tile]!; i++) {
      const [x, y, z] = placeOf(swarm, first + i);
      const away = Math.hypot(x - camera.position[0]!, y - camera.position[1]!, z - camera.position[2]!);
      const share = shareOf((2 * radius * perMetre) / away, density.minPixels, density.minShare);
      if ((i + 0.5) / tiles.copies[tile]! < share && !found!.has(first + i)) missed++;
    }
  }
  expect(missed).toBe(0);
});

test('more detail draws more copies, less draws fewer, and 1 is as before', () => {
  const swarm = new Swarm(options(20_000, { density: { minPixels: 12 } }));
  const copies = (detail: number): number => {
    swarm.detail = detail;
    return look(swarm).view.runs[0]!.copies;
  };
  const before = copies(1);
  expect(copies(2)).toBeGreaterThan(before * 1.5);
  expect(copies(0.5)).toBeLessThan(before * 0.75);
  expect(copies(1)).toBe(before);
  expect(() => (swarm.detail = 0)).toThrow(expect.objectContaining({ code: 'swarm/detail' }));
});

test('what is the same is chosen once', () => {
  const swarm = new Swarm(options(3000));
  const { view, camera, perMetre } = look(swarm);
  const again = (): boolean =>
    view.update(swarm, UNTURNED, 0, { view: camera, pixelsAtOne: perMetre, isParallel: false }, 0);
  expect(again()).toBe(false);
  swarm.hide(17);
  expect(again()).toBe(true);
  expect(again()).toBe(false);
});

test('a copy that moves takes its tile and the bounds along, and uploads its own bytes alone', () => {
  const swarm = new Swarm(options(5000, { colors: new Float32Array(20_000).fill(1) }));
  const before = swarm.log.end;
  swarm.setTransform(1234, { translations: [500, 0, 0], scales: [2] });
  expect(swarm.log.countSince(before)).toBe(3);
  swarm.setColor(1234, [1, 0, 0, 1]);
  expect(swarm.log.countSince(before)).toBe(4);
  expect(swarm.bounds.max[0]).toBeCloseTo(500.2, 6);
  const matrix = new Float32Array(12);
  swarm.readTransform(1234, matrix);
  expect([...matrix]).toEqual([2, 0, 0, 500, 0, 2, 0, 0, 0, 0, 2, 0]);
  const scene = new Scene();
  scene.createNode({ name: 'rack', mesh: swarm, translation: [0, 1, 0] });
  const hit = castRay(scene, { origin: [500, 9, 0], direction: [0, -1, 0] });
  expect(hit?.instance).toBe(1234);
  expect(hit?.point[1]).toBeCloseTo(1.2, 5);
  swarm.hide(1234);
  expect(castRay(scene, { origin: [500, 9, 0], direction: [0, -1, 0] })).toBeUndefined();
});

test('rays meet the copies that many nodes would have', () => {
  const places = placesOn(800, 12, 3).map((value, i) => (i % 3 === 1 ? i * 0.0004 : value));
  const geometry = box({ width: 0.3, height: 0.5, depth: 0.2 });
  const swarmed = new Scene();
  swarmed.createNode({
    translation: [0, 1, 0],
    scale: [1, 2, 1],
    mesh: new Swarm({ geometry, transforms: { translations: places } }),
  });
  const single = new Scene();
  const parent = single.createNode({ translation: [0, 1, 0], scale: [1, 2, 1] });
  for (let i = 0; i < 800; i++)
    single.createNode({
      parent,
      name: `${i}`,
      mesh: { primitives: [{ geometry }] },
      translation: places.slice(i * 3, i * 3 + 3) as never,
    });
  let met = 0;
  holds(
    fc.property(
      fc.float({ min: -6, max: 6, noNaN: true }),
      fc.float({ min: -6, max: 6, noNaN: true }),
      (x, z) => {
        const ray = { origin: [x, 5, z - 3], direction: [0, -1, 0.7] } as const;
        const [a, b] = [castRay(swarmed, ray as never), castRay(single, ray as never)];
        expect(a === undefined).toBe(b === undefined);
        if (!a || !b) return;
        expect(a.distance).toBeCloseTo(b.distance, 4);
        met++;
        expect(`${a.instance}`).toBe(b.node.name);
      },
    ),
    { numRuns: 300 },
  );
  expect(met).toBeGreaterThan(30);
});

test('a geometry is repeated with its indices, and gets colours', () => {
  const one = plane({ width: 1, depth: 1 });
  const many = repeated(one, 4);
  const vertices = one.attributes['position']!.count;
  expect(many.attributes['position']!.count).toBe(vertices * 4);
  expect(many.indices!.length).toBe(one.indices!.length * 4);
  expect(many.indices![one.indices!.length]).toBe(one.indices![0]! + vertices);
  expect(many.attributes['color0']!.components).toBe(4);
});

test.each<[string, Partial<SwarmOptions>]>([
  ['swarm/length', { transforms: { translations: [1, 2] } }],
  ['swarm/length', { transforms: { translations: [1, 2, 3], scales: [1, 1] } }],
  ['swarm/length', { colors: [1, 1, 1] }],
  ['swarm/number', { transforms: { translations: [1, NaN, 3] } }],
  ['swarm/levels', { levels: [] }],
  [
    'swarm/levels',
    {
      levels: [
        { geometry: box(), minPixels: 10 },
        { geometry: box(), minPixels: 20 },
      ],
    },
  ],
  ['swarm/shape', { shapes: [[{ geometry: box() }]], shapeOf: [1] }],
  ['swarm/density', { density: { minPixels: 0 } }],
  ['swarm/settings', { settings: { height: [1] } }],
])('says what is wrong: %s', (code, wrong) => {
  const of = (): Swarm => new Swarm({ geometry: box(), transforms: { translations: [0, 0, 0] }, ...wrong });
  expect(of).toThrow(LensError);
  expect(of).toThrow(expect.objectContaining({ code, hint: expect.stringMatching(/.{10}/) }));
});

test('a swarm that is made in a worker is the one that is made at once', async () => {
  const options = {
    geometry: box(),
    transforms: { translations: Float32Array.from({ length: 9000 }, (_, i) => (i * 37) % 101) },
    colors: Float32Array.from({ length: 12000 }, (_, i) => (i % 5) / 4),
    seed: 3,
  };
  const done: number[] = [];
  const [apart, here] = [
    await swarmInWorker(options, { onProgress: (share) => done.push(share) }),
    new Swarm(options),
  ];
  expect(apart.values).toEqual(here.values);
  expect(apart.bounds).toEqual(here.bounds);
  expect(apart.shapes[0]!.tiles).toEqual(here.shapes[0]!.tiles);
  expect(done.length).toBeGreaterThan(0);
  await expect(swarmInWorker({ ...options, colors: [1] })).rejects.toThrow('colors has 1 numbers');
  const broken = { ...options, transforms: { translations: new Float32Array(9000).fill(NaN) } };
  await expect(swarmInWorker(broken)).rejects.toThrow('the transform of instance');
});

test('a share of a swarm is spread over all of it, the same copies each time, and written nowhere', () => {
  const count = 20000;
  const swarm = new Swarm({
    geometry: box(),
    transforms: { translations: Float32Array.from({ length: count * 3 }, (_, i) => (i * 7919) % 401) },
  });
  const copies = (): number => {
    const { tiles } = swarm.shapes[0]!;
    return Array.from({ length: tiles.count }, (_, tile) => swarm.shownOf(tiles.copies[tile]!, tile)).reduce(
      (a, b) => a + b,
    );
  };
  expect(copies()).toBe(count);
  const { end } = swarm.log;
  swarm.share = 0.3;
  // Each tile is off by less than one.
  expect(Math.abs(copies() - 0.3 * count)).toBeLessThan(swarm.shapes[0]!.tiles.count);
  expect(swarm.log.end).toBe(end);
  swarm.share = 0;
  expect(copies()).toBe(0);
  swarm.share = 1;
  expect(copies()).toBe(count);
  expect(() => (swarm.share = 1.5)).toThrow('a swarm cannot show a share of 1.5');
});
