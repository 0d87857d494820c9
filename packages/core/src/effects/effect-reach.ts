import type { Effect } from './effect.js';

/** The first of two numbers or the second, where there may be one for both. */
const along = (given: number | readonly number[] | undefined, axis: number, usual: number): number =>
  given === undefined ? usual : typeof given === 'number' ? given : (given[axis] ?? usual);

/**
 * How far a list of effects carries what is there, at most: blurs count to three deviations, as they are drawn.
 *
 * @param axis 0 across, 1 down
 * @returns pixels, 0 or more
 */
export function effectReach(effects: readonly Effect[], axis: 0 | 1): number {
  let sum = 0;
  for (let i = 0; i < effects.length; i++) {
    const effect = effects[i] as Effect | null; // i < length
    // What is none is told while developing.
    if (!effect) continue;
    if (effect.type === 'blur') sum += 3 * along(effect.stdDeviation, axis, 0);
    else if (effect.type === 'drop-shadow')
      sum += Math.abs(effect.offset?.[axis] ?? 2) + 3 * along(effect.stdDeviation, axis, 2);
    else if (effect.type === 'offset') sum += Math.abs((axis === 0 ? effect.dx : effect.dy) ?? 0);
    else if (effect.type === 'morphology') sum += along(effect.radius, axis, 0);
    else if (effect.type === 'displacement') sum += Math.abs(effect.scale ?? 0) / 2;
    // The widest of its levels.
    else if (effect.type === 'bloom') sum += 128;
    else if (effect.type === 'depth-of-field') sum += effect.maxRadius ?? 14;
    else if (effect.type === 'chromatic-aberration') sum += Math.abs(effect.amount ?? 4) / 2;
    else if (effect.type === 'outline') sum += Math.min(16, effect.width ?? 2);
    else if (effect.type === 'sharpen' || effect.type === 'smooth-edges') sum += 1;
    else if (effect.type === 'convolve') sum += along(effect.order, axis, 3);
  }
  return Math.max(0, sum) || 0;
}
