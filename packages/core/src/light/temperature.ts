import { LensError } from '../errors/lens-error.js';

/**
 * Linear sRGB of a black body's light at a temperature, of luminance 1 and [1, 1, 1] at 6,504 K: as a light's colour
 * or for white balance. After Kim et al., "Design of Advanced Color Temperature Control System" (2002), whose cubic
 * curves hold from 1,667 to 25,000 kelvin.
 *
 * @throws LensError `light/temperature`
 */
export function temperatureColor(kelvin: number): [number, number, number] {
  if (!(kelvin >= 1667 && kelvin <= 25_000)) {
    throw new LensError('light/temperature', `no colour is known for ${kelvin} kelvin`, {
      hint: 'Give a temperature from 1,667 (a candle is 1,900) to 25,000 (a deep blue sky).',
    });
  }
  const white = blackBody(6504);
  return blackBody(kelvin).map((part, i) => Math.max(0, part / white[i]!)) as [number, number, number]; // three each
}

function blackBody(kelvin: number): [number, number, number] {
  const t = 1000 / kelvin;
  const x =
    kelvin <= 4000
      ? ((-0.2661239 * t - 0.234358) * t + 0.8776956) * t + 0.17991
      : ((-3.0258469 * t + 2.1070379) * t + 0.2226347) * t + 0.24039;
  const y =
    kelvin <= 2222
      ? ((-1.1063814 * x - 1.3481102) * x + 2.18555832) * x - 0.20219683
      : kelvin <= 4000
        ? ((-0.9549476 * x - 1.37418593) * x + 2.09137015) * x - 0.16748867
        : ((3.081758 * x - 5.8733867) * x + 3.75112997) * x - 0.37001483;
  const [bigX, bigZ] = [x / y, (1 - x - y) / y];
  return [
    3.2406 * bigX - 1.5372 - 0.4986 * bigZ,
    -0.9689 * bigX + 1.8758 + 0.0415 * bigZ,
    0.0557 * bigX - 0.204 + 1.057 * bigZ,
  ];
}
