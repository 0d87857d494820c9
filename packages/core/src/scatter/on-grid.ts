import { LensError } from '../errors/lens-error.js';
import { hashFloat } from '../procedural/noise.js';
import {
  checkSpacing,
  type DensityGiven,
  densityFunction,
  finished,
  Places,
  type Scattered,
} from './scattered.js';

/** Cells at most: a record of each would take 3 GB. */
const MOST_CELLS = 1 << 26;

export interface GridOptions {
  /** Metres along X and Z, about the origin. */
  width: number;
  depth: number;
  /** Metres from one cell of the grid to the next. */
  spacing: number;
  /** How far each strays from the middle of its cell: 0 not at all, 1 anywhere in it. Default 1. */
  jitter?: number;
  seed?: number;
  density?: DensityGiven;
  /** Height of the ground. Default 0. */
  height?: (x: number, z: number) => number;
}

/**
 * Places in a rectangle of the ground, one a cell of a grid, each strayed by chance (stratified sampling: Cook, "Stochastic
 * Sampling in Computer Graphics", 1986): evenly spread, and quick for millions.
 *
 * @throws LensError `scatter/spacing`, `scatter/area`
 */
export const scatterOnGrid = (options: GridOptions): Scattered => finished(gridSteps(options));

/** The same in steps: gives how much is done, 0..1, after each. @throws LensError as `scatterOnGrid` */
export function* gridSteps(options: GridOptions): Generator<number, Scattered> {
  const { width, depth, spacing, jitter = 1, seed = 1, height } = options;
  checkSpacing('spacing', spacing);
  const density = densityFunction(options.density);
  if (!(width >= 0 && depth >= 0 && width * depth < Infinity))
    throw new LensError('scatter/area', `nothing stands on ${width} x ${depth} m`, {
      hint: 'Give `width` and `depth` in metres.',
    });
  const columns = Math.max(1, Math.round(width / spacing));
  const rows = Math.max(1, Math.round(depth / spacing));
  if (columns * rows > MOST_CELLS)
    throw new LensError('scatter/spacing', `${columns} x ${rows} places are too many`, {
      hint: `At most ${MOST_CELLS} cells are gone through: make \`spacing\` larger, or scatter in several areas.`,
    });
  const places = new Places(density ? Math.ceil((columns * rows) / 4) : columns * rows);
  for (let row = 0; row < rows; row++) {
    for (let column = 0; column < columns; column++) {
      const aside = 0.5 + (hashFloat(column, row, 0, seed) - 0.5) * jitter;
      const along = 0.5 + (hashFloat(column, row, 1, seed) - 0.5) * jitter;
      const x = ((column + aside) / columns - 0.5) * width;
      const z = ((row + along) / rows - 0.5) * depth;
      const y = height?.(x, z) ?? 0;
      if (density && hashFloat(column, row, 2, seed) >= density(x, y, z)) continue;
      places.add(x, y, z);
    }
    yield (row + 1) / rows;
  }
  return places.done();
}
