import { box, castRay, geometryChanged, geometryFrom, Scene } from '../index.js';
import { changesSince } from './geometry-changes.js';

const TRIANGLE = [0, 0, 0, 1, 0, 0, 0, 1, 0];

test('changes are known since any version, until one may be all of it, or too many were made', () => {
  const geometry = geometryFrom({ position: new Float32Array(TRIANGLE) }, [0, 1, 2]);
  geometryChanged(geometry, { attribute: 'position', first: 1, count: 1 });
  geometryChanged(geometry, { attribute: 'indices' });
  expect(changesSince(geometry, 0)).toMatchObject([
    { attribute: 'position', first: 1, count: 1 },
    { attribute: 'indices', first: 0, count: 3 },
  ]);
  expect(changesSince(geometry, 1)).toHaveLength(1);
  geometryChanged(geometry);
  expect(changesSince(geometry, 0)).toBeUndefined();
  expect(changesSince(geometry, 3)).toEqual([]);
  for (let i = 0; i < 70; i++) geometryChanged(geometry, { attribute: 'position' });
  expect(changesSince(geometry, 3)).toBeUndefined();
});

test('the box and picking follow what was written', () => {
  const positions = new Float32Array(TRIANGLE);
  const geometry = geometryFrom({ position: positions });
  const scene = new Scene();
  scene.createNode({ mesh: { geometry } });
  const hit = (x: number): boolean =>
    castRay(scene, { origin: [x, 0.2, 1], direction: [0, 0, -1] }) !== undefined;
  expect([hit(0.2), hit(4)]).toEqual([true, false]);
  positions.set([9, 0, 0], 3);
  geometryChanged(geometry, { attribute: 'position', first: 1, count: 1 });
  expect(geometry.bounds.max).toEqual([9, 1, 0]);
  scene.drawables.regroup();
  expect([hit(0.2), hit(4)]).toEqual([true, true]);
  positions.set([1, 0, 0], 3);
  geometryChanged(geometry, { attribute: 'position' });
  expect(geometry.bounds.max).toEqual([1, 1, 0]);
  expect(hit(4)).toBe(false);
});

test.each([
  [{ attribute: 'positions' }, /no attribute "positions"/],
  [{ attribute: 'position', first: 20, count: 6 }, /has no 6 values from 20 on/],
  [{ attribute: 'position', first: -1 }, /values from -1 on/],
])('%j is refused', (change, said) => {
  expect(() => geometryChanged(box(), change)).toThrow(said);
});
