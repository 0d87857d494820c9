import type { Bounds } from '@umber-lens/core/engine';
import fc from 'fast-check';
import { holds } from '../../../../../tests/holds.js';
import type { GripName } from './grips.js';
import { type Neighbour, snapToBounds } from './snap-bounds.js';
import { dot, length, minus, unit, type Vec } from './vectors.js';

const cube = (x: number, y: number, z: number, half = 0.5): Bounds => ({
  min: [x - half, y - half, z - half],
  max: [x + half, y + half, z + half],
});
const quay: Neighbour = { name: 'quay', bounds: { min: [-4, -0.4, -3], max: [4, 0, 3] } };
const crate = cube(0, 5, 0);

test('along an axis a face ends on the face that is nearest, and says so', () => {
  expect(snapToBounds(crate, [0, -4.46, 0], 'y', [0, 1, 0], [quay], 0.1)).toEqual({
    by: [0, -4.5, 0],
    words: 'foot on top of quay',
  });
  // Out of reach the hand counts.
  expect(snapToBounds(crate, [0, -4.2, 0], 'y', [0, 1, 0], [quay], 0.1)).toEqual({
    by: [0, -4.2, 0],
    words: undefined,
  });
});

test('in a plane each axis of the world is taken by itself, and none across it', () => {
  const standing = cube(0, 0.53, 0);
  const snap = snapToBounds(standing, [3.46, 0, 2.52], 'zx', [0, 1, 0], [quay], 0.1);
  expect(snap.by[0]).toBeCloseTo(3.5);
  expect(snap.by[2]).toBeCloseTo(2.5);
  expect(snap.by[1]).toBe(0);
  expect(snap.words).toBe('right on right of quay, front on front of quay');
  expect(snapToBounds(standing, [0.02, 0, 1.2], 'view', [0, 0, 1], [quay], 0.1).words).toBe(
    'middle on middle of quay, foot on top of quay',
  );
});

test('what stands far off has no say', () => {
  const far: Neighbour = { name: 'buoy', bounds: cube(0, 0.5, 400) };
  expect(snapToBounds(crate, [0, -4.46, 0], 'y', [0, 1, 0], [far], 0.1).words).toBeUndefined();
});

const number = fc.double({ min: -3, max: 3, noNaN: true });
const vec = fc.tuple(number, number, number);
const grips = fc.constantFrom<GripName>('x', 'yz', 'zx', 'xy', 'view');

test('wherever it goes: along an axis it stays on it, in a plane in the plane, and never goes further than its reach', () => {
  holds(
    fc.property(vec, vec, vec, grips, fc.integer({ min: 0, max: 2 }), (at, by, tilt, grip, k) => {
      const square: Vec = [Number(k === 0), Number(k === 1), Number(k === 2)];
      const way = grip === 'x' ? unit([tilt[0], tilt[1], tilt[2] + 4]) : square;
      const near = [{ name: 'other', bounds: cube(...(at as [number, number, number]), 0.7) }];
      const { by: snapped, words } = snapToBounds(crate, by, grip, way, near, 0.2);
      const moved = minus(snapped, by);
      if (words === undefined) return expect(moved).toEqual([0, 0, 0]);
      expect(Math.max(...moved.map(Math.abs))).toBeLessThanOrEqual(0.2 / 0.1 + 1e-9);
      if (grip === 'x')
        expect(
          length(
            minus(moved, [way[0] * dot(moved, way), way[1] * dot(moved, way), way[2] * dot(moved, way)]),
          ),
        ).toBeLessThan(1e-9);
      else if (grip !== 'view') expect(dot(moved, way)).toBe(0);
      // A second look: there is nothing left to snap on the axes that were.
      const again = snapToBounds(crate, snapped, grip, way, near, 0.2);
      expect(length(minus(again.by, snapped))).toBeLessThan(1e-9);
    }),
  );
});
