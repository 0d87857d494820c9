import { axisAngle, multiplyRotations, rotationOfDegrees } from '@umber-lens/core/engine';
import fc from 'fast-check';
import { holds } from '../../../../../tests/holds.js';
import { readAmount, shownAmount } from './amount.js';
import { cssOf, readColor } from './shown-color.js';
import { degreesNear } from './turns.js';

describe('numbers that are typed', () => {
  test.each([
    ['2*1.5+1', undefined, 4],
    ['-(2 + 3) / 4', undefined, -1.25],
    ['1,5', undefined, 1.5],
    ['30cm', 'metres', 0.3],
    ['1m + 20cm', 'metres', 1.2],
    ['2 + 50cm', 'metres', 2.5],
    ['45deg', 'radians', Math.PI / 4],
    ['90', 'radians', Math.PI / 2],
    ['0.5turn / 2', 'radians', Math.PI / 2],
    ['1rad', 'radians', 1],
    ['5600K', 'kelvin', 5600],
    ['25%', undefined, 0.25],
    ['1e3', undefined, 1000],
    ['--2', undefined, 2],
  ] as const)('%s', (text, unit, value) => {
    expect(readAmount(text, unit)).toBeCloseTo(value, 12);
  });

  test.each([
    ['', 'it is empty'],
    ['2 +', 'a number is missing'],
    ['(1 + 2', 'a bracket is not closed'],
    ['3deg', 'it takes no unit'],
    ['1 / 0', 'it is no number'],
    ['2 3', 'it is no number'],
  ])('"%s" is refused: %s', (text, why) => {
    expect(() => readAmount(text)).toThrow(why);
  });

  test('a unit of another kind is refused with those that fit', () => {
    expect(() => readAmount('3deg', 'metres')).toThrow('none of mm, cm, m, km');
    expect(() => readAmount('2m * 3m', 'metres')).toThrow('two units are multiplied');
  });

  test('sums are those of JavaScript', () => {
    // Made as text with brackets around every step, so that both read the same tree.
    const sum = fc.letrec<{ any: string }>((tie) => ({
      any: fc.oneof(
        { depthSize: 'small' },
        fc.double({ min: 0.01, max: 99, noNaN: true }).map((n) => n.toFixed(2)),
        fc
          .tuple(tie('any'), fc.constantFrom('+', '-', '*', '/'), tie('any'))
          .map(([a, sign, b]) => `(${a}${sign}${b})`),
      ),
    })).any;
    holds(
      fc.property(sum, (text) => {
        const value = Number(new Function(`return ${text}`)());
        fc.pre(Number.isFinite(value));
        expect(readAmount(text)).toBeCloseTo(value, 6);
      }),
    );
  });

  test('what is shown is read back', () => {
    holds(
      fc.property(
        fc.double({ min: -1e4, max: 1e4, noNaN: true }),
        fc.constantFrom('metres', 'radians'),
        (value, unit) => {
          const step = unit === 'metres' ? 1e-4 : 1e-2 * (Math.PI / 180);
          expect(Math.abs(readAmount(shownAmount(value, unit), unit) - value)).toBeLessThanOrEqual(step);
        },
      ),
    );
    expect(shownAmount(Math.PI, 'radians')).toBe('180');
    expect(shownAmount(0.1 + 0.2)).toBe('0.3');
    expect(shownAmount(0.0000123)).toBe('0.0000123');
  });
});

describe('angles', () => {
  const turnBy = (a: readonly number[], b: readonly number[]): number =>
    Math.abs(a[0]! * b[0]! + a[1]! * b[1]! + a[2]! * b[2]! + a[3]! * b[3]!);

  test('are those of the same turn, and go on without a jump over ten whole turns about each axis', () => {
    for (const k of [0, 1, 2]) {
      let shown = [10, 20, 30];
      let rotation = [...rotationOfDegrees(shown)];
      const step = axisAngle([k === 0 ? 1 : 0, k === 1 ? 1 : 0, k === 2 ? 1 : 0], Math.PI / 180);
      let sum = 0;
      for (let i = 0; i < 3600; i++) {
        const next = [0, 0, 0, 1];
        multiplyRotations(next, 0, step, 0, rotation, 0);
        rotation = next;
        const now = degreesNear(rotation, shown);
        expect(turnBy(rotationOfDegrees(now), rotation)).toBeCloseTo(1, 5);
        // Near the pole the two others turn fast, but none leaps by half a turn.
        for (let j = 0; j < 3; j++) expect(Math.abs(now[j]! - shown[j]!)).toBeLessThan(90);
        sum += now[1] - shown[1]!;
        shown = now;
      }
      // About the world's Y the second angle has counted all of it.
      if (k === 1) expect(sum).toBeCloseTo(3600, 1);
    }
  });

  test('what was typed stays as it was typed', () => {
    for (const typed of [
      [0, 270, 0],
      [120, 0, 0],
      [90, 45, 0],
      [-90, 30, 10],
      [0, 0, 725],
    ])
      degreesNear(rotationOfDegrees(typed), typed).forEach((angle, k) =>
        expect(angle).toBeCloseTo(typed[k]!, 3),
      );
  });
});

describe('colors', () => {
  test('CSS, temperatures and numbers are read; what is brighter than white stays so', () => {
    expect(readColor('#ffffff', [0, 0, 0, 0.5], 'linear')).toEqual([1, 1, 1, 0.5]);
    // 0x80 is 0.2159 in linear light (IEC 61966-2-1).
    expect(readColor('#808080', [0, 0, 0], 'linear')[0]).toBeCloseTo(0.2159, 3);
    expect(readColor('0.1 0.2 0.3', [0, 0, 0], 'linear')).toEqual([0.1, 0.2, 0.3]);
    expect(readColor('white', [4, 2, 1], 'linear')).toEqual([4, 4, 4]);
    const [red, , blue] = readColor('2700K', [1, 1, 1], 'linear');
    expect(red!).toBeGreaterThan(3 * blue!);
    expect(() => readColor('rust-ish', [1, 1, 1], 'linear')).toThrow('is no color');
    expect(cssOf([1, 0, 0], 'linear')).toBe('#ff0000');
    expect(cssOf(readColor('#3a7bd5', [0, 0, 0], 'linear'), 'linear')).toBe('#3a7bd5');
    expect(cssOf(readColor('#3a7bd5', [0, 0, 0], 'encoded'), 'encoded')).toBe('#3a7bd5');
  });
});
