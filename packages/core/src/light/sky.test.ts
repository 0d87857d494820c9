import { type Panorama } from './panorama.js';
import { skyPanorama, sunIrradiance } from './sky.js';

type Rgb = [number, number, number];
const HEIGHT = 64;

const luminance = ([r, g, b]: readonly number[]): number => 0.2126 * r! + 0.7152 * g! + 0.0722 * b!;
const sunAt = (degrees: number): Rgb => [
  0,
  Math.sin((degrees * Math.PI) / 180),
  -Math.cos((degrees * Math.PI) / 180),
];

/** Light of the sky's half on level ground: the sum over its pixels. */
function skyLight({ data }: Panorama): Rgb {
  const sum: Rgb = [0, 0, 0];
  for (let row = 0; row < HEIGHT / 2; row++) {
    const [from, to] = [(row * Math.PI) / HEIGHT, ((row + 1) * Math.PI) / HEIGHT];
    const weight = ((Math.cos(from) - Math.cos(to)) * Math.PI * Math.cos((from + to) / 2)) / HEIGHT;
    for (let i = row * HEIGHT * 8; i < (row + 1) * HEIGHT * 8; i += 4)
      for (let c = 0; c < 3; c++) sum[c]! += weight * data[i + c]!;
  }
  return sum;
}

/** Chromaticity (CIE 1931) of linear sRGB. */
function chromaticity([r, g, b]: readonly number[]): [number, number] {
  const x = 0.4124 * r! + 0.3576 * g! + 0.1805 * b!;
  const y = luminance([r!, g!, b!]);
  const z = 0.0193 * r! + 0.1192 * g! + 0.9505 * b!;
  return [x / (x + y + z), y / (x + y + z)];
}

describe.each([0.5, 2, 5, 10, 20, 30, 40, 50, 65, 80])('with the sun at %d degrees', (degrees) => {
  const sun = sunAt(degrees);
  const sky = skyPanorama({ sunDirection: sun, height: HEIGHT });

  test('sun and sky are as bright as measured ones', () => {
    // Kilolux: "IES Calculation Procedures Committee, Recommended Practice for the Calculation of Daylight Availability", 1984,
    // for clear skies, with the air mass of Kasten and Young, 1989.
    const mass = 1 / (sun[1] + 0.50572 * (degrees + 6.07995) ** -1.6364);
    const direct = (luminance(sunIrradiance(sun)) / sun[1]) * 10;
    const measured = 127.5 * Math.exp(-0.21 * mass);
    // Low suns shine through haze that differs from day to day.
    expect(Math.abs(direct - measured)).toBeLessThan(degrees > 15 ? 0.16 * measured : 11);
    const around = luminance(skyLight(sky)) * 10;
    const clear = 0.8 + 15.5 * Math.sqrt(sun[1]);
    expect(around).toBeGreaterThan(0.5 * clear);
    expect(around).toBeLessThan(1.45 * clear);
  });

  test('the zenith has a colour of daylight', () => {
    // Judd and others, "Spectral Distribution of Typical Daylight", 1964: y of daylight by its x.
    const [x, y] = chromaticity([...sky.data.subarray(0, 3)]);
    expect(Math.abs(y - (2.87 * x - 3 * x * x - 0.275))).toBeLessThan(0.016);
    expect(x).toBeGreaterThan(0.23);
    expect(x).toBeLessThan(0.33);
  });

  test('the ground is lit by both, and hazy towards the horizon', () => {
    const at = (row: number): number[] => [...sky.data.subarray(row * HEIGHT * 8, row * HEIGHT * 8 + 3)];
    const lit = skyLight(sky).map((part, c) => part + sunIrradiance(sun)[c]!);
    at(HEIGHT - 1).forEach((part, c) => {
      expect(part).toBeGreaterThan(([0.15, 0.135, 0.1][c]! * lit[c]!) / Math.PI / 1.3);
      expect(part).toBeLessThan((([0.15, 0.135, 0.1][c]! * lit[c]!) / Math.PI) * 1.5);
    });
    const blue = ([r, , b]: number[]): number => b! / r!;
    expect(blue(at(HEIGHT / 2))).toBeGreaterThan(blue(at(HEIGHT - 1)));
  });
});

test('dusk is darker the deeper the sun is, and never black or broken', () => {
  const bright = [0, -3, -6, -9, -12].map((degrees) =>
    luminance(skyLight(skyPanorama({ sunDirection: sunAt(degrees), height: HEIGHT }))),
  );
  for (let i = 1; i < bright.length; i++) {
    expect(bright[i]).toBeLessThan(bright[i - 1]! / 2);
    expect(bright[i]).toBeGreaterThan(0);
  }
});

test('the disc brings the light of the sun, redder at its limb', () => {
  const sun: Rgb = [0.5, 0.5, Math.SQRT1_2];
  const height = 288;
  const [without, with_] = [false, true].map((sunDisc) =>
    skyPanorama({ sunDirection: sun, height, sunDisc }),
  );
  const sum: Rgb = [0, 0, 0];
  const lit: { red: number; all: number }[] = [];
  for (let row = 0; row < height; row++) {
    const pixel =
      (Math.PI / height) * (Math.cos((row * Math.PI) / height) - Math.cos(((row + 1) * Math.PI) / height));
    for (let i = row * height * 8; i < (row + 1) * height * 8; i += 4) {
      const more = [0, 1, 2].map((c) => with_!.data[i + c]! - without!.data[i + c]!);
      if (more[0]! <= 0) continue;
      lit.push({ red: more[0]! / more[2]!, all: more[1]! });
      for (let c = 0; c < 3; c++) sum[c]! += more[c]! * pixel;
    }
  }
  // Seen from a little above the ground, so through a little less haze.
  const direct = sunIrradiance(sun).map((part) => part / sun[1]);
  sum.forEach((part, c) => expect(part / direct[c]!).toBeGreaterThan(0.98));
  sum.forEach((part, c) => expect(part / direct[c]!).toBeLessThan(1.1));
  const [brightest] = [...lit].sort((a, b) => b.all - a.all);
  const [darkest] = [...lit].sort((a, b) => a.all - b.all);
  expect(darkest!.red).toBeGreaterThan(brightest!.red);
});
