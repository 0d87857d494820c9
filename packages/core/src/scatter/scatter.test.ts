import { readFileSync } from 'node:fs';
import { sphere } from '../geometry/round-shapes.js';
import { attributeFloats } from '../geometry/geometry.js';
import { hashFloat, noise } from '../procedural/noise.js';
import { pathThrough } from '../procedural/path.js';
import { compileWgsl } from '../wgsl/compile.js';
import { runWgsl } from '../wgsl/run/run.js';
import { scatterAlong } from './along-path.js';
import { scatterInWorker } from '../formats/apart/in-worker.js';
import { clumpAt, clumpsOf } from './clumps.js';
import { densityOf } from './density.js';
import { scatterOnGrid } from './on-grid.js';
import { scatterOnSurface } from './on-surface.js';
import { transformsBy } from './transforms-by.js';
import { transformsOf } from './scattered.js';

test('a jittered grid fills every cell once, the same for the same seed', () => {
  const options = { width: 20, depth: 10, spacing: 0.5, seed: 4 };
  const { count, translations } = scatterOnGrid(options);
  expect(count).toBe(40 * 20);
  const cells = new Set<number>();
  for (let i = 0; i < count; i++)
    cells.add(
      Math.floor((translations[i * 3]! + 10) / 0.5) * 20 + Math.floor((translations[i * 3 + 2]! + 5) / 0.5),
    );
  expect(cells.size).toBe(800);
  expect(scatterOnGrid(options).translations).toEqual(translations);
  expect(scatterOnGrid({ ...options, seed: 5 }).translations).not.toEqual(translations);
});

test('density and ground decide how many stand, and how high', () => {
  const { count, translations } = scatterOnGrid({
    width: 100,
    depth: 100,
    spacing: 1,
    density: (x) => (x < 0 ? 0 : 0.25),
    height: (x) => x / 10,
  });
  // A quarter of 5,000: three standard deviations are 92.
  expect(Math.abs(count - 1250)).toBeLessThan(92);
  for (let i = 0; i < count; i++) {
    expect(translations[i * 3]).toBeGreaterThanOrEqual(0);
    if (i % 100 === 0) expect(translations[i * 3 + 1]).toBeCloseTo(translations[i * 3]! / 10, 5);
  }
});

test('blue noise on a surface keeps its distance, lies on it and leaves no large gaps', () => {
  const distance = 0.15;
  const { count, translations, normals } = scatterOnSurface(sphere({ radius: 1 }), { distance, seed: 9 });
  let nearest = Infinity;
  for (let i = 0; i < count; i++) {
    const [x, y, z] = [0, 1, 2].map((k) => translations[i * 3 + k]!) as [number, number, number];
    expect(Math.hypot(x, y, z)).toBeGreaterThan(0.98);
    expect(Math.hypot(x, y, z)).toBeLessThan(1.00001);
    expect(
      [0, 1, 2].reduce((sum, k) => sum + normals[i * 3 + k]! * translations[i * 3 + k]!, 0),
    ).toBeGreaterThan(0.98);
    for (let j = 0; j < i; j++)
      nearest = Math.min(
        nearest,
        Math.hypot(x - translations[j * 3]!, y - translations[j * 3 + 1]!, z - translations[j * 3 + 2]!),
      );
  }
  expect(nearest).toBeGreaterThanOrEqual(distance * 0.99999);
  // The densest packing of circles of this size has 4 pi / (distance² √3 / 2); random packings reach over a half of it.
  const densest = (4 * Math.PI) / ((distance * distance * Math.sqrt(3)) / 2);
  expect(count / densest).toBeGreaterThan(0.5);
  expect(count / densest).toBeLessThan(1);
});

test('places along a way are evenly far from each other', () => {
  const path = pathThrough([
    [0, 0, 0],
    [10, 0, 0],
  ]);
  const { count, translations } = scatterAlong(path, { spacing: 2.4 });
  expect(count).toBe(5);
  expect([...translations].filter((_, i) => i % 3 === 0).map((x) => Math.round(x * 1e4) / 1e4)).toEqual([
    0, 2.5, 5, 7.5, 10,
  ]);
  const wide = scatterAlong(path, { spacing: 0.01, width: 3 });
  const aside = [...wide.translations].filter((_, i) => i % 3 === 2);
  expect(Math.max(...aside)).toBeGreaterThan(2.9);
  expect(Math.min(...aside)).toBeLessThan(-2.9);
  expect(Math.max(...aside.map(Math.abs))).toBeLessThanOrEqual(3);
});

test('a clump is that of the nearest middle', () => {
  for (let i = 0; i < 200; i++) {
    const [x, z] = [hashFloat(i, 0, 0, 3) * 50 - 25, hashFloat(i, 1, 0, 3) * 50 - 25];
    const clump = clumpAt(x, z, { size: 2, seed: 7 });
    expect(clump.distance).toBeCloseTo(Math.hypot(clump.x - x, clump.z - z), 9);
    // At its own middle it is found again, and no other place's clump is nearer.
    expect(clumpAt(clump.x, clump.z, { size: 2, seed: 7 })).toMatchObject({
      distance: 0,
      chance: clump.chance,
    });
    const other = clumpAt(x + 0.7, z - 0.4, { size: 2, seed: 7 });
    expect(Math.hypot(other.x - x, other.z - z)).toBeGreaterThanOrEqual(clump.distance - 1e-9);
  }
});

test('a picture is read as density between its pixels, and is nothing beside it', () => {
  const data = [0, 0, 0, 255, 255, 0, 0, 255];
  const density = densityOf({ width: 2, height: 1, data }, { width: 4, depth: 4 });
  expect(density(-1, 0, 0)).toBe(0);
  expect(density(0, 0, 0)).toBeCloseTo(0.5, 9);
  expect(density(1, 0, 1.5)).toBe(1);
  expect(density(2.5, 0, 0)).toBe(0);
  expect(() => densityOf({ width: 3, height: 1, data }, { width: 1, depth: 1 })).toThrow(
    expect.objectContaining({ code: 'scatter/picture' }),
  );
});

test('transforms stand along the ground as far as asked, turned within bounds', () => {
  const slope = {
    count: 1,
    translations: Float32Array.of(1, 2, 3),
    normals: Float32Array.of(Math.SQRT1_2, Math.SQRT1_2, 0),
  };
  const { rotations, scales } = transformsOf(slope, { turn: 0, scale: [2, 2] });
  // A turn of a quarter of pi about -Z takes +Y there.
  expect([...rotations].map((q) => Math.round(q * 1e5) / 1e5 + 0)).toEqual([0, 0, -0.38268, 0.92388]);
  expect(scales[0]).toBe(2);
  const upright = transformsOf(slope, { turn: 0, align: 0 });
  expect([...upright.rotations].map(Math.abs)).toEqual([0, 0, 0, 1]);
  expect(() => transformsOf(slope, { scale: [0, 1] })).toThrow(
    expect.objectContaining({ code: 'scatter/scale' }),
  );
});

test('a function in WGSL places copies, and its faults are told where they are', async () => {
  const wgsl = `fn place(i: u32, step: f32) -> Placing {
  var p: Placing;
  p.position = vec3f(f32(i) * step, 0, 0);
  p.scale = 1 + f32(i);
  if i == 1 { p.color = vec4f(1, 0, 0, 1); }
  return p;
}`;
  const placed = await transformsBy(wgsl, { count: 3, args: [0.5] });
  expect([...placed.translations]).toEqual([0, 0, 0, 0.5, 0, 0, 1, 0, 0]);
  expect([...placed.scales]).toEqual([1, 2, 3]);
  expect([...placed.rotations.subarray(0, 4)]).toEqual([0, 0, 0, 1]);
  expect([...placed.colors]).toEqual([1, 1, 1, 1, 1, 0, 0, 1, 1, 1, 1, 1]);
  await expect(transformsBy(wgsl.replace('step, 0', 'stop, 0'), { count: 1 })).rejects.toMatchObject({
    where: { file: 'place.wgsl', line: 3 },
  });
});

test('noise in WGSL is that of the script', () => {
  const text = readFileSync(new URL('../shading/library/surface/noise.wgsl', import.meta.url), 'utf8');
  const shader = compileWgsl(text, { file: 'noise.wgsl' });
  let [most, most2, hashes] = [0, 0, 0];
  for (let i = 0; i < 400; i++) {
    const at = [0, 1, 2].map((k) => Math.fround((hashFloat(i, k, 0, 8) - 0.5) * 200)) as [
      number,
      number,
      number,
    ];
    most = Math.max(most, Math.abs((runWgsl(shader, 'noise', [at, 5]) as number) - noise(...at, 5)));
    const flat = at.slice(0, 2) as [number, number];
    most2 = Math.max(
      most2,
      Math.abs((runWgsl(shader, 'noise2', [flat, -3]) as number) - noise(...flat, 0, -3)),
    );
    const cell = at.map(Math.floor);
    if (runWgsl(shader, 'hashFloat', [cell, i]) !== hashFloat(cell[0]!, cell[1], cell[2], i)) hashes++;
  }
  expect(hashes).toBe(0);
  expect(most).toBeLessThan(2e-6);
  expect(most2).toBeLessThan(2e-6);
});

test('what cannot be is said', () => {
  expect(() => scatterOnGrid({ width: 1, depth: 1, spacing: 0 })).toThrow(
    expect.objectContaining({ code: 'scatter/spacing' }),
  );
  expect(() => scatterOnGrid({ width: NaN, depth: 1, spacing: 1 })).toThrow(
    expect.objectContaining({ code: 'scatter/area' }),
  );
  const { attributes } = sphere();
  expect(() => scatterOnSurface({ ...sphere(), mode: 'lines' }, { distance: 1 })).toThrow(
    expect.objectContaining({ code: 'scatter/surface' }),
  );
  expect(attributeFloats(attributes['position']!).length).toBeGreaterThan(0);
});

test('what is scattered in a worker is what is scattered at once', async () => {
  const picture = { width: 2, height: 1, data: [255, 0, 0, 255, 64, 0, 0, 255] };
  const density = { picture, width: 40, depth: 40 };
  const grid = { width: 40, depth: 40, spacing: 0.5, seed: 7, density };
  const done: number[] = [];
  const found = await scatterInWorker(
    { grid, transforms: { lean: 0.3, scale: [0.5, 2] }, clumps: { size: 3 } },
    { onProgress: (share) => done.push(share) },
  );
  const here = scatterOnGrid(grid);
  expect(found.translations).toEqual(here.translations);
  expect(found.rotations).toEqual(transformsOf(here, { lean: 0.3, scale: [0.5, 2] }).rotations);
  expect(found.clumps).toEqual(clumpsOf(here.translations, { size: 3 }));
  expect(done.at(-1)).toBe(1);
  expect(done).toEqual([...done].sort((a, b) => a - b));
  // On the side where the picture is bright stand more.
  const left = here.translations.filter((x, i) => i % 3 === 0 && x < 0).length;
  expect(left).toBeGreaterThan(1.5 * (here.count - left));
  const surface = { geometry: sphere({ radius: 2 }), distance: 0.3 };
  const on = await scatterInWorker({ surface });
  expect(on.translations).toEqual(scatterOnSurface(surface.geometry, surface).translations);
});

test('with functions it is scattered here in pieces; what is wrong is told either way', async () => {
  const grid = { width: 60, depth: 60, spacing: 0.1, height: (x: number) => x / 10 };
  let turns = 0;
  const timer = setInterval(() => turns++, 1);
  const found = await scatterInWorker({ grid });
  clearInterval(timer);
  expect(turns).toBeGreaterThan(0);
  const here = scatterOnGrid(grid).translations;
  expect(found.translations.length).toBe(here.length);
  expect(found.translations.every((x, i) => x === here[i])).toBe(true);
  await expect(scatterInWorker({})).rejects.toThrow('it is not said where to scatter');
  await expect(scatterInWorker({ grid: { ...grid, spacing: 0 } })).rejects.toThrow('0 m apart');
  expect(() => scatterOnGrid({ width: 1e4, depth: 1e4, spacing: 0.001 })).toThrow(
    '10000000 x 10000000 places are too many',
  );
});
