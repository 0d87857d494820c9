import { LensError } from '../errors/lens-error.js';

/** Upper limit of a segment count: beyond it a mistyped number would fill the memory. */
export const MOST_SEGMENTS = 4096;

/** A length in metres: finite, and above zero unless `least` says otherwise. */
export function length(name: string, value: number, least = 0, mayEqual = false): number {
  const isRight = Number.isFinite(value) && (mayEqual ? value >= least : value > least);
  if (!isRight) {
    throw new LensError('geometry/size', `${name} is ${value}`, {
      hint: `Give a finite number ${mayEqual ? 'of at least' : 'above'} ${least}.`,
    });
  }
  return value;
}

/** A count of segments: whole, from `least` to `most`. */
export function segments(name: string, value: number, least: number, most = MOST_SEGMENTS): number {
  if (!Number.isInteger(value) || value < least || value > most) {
    throw new LensError('geometry/segments', `${name} is ${value}`, {
      hint: `Give a whole number from ${least} to ${most}.`,
    });
  }
  return value;
}

/** Counts of cells along each axis. */
export function cellsOf(cells: readonly number[], axes: number): number[] {
  if (!Array.isArray(cells) || cells.length !== axes) {
    throw new LensError('geometry/segments', `cells is ${JSON.stringify(cells)}`, {
      hint: `Give a list of ${axes} counts, one for each axis.`,
    });
  }
  return cells.map((count: number, axis) => segments(`cells[${axis}]`, count, 1));
}

/** Slices of a circle by default: its outline is off by 1 - cos(pi / 32), half a percent of the radius. */
export const AROUND = 32;
/** Around a thin thing, such as a torus's tube: 2 percent of its radius. */
export const AROUND_THIN = 16;
