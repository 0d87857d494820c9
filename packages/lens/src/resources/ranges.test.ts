import { Ranges } from './ranges.js';

test('parts are taken from the first gap that is long enough, and gaps join again', () => {
  const ranges = new Ranges();
  expect(ranges.take(1)).toBeUndefined();
  ranges.grow(10);
  expect([ranges.take(4), ranges.take(3), ranges.take(2), ranges.take(2)]).toEqual([0, 4, 7, undefined]);
  ranges.give(0, 4);
  ranges.give(7, 2);
  // 0..4 and 7..10 are free.
  expect(ranges.take(5)).toBeUndefined();
  ranges.give(4, 3);
  expect(ranges.take(10)).toBe(0);
  ranges.grow(12);
  expect(ranges.capacity).toBe(12);
  ranges.give(5, 5);
  expect(ranges.take(7)).toBe(5);
});
