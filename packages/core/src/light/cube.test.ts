import {
  bakePanorama,
  cubeDirection,
  cubePlace,
  irradianceAt,
  LensError,
  type LightCube,
  lobeSamples,
  type Panorama,
  panoramaCoordinates,
  panoramaDirection,
  panoramaOfSides,
  readBakedKtx2,
  writeBakedKtx2,
} from '../engine.js';

/** Radiance that tells directions apart and changes slowly. */
const light = (x: number, y: number, z: number): [number, number, number] => [
  1 + 0.5 * x,
  1 + 0.5 * y * y,
  2 + z,
];

function panorama(width: number): Panorama {
  const height = width / 2;
  const data = new Float32Array(width * height * 4);
  for (let row = 0; row < height; row++)
    for (let column = 0; column < width; column++) {
      const way = panoramaDirection((column + 0.5) / width, (row + 0.5) / height);
      data.set([...light(...way), 1], (row * width + column) * 4);
    }
  return { width, height, data, name: 'slow' };
}

function read({ width, height, data }: Panorama, x: number, y: number, z: number): number[] {
  const [u, v] = panoramaCoordinates(x, y, z);
  const at =
    (Math.min(height - 1, Math.floor(v * height)) * width + Math.min(width - 1, Math.floor(u * width))) * 4;
  return [...data.slice(at, at + 3)];
}

const WAYS: [number, number, number][] = [
  [1, 0, 0],
  [-1, 0, 0],
  [0, 1, 0],
  [0, -1, 0],
  [0, 0, 1],
  [0, 0, -1],
  [0.6, 0.64, 0.48],
  [-0.36, 0.48, -0.8],
  [0.48, -0.8, 0.36],
];

test('places and directions of a cube belong together, as GPUs have them', () => {
  for (let side = 0; side < 6; side++)
    for (const x of [-0.9, 0.1, 0.7])
      for (const y of [-0.8, 0.2, 0.6]) {
        const [number, u, v] = cubePlace(...cubeDirection(side, x, y));
        expect(number).toBe(side);
        expect(u).toBeCloseTo(x, 12);
        expect(v).toBeCloseTo(y, 12);
      }
  // Seen from within, -Z is to the right on +X, and +Z below on +Y.
  expect(cubeDirection(0, 1, 0)).toEqual([1, -0, -1]);
  expect(cubeDirection(2, 0, 1)).toEqual([0, 1, 1]);
});

test('six pictures become a panorama that shows the same in every direction', () => {
  const side = 32;
  const sides = [0, 1, 2, 3, 4, 5].map((number): Panorama => {
    const data = new Float32Array(side * side * 4);
    for (let row = 0; row < side; row++)
      for (let column = 0; column < side; column++) {
        const way = cubeDirection(number, ((column + 0.5) / side) * 2 - 1, ((row + 0.5) / side) * 2 - 1);
        const n = Math.hypot(...way);
        data.set([...light(way[0] / n, way[1] / n, way[2] / n), 1], (row * side + column) * 4);
      }
    return { width: side, height: side, data };
  });
  const whole = panoramaOfSides(sides);
  expect([whole.width, whole.height]).toEqual([128, 64]);
  for (const way of WAYS)
    light(...way).forEach((value, c) => expect(read(whole, ...way)[c]! / value).toBeCloseTo(1, 1.5));
});

test('sides that are no cube are refused', () => {
  const square = (n: number): Panorama => ({ width: n, height: n, data: new Float32Array(n * n * 4) });
  expect(() => panoramaOfSides([square(4), square(4)])).toThrow(LensError);
  expect(() => panoramaOfSides([4, 4, 4, 4, 4, 8].map(square))).toThrow(/six sides of 4 x 4/);
  const flat = { ...square(4), width: 8, height: 2, name: 'left.png' };
  expect(() => panoramaOfSides([flat, ...[4, 4, 4, 4, 4].map(square)])).toThrow(/"left.png" is 8 x 2/);
});

test('what is baked is the sum over each lobe, and its irradiance that of the panorama', async () => {
  const fractions: number[] = [];
  const baked = bakePanorama(panorama(128), { side: 32, onProgress: (f) => fractions.push(f) });
  const { levels, irradiance } = baked.baked!;
  expect(levels.map(({ side }) => side)).toEqual([32, 16, 8, 4, 2, 1]);
  expect(fractions[0]).toBe(0);
  expect(fractions.at(-1)).toBe(1);
  // The lobe by many directions, straight from the light.
  for (const level of [1, 3]) {
    const { side, sides } = levels[level] as LightCube;
    const samples = lobeSamples(level / 5, 2000, 256);
    for (let number = 0; number < 6; number++) {
      const column = Math.floor(side / 2);
      const way = cubeDirection(number, ((column + 0.5) / side) * 2 - 1, ((column + 0.5) / side) * 2 - 1);
      const n = way.map((x) => x / Math.hypot(...way)) as [number, number, number];
      const t = Math.abs(n[0]) < 0.5 ? [1, 0, 0] : [0, 1, 0];
      const across = [n[1] * t[2]! - n[2] * t[1]!, n[2] * t[0]! - n[0] * t[2]!, n[0] * t[1]! - n[1] * t[0]!];
      const length = Math.hypot(...across);
      const a = across.map((x) => x / length) as [number, number, number];
      const b = [a[1] * n[2] - a[2] * n[1], a[2] * n[0] - a[0] * n[2], a[0] * n[1] - a[1] * n[0]];
      const sum = [0, 0, 0];
      let weights = 0;
      for (let i = 0; i < samples.length; i += 4) {
        const way2 = [0, 1, 2].map(
          (k) => a[k]! * samples[i]! + b[k]! * samples[i + 1]! + n[k]! * samples[i + 2]!,
        ) as [number, number, number];
        light(...way2).forEach((value, c) => (sum[c]! += value * samples[i + 2]!));
        weights += samples[i + 2]!;
      }
      const at = (column * side + column) * 4;
      sum.forEach((value, c) => expect(sides[number]![at + c]! / (value / weights)).toBeCloseTo(1, 1));
    }
  }
  expect(irradianceAt(irradiance, 0, 0, 1)[2]).toBeCloseTo(2 + 2 / 3, 1);
  // Written and read again it is the same, to half floats.
  const back = await readBakedKtx2(await writeBakedKtx2(baked));
  expect(back.name).toBe('slow');
  expect(back.baked!.irradiance).toEqual(irradiance);
  back.baked!.levels.forEach(({ side, sides }, level) => {
    expect(side).toBe(levels[level]!.side);
    sides.forEach((data, k) =>
      data.forEach((value, i) =>
        expect(Math.abs(value / levels[level]!.sides[k]![i]! - 1)).toBeLessThan(1e-3),
      ),
    );
  });
  for (const way of WAYS)
    light(...way).forEach((value, c) => expect(read(back, ...way)[c]! / value).toBeCloseTo(1, 1));
});

test('files that are no baked environment are refused with what they lack', async () => {
  const whole = await writeBakedKtx2(bakePanorama(panorama(32), { side: 32 }));
  const told = async (bytes: Uint8Array): Promise<string> =>
    String(await readBakedKtx2(bytes, 'sky.ktx2').catch((error: unknown) => error));
  expect(await told(whole.slice(0, 60))).toMatch(/ktx2\/broken|no whole KTX2/);
  const flat = whole.slice();
  new DataView(flat.buffer).setUint32(36, 1, true); // faces
  expect(await told(flat)).toMatch(/it is no cube/);
  const other = whole.slice();
  new DataView(other.buffer).setUint32(12, 43, true); // format
  expect(await told(other)).toMatch(/its pixels have format 43/);
  // A byte in the middle of what is packed.
  const torn = whole.slice();
  torn[torn.length - 200]! ^= 255;
  expect(await told(torn)).toMatch(/cannot be unpacked|instead of/);
  await expect(writeBakedKtx2(panorama(32))).rejects.toThrow(/nothing was baked/);
  // Whatever byte is changed, it ends well.
  for (let at = 12; at < Math.min(whole.length, 400); at += 9) {
    const changed = whole.slice();
    changed[at]! ^= 0x55;
    const result = await readBakedKtx2(changed).catch((error: unknown) => error);
    if (!(result instanceof LensError)) expect((result as Panorama).width).toBeGreaterThan(0);
  }
});
