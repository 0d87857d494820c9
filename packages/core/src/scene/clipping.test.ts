import { box } from '../geometry/flat-shapes.js';
import { castRay, castRayAll } from '../pick/cast-ray.js';
import { findInRegion } from '../pick/find-in-region.js';
import { planesOf, clipRay, isCut } from './clipping.js';
import { Scene } from './scene.js';

/** Three sheets one behind the other, two of them in a crate. */
function sheets(): Scene {
  const scene = new Scene();
  const crate = scene.createNode({ name: 'crate' });
  for (const [name, z, parent] of [
    ['near', 2, crate],
    ['middle', 0, crate],
    ['far', -2, undefined],
  ] as const)
    scene.createNode({
      name,
      ...(parent ? { parent } : {}),
      translation: [0, 0, z],
      mesh: { geometry: box({ width: 2, height: 2, depth: 0.2 }) },
    });
  return scene;
}

const ray = { origin: [0.1, 0.2, 10], direction: [0, 0, -1] } as const;
const all = (scene: Scene): (string | undefined)[] =>
  castRayAll(scene, { origin: [...ray.origin], direction: [...ray.direction] }).map(({ node }) => node.name);

test('rays pass through what planes take away, and meet what they leave', () => {
  const scene = sheets();
  expect(all(scene)).toEqual(['near', 'middle', 'far']);
  scene.clipping = { planes: [[0, 0, -1, 1]] };
  expect(all(scene)).toEqual(['middle', 'far']);
  scene.clipping = {
    planes: [
      [0, 0, -3, 3],
      [0, 0, 1, 1],
    ],
  };
  expect(all(scene)).toEqual(['middle']);
  // Parallel to the ray, on either side of it.
  scene.clipping = { planes: [[0, 1, 0, -0.1]] };
  expect(all(scene)).toHaveLength(3);
  scene.clipping = { planes: [[0, 1, 0, -0.3]] };
  expect(all(scene)).toEqual([]);
  scene.clipping = { planes: [] };
  expect(all(scene)).toHaveLength(3);
});

test('of one node only its things are cut, and the back of what is cut open is met within', () => {
  const scene = sheets();
  scene.clipping = { planes: [[0, 0, -1, -5]], node: scene.find('crate')! };
  expect(all(scene)).toEqual(['far']);
  expect(isCut(scene.clipping, scene.find('near')!)).toBe(true);
  expect(isCut(scene.clipping, scene.find('far')!)).toBe(false);
  // Through the middle of the near sheet: its front is gone, and its back faces away.
  scene.clipping = { planes: [[0, 0, -1, 2]] };
  const open = { origin: [...ray.origin], direction: [...ray.direction] } as Parameters<typeof castRay>[1];
  expect(castRay(scene, open)?.node.name).toBe('middle');
  const within = castRay(scene, open, { bothSides: true });
  expect([within?.node.name, within?.point[2]]).toEqual(['near', expect.closeTo(1.9)]);
});

test('a region finds what planes leave of things; what lies wholly within goes by all of it', () => {
  const scene = sheets();
  const everywhere = [0, 0, 1, 100];
  const names = (contained: boolean): (string | undefined)[] =>
    findInRegion(scene, everywhere, { contained }).map(({ name }) => name);
  scene.clipping = { planes: [[0, 0, -1, -1]] };
  expect(names(false)).toEqual(['far']);
  expect(names(true)).toEqual(['near', 'middle', 'far']);
});

test('planes lie side by side; a part of a ray is narrowed and never widened', () => {
  expect([...planesOf({ planes: [[0, 1, 0, 2], Float32Array.of(1, 0, 0, -3)] })]).toEqual([
    0, 1, 0, 2, 1, 0, 0, -3,
  ]);
  const part: [number, number] = [1, 5];
  clipRay([0, 0, 1, 0], [0, 0, 3], [0, 0, -1], part);
  expect(part).toEqual([1, 3]);
  clipRay([0, 0, -1, 100], [0, 0, 3], [0, 0, -1], part);
  expect(part).toEqual([1, 3]);
  expect(() => planesOf({ planes: [[0, 0, 0, 1]] })).toThrow(/plane 0 is \[0, 0, 0, 1\]/);
});
