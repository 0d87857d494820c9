import { color, LensError, srgbFromLinear, temperatureColor } from '@umber-lens/core/engine';
import { readAmount } from './amount.js';

/** How a color is stored: light may be brighter than white. */
export type ColorKind = 'linear' | 'encoded';

/** A stored color as CSS has it, `#e0a050`; light that is brighter than white as the hue of it. */
export function cssOf(values: ArrayLike<number>, kind: ColorKind): string {
  const parts = Array.from({ length: 3 }, (_, k) => values[k] ?? 0);
  const most = Math.max(1, ...parts);
  const bytes = parts.map((part) => {
    const shown = kind === 'linear' ? srgbFromLinear(Math.max(0, part / most)) : part;
    return Math.round(Math.min(1, Math.max(0, shown)) * 255);
  });
  return `#${bytes.map((byte) => byte.toString(16).padStart(2, '0')).join('')}`;
}

/**
 * A typed color, stored: CSS (`#e0a050`, `tomato`), a temperature (`2700K`), or numbers (`1 0.5 0.2`). What it is brighter than white by, and the
 * alpha of four numbers, stay.
 *
 * @throws LensError for what is no color
 */
export function readColor(text: string, before: ArrayLike<number>, kind: ColorKind): number[] {
  const given = text.trim();
  const rest = Array.from(before).slice(3);
  if (/^[\d.,+*/() -]+K$/.test(given))
    return [...temperatureColor(readAmount(given, 'kelvin')).map(rounded), ...rest];
  const numbers = given.split(/[\s,]+/).map(Number);
  if ((numbers.length === 3 || numbers.length === 3 + rest.length) && numbers.every(Number.isFinite))
    return [...numbers.slice(0, 3), ...(numbers.length > 3 ? numbers.slice(3) : rest)];
  const parts = readCss(given);
  const most = Math.max(1, ...Array.from(before).slice(0, 3));
  return [...parts.map((part) => rounded(kind === 'linear' ? part * most : srgbFromLinear(part))), ...rest];
}

function readCss(text: string): [number, number, number] {
  try {
    return color(text);
  } catch {
    throw new LensError('viewfinder/color', `"${text}" is no color`, {
      hint: 'Write #e0a050, a name of CSS, a temperature (2700K), or three numbers.',
    });
  }
}

const rounded = (value: number): number => Number(value.toPrecision(4));
