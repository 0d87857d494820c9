import { pictured } from './pictured.js';

test('of many nodes those in sight have pictures, all of few, and the first ones where none is seen', () => {
  const nodes = Array.from({ length: 10 }, (_, i) => `n${i}`);
  expect(pictured(nodes, new Set(['n8', 'n3']), 10)).toEqual([0, 1, 2, 3, 4, 5, 6, 7, 8, 9]);
  expect(pictured(nodes, new Set(['n8', 'n3']), 4)).toEqual([3, 8]);
  expect(pictured(nodes, new Set(nodes.slice(3)), 4)).toEqual([3, 4, 5, 6]);
  expect(pictured(nodes, new Set(), 4)).toEqual([0, 1, 2, 3]);
});
