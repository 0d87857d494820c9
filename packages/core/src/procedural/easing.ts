import { LensError } from '../errors/lens-error.js';
import { nearHint } from '../errors/near-names.js';

/** CSS's names (CSS Easing Functions Level 1). */
export type EasingName =
  'linear' | 'ease' | 'ease-in' | 'ease-out' | 'ease-in-out' | 'step-start' | 'step-end';

/** From the share of the time that is over to the share of the way that is done; both 0 to 1 at the ends. */
export type Easing = (share: number) => number;

const CURVES: Record<EasingName, Easing> = {
  linear: (share) => share,
  ease: bezier(0.25, 0.1, 0.25, 1),
  'ease-in': bezier(0.42, 0, 1, 1),
  'ease-out': bezier(0, 0, 0.58, 1),
  'ease-in-out': bezier(0.42, 0, 0.58, 1),
  'step-start': (share) => (share > 0 ? 1 : 0),
  'step-end': (share) => (share < 1 ? 0 : 1),
};

/**
 * The curve of a name, or of `cubic-bezier`'s four numbers: x1, y1, x2, y2, the x within 0 to 1. Before 0 and behind 1 the
 * way stands still.
 *
 * @throws LensError `motion/easing`
 */
export function easing(curve: EasingName | readonly [number, number, number, number]): Easing {
  const found = typeof curve === 'string' ? CURVES[curve] : bezier(...curve);
  if (!found)
    throw new LensError('motion/easing', `there is no easing "${String(curve)}"`, {
      hint: nearHint(String(curve), Object.keys(CURVES)),
    });
  return (share) => found(Math.min(1, Math.max(0, share)));
}

function bezier(x1: number, y1: number, x2: number, y2: number): Easing {
  const isFine = [x1, y1, x2, y2].every(Number.isFinite) && Math.min(x1, x2) >= 0 && Math.max(x1, x2) <= 1;
  if (!isFine)
    throw new LensError('motion/easing', `cubic-bezier(${x1}, ${y1}, ${x2}, ${y2}) is no easing`, {
      hint: 'The first and the third number are from 0 to 1, all are finite.',
    });
  const at = (a: number, b: number, t: number): number =>
    3 * a * t * (1 - t) * (1 - t) + 3 * b * t * t * (1 - t) + t * t * t;
  return (share) => {
    if (share <= 0 || share >= 1) return share <= 0 ? 0 : 1;
    // x grows with t, so halving always finds it; 30 rounds are finer than a float.
    let low = 0;
    let high = 1;
    for (let i = 0; i < 30; i++) {
      const middle = (low + high) / 2;
      if (at(x1, x2, middle) < share) low = middle;
      else high = middle;
    }
    return at(y1, y2, (low + high) / 2);
  };
}
