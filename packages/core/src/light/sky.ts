import { LensError } from '../errors/lens-error.js';
import { irradianceAt, irradianceOf } from './irradiance.js';
import { type Panorama, panoramaDirection } from './panorama.js';

export interface SkyOptions {
  /** Towards the sun; any length. Default: 35 degrees above the horizon, in front and to the right. */
  sunDirection?: readonly [number, number, number];
  /** Haze: 2 clear, 10 hazy. From 1.7 to 10, default 2.5. */
  turbidity?: number;
  /** How much of the light the ground gives back, 0..1. Default [0.2, 0.2, 0.2]. */
  groundAlbedo?: readonly [number, number, number];
  /** Height of the panorama in pixels, from 8; it is twice as wide. Default 128. */
  height?: number;
}

/**
 * A daylight sky as a panorama, after Preetham, Shirley and Smits, "A Practical Analytic Model for Daylight"
 * (1999). The sun's disc is not in it: put a directional light there, which casts shadows too. Radiance 1 stands
 * for 10,000 candela a square metre. Below the horizon is a matt ground in the light of sky and sun. When the sun
 * sinks the sky fades, and is dark 12 degrees below.
 *
 * @throws LensError `sky/range`
 */
export function skyPanorama(options: SkyOptions = {}): Panorama {
  const { sunDirection = [0.5, 0.7, -0.85], turbidity = 2.5, height = 128 } = options;
  const { groundAlbedo = [0.2, 0.2, 0.2] } = options;
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
  const sky = daylight(sun, turbidity);
  const width = height * 2;
  const panorama: Panorama = { name: 'sky', width, height, data: new Float32Array(width * height * 4) };
  const rgb = [0, 0, 0];
  const horizon = height >> 1;
  const write = (row: number, column: number): void => {
    panorama.data.set(rgb, (row * width + column) * 4);
    panorama.data[(row * width + column) * 4 + 3] = 1;
  };
  for (let row = 0; row < horizon; row++) {
    for (let column = 0; column < width; column++) {
      const [x, y, z] = panoramaDirection((column + 0.5) / width, (row + 0.5) / height);
      sky(x, y, z, rgb);
      write(row, column);
    }
  }
  const around = irradianceAt(irradianceOf(panorama), 0, 1, 0);
  const sunlight = sunIrradiance(sun, turbidity);
  for (let c = 0; c < 3; c++) rgb[c] = groundAlbedo[c]! * (around[c]! + sunlight[c]! / Math.PI); // three each
  for (let row = horizon; row < height; row++)
    for (let column = 0; column < width; column++) write(row, column);
  return panorama;
}

/** Light of the sun on level ground, in the units of the panorama times steradians; a warm white that sinks with the sun. */
export function sunIrradiance(
  sun: readonly [number, number, number],
  turbidity = 2.5,
): [number, number, number] {
  // About 100,000 lux through one air mass at turbidity 2; the path grows with the zenith angle (Kasten and Young, 1989).
  const height = Math.max(0, sun[1]);
  const degrees = 90 - (Math.acos(Math.min(1, height)) * 180) / Math.PI;
  const mass = 1 / (height + 0.50572 * (degrees + 6.07995) ** -1.6364);
  const through = [0.06, 0.1, 0.2].map((loss) => Math.exp(-loss * turbidity * 0.5 * mass));
  return through.map((part) => 13 * part * height) as [number, number, number];
}

type Sky = (x: number, y: number, z: number, out: number[]) => void;

function daylight(sun: readonly [number, number, number], t: number): Sky {
  // The model ends at the horizon; beyond it the light of the horizon fades.
  const sunY = Math.max(0.02, sun[1]);
  const fade = Math.min(1, Math.max(0, (sun[1] + 0.21) / 0.23)) ** 3;
  const zenith = Math.acos(sunY);
  const perez = [
    [
      0.1787 * t - 1.463,
      -0.3554 * t + 0.4275,
      -0.0227 * t + 5.3251,
      0.1206 * t - 2.5771,
      -0.067 * t + 0.3703,
    ],
    [
      -0.0193 * t - 0.2592,
      -0.0665 * t + 0.0008,
      -0.0004 * t + 0.2125,
      -0.0641 * t - 0.8989,
      -0.0033 * t + 0.0452,
    ],
    [
      -0.0167 * t - 0.2608,
      -0.095 * t + 0.0092,
      -0.0079 * t + 0.2102,
      -0.0441 * t - 1.6537,
      -0.0109 * t + 0.0529,
    ],
  ] as const;
  const chi = (4 / 9 - t / 120) * (Math.PI - 2 * zenith);
  const atZenith = [
    Math.max(0, (4.0453 * t - 4.971) * Math.tan(chi) - 0.2155 * t + 2.4192),
    chroma(
      t,
      zenith,
      [
        0.00166, -0.00375, 0.00209, 0, -0.02903, 0.06377, -0.03202, 0.00394, 0.11693, -0.21196, 0.06052,
        0.25886,
      ],
    ),
    chroma(
      t,
      zenith,
      [0.00275, -0.0061, 0.00317, 0, -0.04214, 0.0897, -0.04153, 0.00516, 0.15346, -0.26756, 0.0667, 0.26688],
    ),
  ] as const;
  const distribution = ([a, b, c, d, e]: (typeof perez)[number], cosTheta: number, gamma: number): number =>
    (1 + a * Math.exp(b / cosTheta)) * (1 + c * Math.exp(d * gamma) + e * Math.cos(gamma) ** 2);
  const scale = perez.map((p, i) => atZenith[i]! / distribution(p, 1, zenith)); // three each
  return (x, y, z, out) => {
    const cosTheta = Math.max(0.01, y);
    const gamma = Math.acos(Math.min(1, Math.max(-1, x * sun[0] + y * sun[1] + z * sun[2])));
    const [luminance, cx, cy] = perez.map((p, i) => scale[i]! * distribution(p, cosTheta, gamma)) as [
      number,
      number,
      number,
    ];
    // Thousands of candela to our unit, and xyY to linear sRGB (IEC 61966-2-1).
    const bigY = (Math.max(0, luminance) / 10) * fade;
    const bigX = (cx / cy) * bigY;
    const bigZ = ((1 - cx - cy) / cy) * bigY;
    out[0] = Math.max(0, 3.2406 * bigX - 1.5372 * bigY - 0.4986 * bigZ);
    out[1] = Math.max(0, -0.9689 * bigX + 1.8758 * bigY + 0.0415 * bigZ);
    out[2] = Math.max(0, 0.0557 * bigX - 0.204 * bigY + 1.057 * bigZ);
  };
}

/** A colour coordinate at the zenith: a cubic of the sun's angle whose coefficients are squares of the turbidity. */
function chroma(t: number, zenith: number, m: readonly number[]): number {
  let sum = 0;
  for (let row = 0; row < 3; row++) {
    const cubic =
      ((m[row * 4]! * zenith + m[row * 4 + 1]!) * zenith + m[row * 4 + 2]!) * zenith + m[row * 4 + 3]!; // 12 numbers
    sum += cubic * t ** (2 - row);
  }
  return sum;
}
