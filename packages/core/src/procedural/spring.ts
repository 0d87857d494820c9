import { LensError } from '../errors/lens-error.js';

export interface SpringOptions {
  /** Seconds in which what is left of the way halves; 0 jumps there. Default 0.1. */
  halfLife?: number;
  /** Damping ratio: 1 (the default) comes without swinging as fast as can be, below it swings, above it creeps. Above 0. */
  damping?: number;
}

type Numbers = Float32Array | Float64Array | number[];

/**
 * Lets numbers go to a goal as springs do, by some seconds; `velocities` are kept by the caller, as many as there are
 * numbers. The sum is exact for any step (the closed form of the damped oscillator), so the way does not depend on the
 * frame rate.
 *
 * @throws LensError `motion/spring`
 */
export function spring(
  values: Numbers,
  velocities: Numbers,
  goals: ArrayLike<number>,
  delta: number,
  { halfLife = 0.1, damping = 1 }: SpringOptions = {},
): void {
  if (!(halfLife >= 0 && damping > 0 && delta >= 0 && halfLife + damping + delta < Infinity))
    throw new LensError(
      'motion/spring',
      `a spring with half-life ${halfLife}, damping ${damping} and a step of ${delta} cannot be`,
      { hint: 'Half-life and step are 0 or more, damping is above 0.' },
    );
  for (let i = 0; i < values.length; i++) {
    const goal = goals[i]!; // as many as values, here and below
    if (halfLife === 0) {
      values[i] = goal;
      velocities[i] = 0;
      continue;
    }
    const x = values[i]! - goal;
    const v = velocities[i]!;
    const decay = Math.LN2 / halfLife;
    if (damping < 1) {
      // Swings within an envelope that halves.
      const turn = (decay / damping) * Math.sqrt(1 - damping * damping);
      const [c, s] = [Math.cos(turn * delta), Math.sin(turn * delta)];
      const envelope = Math.exp(-decay * delta);
      const b = (v + decay * x) / turn;
      values[i] = goal + envelope * (x * c + b * s);
      velocities[i] = envelope * ((b * turn - decay * x) * c - (x * turn + decay * b) * s);
    } else if (damping === 1) {
      const envelope = Math.exp(-decay * delta);
      const b = v + decay * x;
      values[i] = goal + envelope * (x + b * delta);
      velocities[i] = envelope * (v - decay * b * delta);
    } else {
      // The slower of two rates is the one that halves.
      const root = Math.sqrt(damping * damping - 1);
      const slow = decay;
      const fast = (decay * (damping + root)) / (damping - root);
      const a = (v + fast * x) / (fast - slow);
      const b = x - a;
      const [p, q] = [a * Math.exp(-slow * delta), b * Math.exp(-fast * delta)];
      values[i] = goal + p + q;
      velocities[i] = -slow * p - fast * q;
    }
  }
}
