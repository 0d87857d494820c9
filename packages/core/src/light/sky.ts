import { watchMade } from '#watch';
import { LensError } from '../errors/lens-error.js';
import { Atmosphere, SUN } from './atmosphere.js';
import { irradianceAt, irradianceOf } from './irradiance.js';
import { type Panorama, panoramaDirection } from './panorama.js';

// By name of their own: looked up once, not for every pixel.
const { abs, acos, asin, atan2, cos, floor, max, min, sin, sqrt } = Math;

export interface SkyOptions {
  /** Towards the sun; any length. Default: 35 degrees above the horizon, in front and to the right. */
  sunDirection?: readonly [number, number, number];
  /** Haze: 2 clear, 10 hazy. From 1.7 to 10, default 2.5. */
  turbidity?: number;
  /** How much of the light the ground gives back, 0..1. Default that of earth and dry grass, [0.15, 0.135, 0.1]. */
  groundAlbedo?: readonly [number, number, number];
  /** Height of the panorama in pixels, from 8; it is twice as wide. Default 128. */
  height?: number;
  /**
   * Whether the sun's disc is in the picture, darker towards its limb. For a picture without a light of the sun's own: a
   * directional light casts shadows, and would light things a second time. Default false.
   */
  sunDisc?: boolean;
}

/** Kilometres that the camera stands above the ground: the haze over the ground begins some degrees below the horizon. */
const CAMERA = 0.15;
/** Radians, half across. */
const SUN_RADIUS = 0.004654;
/** How the sun darkens towards its limb, for 680, 550 and 440 nm: Hestroffer and Magnan, "Wavelength dependency of the Solar limb darkening" (1998). */
const LIMB = [0.397, 0.503, 0.652] as const;

/**
 * A daylight sky as a panorama, computed from what the air is made of: molecules, haze and ozone, with light that is scattered
 * many times (see `Atmosphere`). Radiance 1 stands for 10,000 candela a square metre. Below the horizon is a diffuse ground
 * in the light of sky and sun, behind the air before it. When the sun sinks the sky goes through dusk as it does: 6 degrees
 * below it is some ten thousand times darker than at noon.
 *
 * @throws LensError `sky/range`
 */
export function skyPanorama(options: SkyOptions = {}): Panorama {
  const { sunDirection = [0.5, 0.7, -0.85], turbidity = 2.5, height = 128, sunDisc = false } = options;
  const { groundAlbedo = [0.15, 0.135, 0.1] } = options;
  const length = Math.hypot(...sunDirection);
  const refuse = (what: string, hint: string): never => {
    throw new LensError('sky/range', what, { hint });
  };
  if (!(length > 0 && length < Infinity)) refuse('the sun has no direction', 'Give a vector towards it.');
  if (!(turbidity >= 1.7 && turbidity <= 10))
    refuse(`the turbidity cannot be ${turbidity}`, 'The model holds from 1.7 (clear) to 10 (hazy).');
  if (!groundAlbedo.every((part) => part >= 0 && part <= 1))
    refuse(`the ground cannot give back ${groundAlbedo.join(', ')}`, 'Give three numbers from 0 to 1.');
  if (!(Number.isInteger(height) && height >= 8))
    refuse(`a sky cannot be ${height} pixels high`, 'Give a whole number from 8.');
  const sun = sunDirection.map((part) => part / length) as [number, number, number];
  const atmosphere = new Atmosphere(turbidity, groundAlbedo);
  const width = height * 2;
  const panorama: Panorama = { name: 'sky', width, height, data: new Float32Array(width * height * 4) };
  const horizon = height >> 1;
  const rgb: [number, number, number] = [0, 0, 0];
  const write = (row: number, view: SkyView): void => {
    for (let column = 0; column < width; column++) {
      const [x, y, z] = panoramaDirection((column + 0.5) / width, (row + 0.5) / height);
      view.read(x, y, z, rgb);
      panorama.data.set(rgb, (row * width + column) * 4);
      panorama.data[(row * width + column) * 4 + 3] = 1;
    }
  };
  const above = new SkyView(atmosphere, sun, undefined);
  for (let row = 0; row < horizon; row++) write(row, above);
  const around = irradianceAt(irradianceOf(panorama), 0, 1, 0);
  const sunlight = sunIrradiance(sun, turbidity);
  const ground = groundAlbedo.map((part, c) => part * (around[c]! + sunlight[c]! / Math.PI)); // three each
  const below = new SkyView(atmosphere, sun, ground);
  for (let row = horizon; row < height; row++) write(row, below);
  if (sunDisc) addSun(panorama, sun, atmosphere);
  return watchMade(panorama, 'sky', options);
}

/** Light of the sun on level ground, in the units of the panorama times steradians; a warm white that sinks with the sun. */
export function sunIrradiance(
  sun: readonly [number, number, number],
  turbidity = 2.5,
): [number, number, number] {
  const through: [number, number, number] = [0, 0, 0];
  clearAir(turbidity).throughTo(0, sun[1], through);
  return through.map((part) => SUN * part * max(0, sun[1])) as [number, number, number];
}

let lastAir: { turbidity: number; air: Atmosphere } | undefined;

function clearAir(turbidity: number): Atmosphere {
  if (lastAir?.turbidity !== turbidity) lastAir = { turbidity, air: new Atmosphere(turbidity, [0, 0, 0]) };
  return lastAir.air;
}

/** Half of the sky by its angles to the horizon and to the sun's side, finer near both; read between what was found. */
class SkyView {
  private readonly values: Float32Array;
  private readonly sunAngle: number;

  constructor(
    atmosphere: Atmosphere,
    sun: readonly [number, number, number],
    ground: readonly number[] | undefined,
  ) {
    this.values = new Float32Array(COLUMNS * ROWS * 3);
    this.sunAngle = atan2(sun[0], sun[2]);
    const out: [number, number, number] = [0, 0, 0];
    const level = sqrt(max(0, 1 - sun[1] * sun[1]));
    for (let row = 0; row < ROWS; row++) {
      const steep = (row / (ROWS - 1)) ** 2 * (Math.PI / 2) * (ground ? -1 : 1);
      // The rays of the ground begin where they meet it.
      const up = sin(ground ? min(steep, -HORIZON) : steep);
      const side = sqrt(1 - up * up);
      for (let column = 0; column < COLUMNS; column++) {
        const angle = (column / (COLUMNS - 1)) ** 2 * Math.PI;
        const toSun = up * sun[1] + side * level * cos(angle);
        atmosphere.along(CAMERA, up, toSun, sun[1], ground, out);
        this.values.set(out, (row * COLUMNS + column) * 3);
      }
    }
  }

  read(x: number, y: number, z: number, out: number[]): void {
    const turned = abs(atan2(x, z) - this.sunAngle);
    const angle = turned > Math.PI ? 2 * Math.PI - turned : turned;
    const u = sqrt(angle / Math.PI) * (COLUMNS - 1);
    const v = sqrt(abs(asin(max(-1, min(1, y)))) / (Math.PI / 2)) * (ROWS - 1);
    const i = min(COLUMNS - 2, floor(u));
    const j = min(ROWS - 2, floor(v));
    const [s, t] = [u - i, v - j];
    const a = (j * COLUMNS + i) * 3;
    const b = a + COLUMNS * 3;
    const { values } = this;
    for (let c = 0; c < 3; c++)
      out[c] =
        (values[a + c]! * (1 - s) + values[a + 3 + c]! * s) * (1 - t) + // four of the table
        (values[b + c]! * (1 - s) + values[b + 3 + c]! * s) * t;
  }
}

const COLUMNS = 64;
const ROWS = 64;
/** How far below the level the ground begins, from where the camera stands: radians. */
const HORIZON = acos(6360 / (6360 + CAMERA)) + 1e-4;

/** Adds the sun's disc: each pixel gets what of it lies in the pixel, found at some points of it. */
function addSun(
  { data, height, width }: Panorama,
  sun: readonly [number, number, number],
  air: Atmosphere,
): void {
  const through: [number, number, number] = [0, 0, 0];
  air.throughTo(CAMERA, sun[1], through);
  const solid = Math.PI * SUN_RADIUS * SUN_RADIUS;
  // Two directions across the one to the sun.
  const flat = Math.hypot(sun[0], sun[2]) || 1;
  const [sx, sz] = [sun[2] / flat, -sun[0] / flat];
  const [ux, uy, uz] = [sun[1] * sz, sun[2] * sx - sun[0] * sz, -sun[1] * sx];
  const points = 48;
  let weights = [0, 0, 0];
  const rings: { at: number; weight: number[] }[] = [];
  for (let i = 0; i < points; i++) {
    for (let k = 0; k < points; k++) {
      const [a, b] = [((i + 0.5) / points) * 2 - 1, ((k + 0.5) / points) * 2 - 1];
      const rr = a * a + b * b;
      if (rr > 1) continue;
      const [p, q] = [a * SUN_RADIUS, b * SUN_RADIUS];
      const x = sun[0] + sx * p + ux * q;
      const y = sun[1] + uy * q;
      const z = sun[2] + sz * p + uz * q;
      const [row, column] = pixelOf(x, y, z, width, height);
      const mu = sqrt(1 - rr);
      const weight = LIMB.map((power) => mu ** power);
      weights = weights.map((sum, c) => sum + weight[c]!); // three each, here and below
      rings.push({ at: (row * width + column) * 4, weight });
    }
  }
  for (const { at, weight } of rings) {
    const row = floor(at / 4 / width);
    const pixel =
      ((2 * Math.PI) / width) * (cos((row * Math.PI) / height) - cos(((row + 1) * Math.PI) / height));
    for (let c = 0; c < 3; c++) {
      // The whole disc brings the sun's light; a pixel that is larger than it shows the mean.
      const energy = (SUN * through[c]! * weight[c]!) / weights[c]!;
      data[at + c]! += energy / max(pixel, solid / rings.length);
    }
  }
}

function pixelOf(x: number, y: number, z: number, width: number, height: number): [number, number] {
  const length = Math.hypot(x, y, z);
  const v = acos(max(-1, min(1, y / length))) / Math.PI;
  const [dx, , dz] = panoramaDirection(0.5, 0.5);
  // The angle from the panorama's middle, turned as its columns go.
  const [ex, , ez] = panoramaDirection(0.75, 0.5);
  const u = 0.5 + atan2(x * ex + z * ez, x * dx + z * dz) / (2 * Math.PI);
  return [min(height - 1, floor(v * height)), min(width - 1, floor((((u % 1) + 1) % 1) * width))];
}
