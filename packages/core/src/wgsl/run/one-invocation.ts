import { LensError } from '../../errors/lens-error.js';
import type { Value } from '../types/values.js';

/**
 * A function over the invocations that run side by side, as one sees it that runs alone: the CPU
 * evaluates one at a time, so its group has one member, number 0.
 *
 * @throws LensError `wgsl/not-on-cpu` where another member is asked for
 */
export function subgroupCall(name: string, [value = 0, at]: Value[]): Value {
  if (name.startsWith('quad') || (at !== undefined && at !== 0)) {
    throw new LensError(
      'wgsl/not-on-cpu',
      `${name} asks another invocation, and on the CPU one runs at a time`,
      {
        hint: 'Run this shader on WebGPU.',
      },
    );
  }
  switch (name) {
    case 'subgroupElect':
      return true;
    case 'subgroupBallot':
      return [value ? 1 : 0, 0, 0, 0];
    case 'subgroupExclusiveAdd':
      return filled(value, 0);
    case 'subgroupExclusiveMul':
      return filled(value, 1);
    default:
      return value;
  }
}

const filled = (shape: Value, fill: number): Value => (Array.isArray(shape) ? shape.map(() => fill) : fill);
