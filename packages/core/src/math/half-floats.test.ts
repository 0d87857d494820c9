import { fromHalfFloats, toHalfFloats } from './half-floats.js';

test('half floats there and back: exact ones stay, others go to the nearest, ties to even', () => {
  const values = [
    0,
    1,
    -2,
    0.5,
    65504,
    2 ** -14,
    2 ** -24,
    -1.5 * 2 ** -24,
    1 + 2 ** -11,
    1 + 3 * 2 ** -11,
    70000,
    -Infinity,
    Number.NaN,
  ];
  const back = [...fromHalfFloats(toHalfFloats(new Float32Array(values)))];
  expect(back).toEqual([
    0,
    1,
    -2,
    0.5,
    65504,
    2 ** -14,
    2 ** -24,
    -(2 ** -23),
    1,
    1 + 2 ** -9,
    Infinity,
    -Infinity,
    Number.NaN,
  ]);
  // Every half float survives.
  const all = Uint16Array.from({ length: 65536 }, (_, i) => i).filter((word) => (word & 0x7c00) !== 0x7c00);
  expect(toHalfFloats(fromHalfFloats(all))).toEqual(all);
});
