import colorString from 'color-string';
import { LensError } from '../errors/lens-error.js';
import { linearFromSrgb } from './srgb.js';

/**
 * A color of CSS as linear RGB, which is what materials, lights and fog take: a name, `#c84`, `#cc8844`, `rgb(204 136 68)`,
 * `hsl(...)`, `hwb(...)`, or a number such as 0xcc8844.
 *
 *     material.emissiveFactor = color('tomato');
 *
 * @returns red, green and blue, 0 to 1, linear
 * @throws LensError `color/unknown`
 */
export function color(css: string | number): [red: number, green: number, blue: number] {
  const [red, green, blue] = colorWithAlpha(css);
  return [red, green, blue];
}

/**
 * The same with the alpha that the text gives, else 1: for `baseColorFactor` and `scene.clearColor`.
 *
 * @returns red, green, blue and alpha, 0 to 1; all but alpha linear
 * @throws LensError `color/unknown`
 */
export function colorWithAlpha(
  css: string | number,
): [red: number, green: number, blue: number, alpha: number] {
  const isNumber = typeof css === 'number' && Number.isInteger(css) && css >= 0 && css <= 0xffffff;
  const text = isNumber ? `#${css.toString(16).padStart(6, '0')}` : css;
  const found = typeof text === 'string' ? encodedOf(text.trim()) : undefined;
  if (!found)
    throw new LensError('color/unknown', `"${String(css)}" is no color of CSS`, {
      hint: 'Give a name such as "tomato", "#cc8844", "rgb(204 136 68)", "hsl(30 60% 50%)", or 0xcc8844.',
    });
  const [red, green, blue, alpha] = found;
  return [linearFromSrgb(red), linearFromSrgb(green), linearFromSrgb(blue), alpha];
}

type Rgba = [red: number, green: number, blue: number, alpha: number];

/** As CSS encodes it, 0 to 1. Hues by CSS Color 4, 7.1 and 8.1. */
function encodedOf(text: string): Rgba | undefined {
  const found = colorString.get(text);
  if (!found) return undefined;
  const [a, b, c, alpha] = found.value as Rgba;
  if (found.model === 'rgb') return [a / 255, b / 255, c / 255, alpha];
  if (found.model === 'hsl') return [...rgbOfHue(a, b / 100, c / 100), alpha];
  const [white, black] = [b / 100, c / 100];
  const whole = Math.max(1, white + black);
  const [red, green, blue] = rgbOfHue(a, 1, 0.5).map(
    (part) => part * (1 - (white + black) / whole) + white / whole,
  ) as [number, number, number];
  return [red, green, blue, alpha];
}

function rgbOfHue(hue: number, saturation: number, lightness: number): [number, number, number] {
  const reach = saturation * Math.min(lightness, 1 - lightness);
  const part = (n: number): number => {
    const k = (n + hue / 30) % 12;
    return lightness - reach * Math.max(-1, Math.min(k - 3, 9 - k, 1));
  };
  return [part(0), part(8), part(4)];
}
