import fc from 'fast-check';
import { holds } from '../../../../../tests/holds.js';
import { along, type Box, farFrom, pathOf, routeOf } from './link-routes.js';

const card = (x: number, y: number): Box => ({ x, y, width: 208, height: 120 });
const isFree = (points: ReturnType<typeof routeOf>, boxes: readonly Box[]): boolean =>
  along(points).every(
    ({ x, y }) =>
      !boxes.some(
        (box) => x > box.x + 3 && x < box.x + box.width - 3 && y > box.y + 3 && y < box.y + box.height - 3,
      ),
  );

test('a link is a curve where nothing is in the way, and goes around what is', () => {
  const [from, to] = [
    { x: 208, y: 60 },
    { x: 800, y: 60 },
  ];
  const ends = [card(0, 0), card(800, 0)];
  expect(routeOf(from, to, ends)).toEqual([from, to]);
  const boxes = [...ends, card(400, 0)];
  const around = routeOf(from, to, boxes);
  expect(around).toHaveLength(6);
  expect(isFree(around, boxes)).toBe(true);
  expect(pathOf(around)).toMatch(/^M208 60L.*Q.*L800 60$/);
  expect(pathOf([from, to])).toMatch(/^M208 60C/);
  expect(farFrom({ x: 504, y: 60 }, [from, to])).toBeLessThan(14);
  expect(farFrom({ x: 504, y: 60 }, around)).toBeGreaterThan(60);
});

test('cards in rows and columns: no link crosses one, whatever it joins', () => {
  const boxes = Array.from({ length: 24 }, (_, i) => card((i % 6) * 270, Math.floor(i / 6) * 150));
  holds(
    fc.property(fc.nat(23), fc.nat(23), (a, b) => {
      fc.pre(boxes[a]!.x < boxes[b]!.x);
      const from = { x: boxes[a]!.x + 208, y: boxes[a]!.y + 22 };
      const to = { x: boxes[b]!.x, y: boxes[b]!.y + 75 };
      expect(isFree(routeOf(from, to, boxes), boxes)).toBe(true);
    }),
  );
});
