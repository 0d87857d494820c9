import { LensError } from '../errors/lens-error.js';
import { pause } from '../pauses/pause.js';
import type { Geometry } from '../geometry/geometry.js';
import { type Clumps, clumpsOf } from './clumps.js';
import { type GridOptions, gridSteps } from './on-grid.js';
import { type SurfaceOptions, surfaceSteps } from './on-surface.js';
import { transformsOf, type Scattered, type TurnOptions } from './scattered.js';

/** What is scattered, where, and what is wanted of it: one of `grid` and `surface`. */
export interface ScatterRequest {
  grid?: GridOptions;
  surface?: { geometry: Geometry } & SurfaceOptions;
  /** Turns and sizes by chance, as `transformsOf` gives them. */
  transforms?: TurnOptions;
  /** The clump of each, as `clumpsOf` gives them. */
  clumps?: { size: number; seed?: number };
}

export interface ScatterAnswer extends Scattered {
  /** With `transforms`. */
  rotations?: Float32Array;
  scales?: Float32Array;
  /** With `clumps`. */
  clumps?: Clumps;
}

/** Milliseconds of work between which others have their turn. */
const AT_ONCE = 8;
declare const performance: { now(): number };

/**
 * Scatters in pieces, between which the thread's other work has its turn.
 *
 * @throws LensError `scatter/request`, and as what is asked for
 */
export async function scatterInPieces(
  { grid, surface, transforms, clumps }: ScatterRequest,
  onProgress?: (done: number) => void,
): Promise<ScatterAnswer> {
  const steps =
    grid && !surface ? gridSteps(grid) : surface && !grid && surfaceSteps(surface.geometry, surface);
  if (!steps)
    throw new LensError('scatter/request', 'it is not said where to scatter', {
      hint: 'Give one of `grid` and `surface`.',
    });
  const more = (transforms ? 0.2 : 0) + (clumps ? 0.2 : 0);
  let until = performance.now() + AT_ONCE;
  let step = steps.next();
  for (; !step.done; step = steps.next()) {
    if (performance.now() < until) continue;
    onProgress?.(step.value * (1 - more));
    await pause();
    until = performance.now() + AT_ONCE;
  }
  const answer: ScatterAnswer = { ...step.value };
  if (transforms) {
    await pause();
    Object.assign(answer, transformsOf(step.value, transforms));
    onProgress?.(1 - more + 0.2);
  }
  if (clumps) {
    await pause();
    answer.clumps = clumpsOf(step.value.translations, clumps);
  }
  onProgress?.(1);
  return answer;
}
