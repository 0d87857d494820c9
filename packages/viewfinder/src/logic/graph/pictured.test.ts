import { readGraph } from '@umber-lens/core/graphs';
import { cardsOf } from './graph-cards.js';
import { CARD } from './graph-layout.js';
import { pictured, seenNodes } from './pictured.js';

test('of many nodes those in sight have pictures, all of few, and the first ones where none is seen', () => {
  const nodes = Array.from({ length: 10 }, (_, i) => `n${i}`);
  expect(pictured(nodes, new Set(['n8', 'n3']), 10)).toEqual([0, 1, 2, 3, 4, 5, 6, 7, 8, 9]);
  expect(pictured(nodes, new Set(['n8', 'n3']), 4)).toEqual([3, 8]);
  expect(pictured(nodes, new Set(nodes.slice(3)), 4)).toEqual([3, 4, 5, 6]);
  expect(pictured(nodes, new Set(), 4)).toEqual([0, 1, 2, 3]);
});

test('a card is in sight as soon as an edge of it is', () => {
  const graph = readGraph(
    '{ "graph": 1, "nodes": { "a": { "value": 1 }, "b": { "value": 2 } }, "hooks": { "surface": { "roughness": "@a", "metallic": "@b" } } }',
  );
  const cards = cardsOf(graph, new Map());
  const at = (x: number, scale: number): string[] =>
    seenNodes(
      cards,
      new Map([
        ['a', { x, y: 0 }],
        ['b', { x: 900, y: 9000 }],
      ]),
      { scale, x: 100, y: 0 },
      { width: 400, height: 300 },
    );
  // To the right of the board, at its right edge, in it, at its left edge, and beyond.
  expect([601, 599, 0, 2 - 200 - CARD.width, -200 - CARD.width].map((x) => at(x, 0.5))).toEqual([
    [],
    ['a'],
    ['a'],
    ['a'],
    [],
  ]);
  expect(at(0, 0.03)).toEqual(['a', 'b']);
});
