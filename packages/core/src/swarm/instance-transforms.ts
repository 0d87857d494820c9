import { LensError } from '../errors/lens-error.js';
import { affineFromTrs } from '../math/affine.js';

/** Where the instances of a swarm stand, in the space of its node: flat arrays, instance after instance. */
export type InstanceTransforms =
  | {
      /** 3 an instance, metres. */
      translations: ArrayLike<number>;
      /** 4 an instance: unit quaternions xyzw. Default none is turned. */
      rotations?: ArrayLike<number>;
      /** 1 or 3 an instance, above 0. Default 1. */
      scales?: ArrayLike<number>;
    }
  /** 12 an instance: affine 3x4 by rows. */
  | { matrices: ArrayLike<number> };

/** Floats of a placing: affine 3x4 by rows. */
export const TRANSFORM_FLOATS = 12;

/** How many instances transforms are for. @throws LensError `swarm/length` */
export function countTransforms(given: InstanceTransforms): number {
  const count = 'matrices' in given ? given.matrices.length / 12 : given.translations.length / 3;
  if (!Number.isInteger(count)) {
    const [name, length] =
      'matrices' in given ? ['matrices', given.matrices.length] : ['translations', given.translations.length];
    throw new LensError('swarm/length', `${name} has ${length} numbers`, {
      hint: `It takes ${'matrices' in given ? 12 : 3} an instance.`,
    });
  }
  if ('matrices' in given) return count;
  const { rotations, scales } = given;
  checkLength('rotations', rotations, count, [4]);
  checkLength('scales', scales, count, [1, 3]);
  return count;
}

/** @throws LensError `swarm/length` */
export function checkLength(
  name: string,
  values: ArrayLike<number> | undefined,
  count: number,
  each: readonly number[],
): void {
  if (!values || each.some((components) => values.length === components * count)) return;
  throw new LensError('swarm/length', `${name} has ${values.length} numbers for ${count} instances`, {
    hint: `It takes ${each.join(' or ')} an instance.`,
  });
}

/**
 * Writes one placing as a matrix.
 *
 * @throws LensError `swarm/number` for what is not finite
 */
export function writeTransform(given: InstanceTransforms, copy: number, out: Float32Array, at: number): void {
  if ('matrices' in given) {
    for (let k = 0; k < 12; k++) out[at + k] = given.matrices[copy * 12 + k]!; // checked: 12 a copy
  } else {
    const { translations, rotations, scales } = given;
    const t = copy * 3; // lengths are checked, here and below
    translation[0] = translations[t]!;
    translation[1] = translations[t + 1]!;
    translation[2] = translations[t + 2]!;
    if (rotations) {
      const r = copy * 4;
      rotation[0] = rotations[r]!;
      rotation[1] = rotations[r + 1]!;
      rotation[2] = rotations[r + 2]!;
      rotation[3] = rotations[r + 3]!;
    } else {
      rotation[0] = rotation[1] = rotation[2] = 0;
      rotation[3] = 1;
    }
    if (!scales) scale[0] = scale[1] = scale[2] = 1;
    else if (scales.length === translations.length) {
      scale[0] = scales[t]!;
      scale[1] = scales[t + 1]!;
      scale[2] = scales[t + 2]!;
    } else scale[0] = scale[1] = scale[2] = scales[copy]!;
    affineFromTrs(out, at, translation, 0, rotation, 0, scale, 0);
  }
  let sum = 0;
  for (let k = 0; k < 12; k++) sum += out[at + k]! - out[at + k]!; // twelve numbers; 0 each, or NaN
  if (sum === 0) return;
  throw new LensError('swarm/number', `the transform of instance ${copy} is not finite`, {
    hint: 'See where its numbers are computed: 0 / 0, or a value that is undefined.',
  });
}

/** Writes where an instance stands, 3 floats. */
export function writePlace(given: InstanceTransforms, copy: number, out: Float32Array, at: number): void {
  if ('matrices' in given) {
    for (let k = 0; k < 3; k++) out[at + k] = given.matrices[copy * 12 + k * 4 + 3]!; // checked, as below
    return;
  }
  const { translations } = given;
  out[at] = translations[copy * 3]!;
  out[at + 1] = translations[copy * 3 + 1]!;
  out[at + 2] = translations[copy * 3 + 2]!;
}

const translation = new Float32Array(3);
const rotation = new Float32Array(4);
const scale = new Float32Array(3);
