import {
  irradianceAt,
  irradianceOf,
  type Panorama,
  panoramaCoordinates,
  panoramaDirection,
  skyPanorama,
  type SkyOptions,
  Scene,
  sunIrradiance,
  temperatureColor,
} from '../engine.js';

function panorama(value: (x: number, y: number, z: number) => number, height = 64): Panorama {
  const width = height * 2;
  const data = new Float32Array(width * height * 4);
  for (let row = 0; row < height; row++) {
    for (let column = 0; column < width; column++) {
      const light = value(...panoramaDirection((column + 0.5) / width, (row + 0.5) / height));
      data.set([light, light / 2, 0, 1], (row * width + column) * 4);
    }
  }
  return { width, height, data };
}

/** The cosine-weighted mean over the half of the directions, pixel by pixel. */
function bruteForce({ width, height, data }: Panorama, n: readonly number[], c: number): number {
  let sum = 0;
  for (let row = 0; row < height; row++) {
    const solid =
      ((2 * Math.PI) / width) *
      (Math.cos((row / height) * Math.PI) - Math.cos(((row + 1) / height) * Math.PI));
    for (let column = 0; column < width; column++) {
      const d = panoramaDirection((column + 0.5) / width, (row + 0.5) / height);
      sum +=
        data[(row * width + column) * 4 + c]! *
        solid *
        Math.max(0, d[0] * n[0]! + d[1] * n[1]! + d[2] * n[2]!);
    }
  }
  return sum / Math.PI;
}

test('directions and places in a panorama are each other reversed; the middle looks along -Z', () => {
  expect(panoramaDirection(0.5, 0.5).map((x) => Math.round(x * 1e6) / 1e6)).toEqual([0, 0, -1]);
  expect(panoramaDirection(0.75, 0.5).map((x) => Math.round(x * 1e6) / 1e6)).toEqual([1, 0, -0]);
  expect(panoramaDirection(0.3, 0)[1]).toBe(1);
  for (const [u, v] of [
    [0.1, 0.2],
    [0.6, 0.9],
    [0.99, 0.5],
  ] as const) {
    const [u2, v2] = panoramaCoordinates(...panoramaDirection(u, v));
    expect(u2).toBeCloseTo(u, 10);
    expect(v2).toBeCloseTo(v, 10);
  }
});

test('uniform light gives every surface the same irradiance', () => {
  const irradiance = irradianceOf(panorama(() => 2));
  for (const n of [
    [0, 1, 0],
    [0, -1, 0],
    [1, 0, 0],
    [0.6, 0, -0.8],
  ] as const) {
    const [red, green, blue] = irradianceAt(irradiance, n[0], n[1], n[2]);
    expect(red).toBeCloseTo(2, 3);
    expect(green).toBeCloseTo(1, 3);
    expect(blue).toBeCloseTo(0, 5);
  }
});

test('irradiance of a sky is the cosine-weighted mean within 3% of the brightest', () => {
  const sky = skyPanorama({ height: 64 });
  const irradiance = irradianceOf(sky);
  const normals = [
    [0, 1, 0],
    [0, -1, 0],
    [1, 0, 0],
    [0, 0, -1],
    [0.48, 0.6, -0.64],
    [-0.6, -0.64, 0.48],
  ] as const;
  for (let c = 0; c < 3; c++) {
    const exact = normals.map((n) => bruteForce(sky, n, c));
    const most = Math.max(...exact);
    normals.forEach((n, i) =>
      expect(Math.abs(irradianceAt(irradiance, n[0], n[1], n[2])[c]! - exact[i]!)).toBeLessThan(0.03 * most),
    );
  }
});

const at = (sky: Panorama, x: number, y: number, z: number): number[] => {
  const n = Math.hypot(x, y, z);
  const [u, v] = panoramaCoordinates(x / n, y / n, z / n);
  const column = Math.min(sky.width - 1, Math.floor(u * sky.width));
  const offset = (Math.min(sky.height - 1, Math.floor(v * sky.height)) * sky.width + column) * 4;
  return [...sky.data.subarray(offset, offset + 3)];
};

test('a clear sky is blue overhead, brighter around the sun, and its ground gives back what it should', () => {
  const sky = skyPanorama({ sunDirection: [0, 0.7, -0.7], turbidity: 2.5 });
  const [red, , blue] = at(sky, 0, 0.7, 0.7);
  expect(blue!).toBeGreaterThan(1.5 * red!);
  const luminance = ([r, g, b]: number[]): number => 0.2126 * r! + 0.7152 * g! + 0.0722 * b!;
  expect(luminance(at(sky, 0, 0.68, -0.72))).toBeGreaterThan(3 * luminance(at(sky, 0, 0.7, 0.7)));
  expect(sky.data.every((part) => part >= 0)).toBe(true);
  // A black ground shows the air before it, and nothing else.
  expect(skyPanorama({ groundAlbedo: [0, 0, 0] }).data[sky.data.length - 2]).toBeLessThan(0.02);
  const dark = skyPanorama({ sunDirection: [0, -0.3, -1] });
  expect(dark.data.every((part, i) => i % 4 === 3 || part < 1e-3)).toBe(true);
  const low = at(skyPanorama({ sunDirection: [0, 0.05, -1], turbidity: 4 }), 0, 0.03, -1);
  expect(low[0]!).toBeGreaterThan(low[2]!);
});

test.each([
  [{ sunDirection: [0, 0, 0] as const }, /no direction/],
  [{ turbidity: 1 }, /turbidity cannot be 1/],
  [{ groundAlbedo: [1.2, 0, 0] as const }, /cannot give back/],
  [{ height: 7.5 }, /7.5 pixels/],
])('a sky out of its range is refused: %j', (options, message) => {
  expect(() => skyPanorama(options as SkyOptions)).toThrow(message);
});

test('a lamp is warm, daylight is white, a deep sky is blue, all of one luminance', () => {
  const luminance = ([r, g, b]: readonly number[]): number => 0.2126 * r! + 0.7152 * g! + 0.0722 * b!;
  expect(temperatureColor(6504)).toEqual([1, 1, 1]);
  const [candle, sky] = [temperatureColor(1900), temperatureColor(20_000)];
  expect(candle[0]).toBeGreaterThan(4 * candle[2]);
  expect(sky[2]).toBeGreaterThan(1.5 * sky[0]);
  for (const kelvin of [1900, 3000, 5000, 9000, 20_000])
    expect(Math.abs(luminance(temperatureColor(kelvin)) - 1)).toBeLessThan(0.1);
  expect(() => temperatureColor(1000)).toThrow(/no colour is known for 1000 kelvin/);
  expect(() => temperatureColor(Number.NaN)).toThrow(/NaN/);
});

test('the sun is brighter and whiter the higher it stands', () => {
  const [high, low] = [sunIrradiance([0, 1, 0]), sunIrradiance([Math.sqrt(0.99), 0.1, 0])];
  expect(high[1]).toBeGreaterThan(5 * low[1]);
  expect(low[0] / low[2]).toBeGreaterThan(1.5 * (high[0] / high[2]));
  expect(sunIrradiance([0, -0.2, -1])).toEqual([0, 0, 0]);
});

test('nodes refuse shadows, clones do as their originals, and rows that move keep it', () => {
  const scene = new Scene();
  const node = scene.createNode({ name: 'glow', castsShadow: false });
  expect([node.castsShadow, node.receivesShadow]).toEqual([false, true]);
  node.setShadows(true, false);
  const twin = node.clone();
  expect([twin.castsShadow, twin.receivesShadow]).toEqual([true, false]);
  const later = scene.createNode();
  node.setParent(later);
  expect([node.castsShadow, node.receivesShadow]).toEqual([true, false]);
  expect(scene.createNode().receivesShadow).toBe(true);
});
