import fc from 'fast-check';
import { holds } from '../../../../tests/holds.js';
import { axisAngle } from '../math/rotation.js';
import type { AnimationSampler } from './animation.js';
import { sampleAnimation } from './sample.js';

const sampler = (
  interpolation: AnimationSampler['interpolation'],
  components: number,
  input: number[],
  output: number[],
): AnimationSampler => ({
  interpolation,
  components,
  input: Float32Array.from(input),
  output: Float32Array.from(output),
});
const at = (of: AnimationSampler, time: number, kind: 'numbers' | 'rotation' = 'numbers'): number[] => {
  const out = Array<number>(of.components).fill(NaN);
  sampleAnimation(of, time, out, 0, kind);
  return out;
};

test('before the first key and behind the last the value stands still', () => {
  const line = sampler('linear', 3, [1, 3], [0, 2, 4, 10, 2, 0]);
  expect(at(line, -5)).toEqual([0, 2, 4]);
  expect(at(line, 1)).toEqual([0, 2, 4]);
  expect(at(line, 2)).toEqual([5, 2, 2]);
  expect(at(line, 2.5)).toEqual([7.5, 2, 1]);
  expect(at(line, 99)).toEqual([10, 2, 0]);
  expect(at(sampler('linear', 1, [2], [7]), 0)).toEqual([7]);
});

test('steps hold until the next key', () => {
  const steps = sampler('step', 1, [0, 1, 2], [5, 6, 7]);
  expect([0, 0.999, 1, 1.5, 2, 3].map((time) => at(steps, time)[0])).toEqual([5, 5, 6, 6, 7, 7]);
});

test('a cubic spline is the polynomial of the standard, its tangents a second each', () => {
  // From 1 with slope 3 to 5 with slope -2, in 2 seconds; at half time (1/8)(4 + 4) p + ... by hand.
  const spline = sampler('cubicspline', 1, [0, 2], [9, 1, 3, -2, 5, 9]);
  // 0.5 * 1 + 2 * 0.125 * 3 + 0.5 * 5 - 2 * 0.125 * -2
  expect(at(spline, 1)[0]).toBeCloseTo(0.5 + 0.75 + 2.5 + 0.5, 6);
  expect(at(spline, 0)).toEqual([1]);
  expect(at(spline, 2)).toEqual([5]);
  // The slopes at the ends are the tangents.
  expect((at(spline, 1e-3)[0]! - 1) / 1e-3).toBeCloseTo(3, 1);
  expect((5 - at(spline, 2 - 1e-3)[0]!) / 1e-3).toBeCloseTo(-2, 1);
});

test('rotations turn evenly, and the short way round', () => {
  const quarter = axisAngle([0, 0, 1], Math.PI / 2);
  const third = (list: number[]): number[] =>
    at(sampler('linear', 4, [0, 3], [0, 0, 0, 1, ...list]), 1, 'rotation');
  const expected = axisAngle([0, 0, 1], Math.PI / 6);
  third([...quarter]).forEach((v, k) => expect(v).toBeCloseTo(expected[k]!, 6));
  // The same turn, written with the other sign.
  third(quarter.map((v) => -v)).forEach((v, k) => expect(v).toBeCloseTo(expected[k]!, 6));
});

test('splines of rotations have unit length', () => {
  const [a, b] = [axisAngle([1, 0, 0], 0.3), axisAngle([0, 1, 0], 2)];
  const zero = [0, 0, 0, 0];
  const spline = sampler('cubicspline', 4, [0, 1], [...zero, ...a, ...zero, ...zero, ...b, ...zero]);
  const mean = a.map((v, k) => (v + b[k]!) / 2);
  const length = Math.hypot(...mean);
  at(spline, 0.5, 'rotation').forEach((v, k) => expect(v).toBeCloseTo(mean[k]! / length, 6));
});

test('whatever the last key was, the next is found', () => {
  holds(
    fc.property(
      fc.array(fc.integer({ min: 1, max: 50 }), { minLength: 1, maxLength: 40 }),
      fc.array(fc.tuple(fc.integer({ min: -10, max: 1200 }), fc.nat(60)), { maxLength: 20 }),
      (gaps, looks) => {
        let time = 0;
        const times = gaps.map((gap) => (time += gap));
        const steps = sampler(
          'step',
          1,
          times,
          times.map((_, i) => i),
        );
        for (const [when, hint] of looks) {
          const expected = Math.max(0, times.filter((key) => key <= when).length - 1);
          const out = [NaN];
          expect(sampleAnimation(steps, when, out, 0, 'numbers', hint)).toBe(expected);
          expect(out[0]).toBe(expected);
        }
      },
    ),
  );
});
