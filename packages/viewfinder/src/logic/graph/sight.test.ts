import { readGraph } from '@umber-lens/core/graphs';
import fc from 'fast-check';
import { holds } from '../../../../../tests/holds.js';
import { cardsOf } from './graph-cards.js';
import { extentOf, lookAtAll } from '../../interface/graph/graph-look.js';
import { CARD, type CardPlace } from './graph-layout.js';
import { along, boundsOfLink } from './link-routes.js';
import { covers, crossesSight, fromLookTo, type GraphLook, keysWithin, sightOf } from './sight.js';

const SIZE = { width: 400, height: 300 };
const number = (min: number, max: number): fc.Arbitrary<number> => fc.double({ min, max, noNaN: true });
const aLook: fc.Arbitrary<GraphLook> = fc.record({
  x: number(-900, 900),
  y: number(-900, 900),
  scale: number(0.02, 1.6),
});

test('a card is in sight as soon as an edge of it is', () => {
  const graph = readGraph(
    '{ "graph": 1, "nodes": { "a": { "value": 1 }, "b": { "value": 2 } }, "hooks": { "surface": { "roughness": "@a", "metallic": "@b" } } }',
  );
  const cards = cardsOf(graph, new Map());
  const at = (x: number, scale: number): string[] =>
    keysWithin(
      cards.filter(({ isHook }) => !isHook),
      new Map([
        ['a', { x, y: 0 }],
        ['b', { x: 900, y: 9000 }],
      ]),
      sightOf({ scale, x: 100, y: 0 }, { width: 400, height: 300 }),
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

test('what was drawn for one look stands, moved and scaled, where it is drawn for another', () => {
  holds(
    fc.property(aLook, aLook, number(-5000, 5000), number(0, 1), (drawn, now, at, room) => {
      // A place of the graph on the picture, as it was drawn; and where the picture's corner is moved.
      const on = drawn.x + SIZE.width * room + at * drawn.scale;
      const { scale, x } = fromLookTo(drawn, now, SIZE, room);
      expect(x + on * scale - SIZE.width * room).toBeCloseTo(now.x + at * now.scale, 5);
    }),
  );
});

test('it does as long as all that is seen was drawn, at about its size', () => {
  const drawn = { x: 0, y: 0, scale: 1 };
  const does = (x: number, y: number, scale: number, room = 0.5): boolean =>
    covers(sightOf(drawn, SIZE, room), sightOf({ x, y, scale }, SIZE));
  expect([does(0, 0, 1), does(200, 0, 1), does(-200, 150, 1), does(0, -150, 1)]).toEqual([
    true,
    true,
    true,
    true,
  ]);
  expect([does(201, 0, 1), does(-201, 0, 1), does(0, 151, 1), does(0, -151, 1)]).toEqual([
    false,
    false,
    false,
    false,
  ]);
  // Nearer by less than twice; farther as long as it reaches.
  expect([does(0, 0, 1.9), does(0, 0, 2.1), does(100, 75, 0.55), does(0, 0, 0.45, 5)]).toEqual([
    true,
    false,
    true,
    false,
  ]);
  expect([does(0, 0, 1, 0), does(1, 0, 1, 0)]).toEqual([true, false]);
});

test('no link leaves its bounds, and one that is seen at all crosses what is seen', () => {
  const whole = fc.integer({ min: -2000, max: 2000 });
  const place = fc.record({ x: whole, y: whole });
  holds(
    fc.property(fc.array(place, { minLength: 2, maxLength: 5 }), aLook, (points, look) => {
      const bounds = boundsOfLink(points);
      const sight = sightOf(look, SIZE);
      for (const { x, y } of along(points)) {
        expect(x >= bounds.from.x - 1e-6 && x <= bounds.to.x + 1e-6).toBe(true);
        expect(y >= bounds.from.y - 1e-6 && y <= bounds.to.y + 1e-6).toBe(true);
        const isSeen = x > sight.from.x && x < sight.to.x && y > sight.from.y && y < sight.to.y;
        if (isSeen) expect(crossesSight(sight, bounds)).toBe(true);
      }
    }),
  );
});

test('all of a graph stands in the middle of its board, with room around it, and no larger than it is', () => {
  const cards = cardsOf({ graph: 1, nodes: { a: { value: 1 }, b: { value: 2 } }, hooks: {} }, new Map());
  for (const [width, height, far] of [
    [900, 500, 300],
    [900, 200, 3000],
    [300, 700, 40],
  ] as const) {
    const places: Record<string, CardPlace> = { a: { x: -70, y: 10 }, b: { x: far, y: 400 } };
    const placeOf = (key: string): CardPlace => places[key]!; // these two
    const { scale, x, y } = lookAtAll(cards, placeOf, width, height)!;
    const { foot, left, right, top } = extentOf(cards, placeOf);
    const room = [left * scale + x, top * scale + y, width - right * scale - x, height - foot * scale - y];
    expect([room[0], room[1]]).toEqual([expect.closeTo(room[2]!, 6), expect.closeTo(room[3]!, 6)]);
    expect(Math.min(...room)).toBeGreaterThan(19.9);
    expect(scale).toBeLessThanOrEqual(1);
    expect(scale === 1 || Math.min(...room) < 20.1).toBe(true);
  }
  expect(lookAtAll([], () => ({ x: 0, y: 0 }), 900, 500)).toBeUndefined();
});
