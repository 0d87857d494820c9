import { box, plane } from '../geometry/flat-shapes.js';
import { attributeFloats } from '../geometry/geometry.js';
import { sphere } from '../geometry/round-shapes.js';
import { triangleCount } from '../geometry/triangles.js';
import { axisAngle } from '../math/rotation.js';
import { castRay } from '../pick/cast-ray.js';
import { Scene } from '../scene/scene.js';
import type { SceneNode } from '../scene/scene-node.js';
import { placeDecal } from './place-decal.js';

const material = { name: 'tar', alphaMode: 'blend' as const };

/** Area of what a node draws, in its own space. */
function areaOf(node: SceneNode): number {
  let area = 0;
  for (const { geometry } of node.mesh!.primitives) {
    const p = attributeFloats(geometry.attributes['position']!);
    const at = (i: number) => [0, 1, 2].map((k) => p[geometry.indices![i]! * 3 + k]!);
    for (let i = 0; i < geometry.indices!.length; i += 3) {
      const [a, b, c] = [at(i), at(i + 1), at(i + 2)];
      const [u, v] = [b, c].map((to) => to.map((value, k) => value - a[k]!)) as [number[], number[]];
      area +=
        Math.hypot(
          u[1]! * v[2]! - u[2]! * v[1]!,
          u[2]! * v[0]! - u[0]! * v[2]!,
          u[0]! * v[1]! - u[1]! * v[0]!,
        ) / 2;
    }
  }
  return area;
}

test('a stain on a floor is as large as was asked, lies just above it, and shows its picture upright', () => {
  const scene = new Scene();
  const floor = scene.createNode({
    name: 'quay',
    mesh: { geometry: plane({ width: 10, depth: 10, cells: [7, 1] }) },
  });
  const [stain, ...others] = placeDecal(scene, {
    position: [1, 0, 2],
    size: [2, 1],
    material,
    name: 'stain',
  });
  expect(others).toEqual([]);
  expect(stain!.parent === floor).toBe(true);
  expect(areaOf(stain!)).toBeCloseTo(2, 5);
  const { attributes, bounds } = stain!.mesh!.primitives[0]!.geometry;
  expect(bounds.min[1]).toBeCloseTo(0.002, 6);
  expect(bounds.max[1]).toBeCloseTo(0.002, 6);
  // Coordinates run from 0 to 1, and are those of the places they stand at.
  const [p, t] = [attributeFloats(attributes['position']!), attributeFloats(attributes['texcoord0']!)];
  expect([Math.min(...t), Math.max(...t)]).toEqual([0, 1]);
  const corners = new Set<string>();
  for (let v = 0; v < t.length / 2; v++) {
    const [u, w] = [t[v * 2]!, t[v * 2 + 1]!];
    if ([0, 1].includes(u) && [0, 1].includes(w))
      corners.add(`${u}${w} ${[0, 2].map((k) => p[v * 3 + k]!.toFixed(3)).join(' ')}`);
  }
  expect(corners.size).toBe(4);
  expect(castRay(scene, { origin: [1.5, 3, 2.2], direction: [0, -1, 0] })?.node).toBe(stain);
});

test('it follows corners, leaves out what is too steep, and is cut at its sides', () => {
  const scene = new Scene();
  const crate = scene.createNode({
    rotation: axisAngle([0, 1, 0], 0.4),
    translation: [0, 1, 0],
    mesh: { geometry: box() },
  });
  // Over an upper edge, from 45 degrees: half lies on the top, half on the side.
  const out = Math.sin(0.4);
  const along: [number, number, number] = [-out, -1, -Math.cos(0.4)];
  const both = placeDecal(scene, {
    position: [out / 2, 1.5, Math.cos(0.4) / 2],
    direction: along,
    size: [0.4, 0.4],
    depth: 1,
    material,
  });
  const onTop = placeDecal(scene, {
    position: [out / 2, 1.5, Math.cos(0.4) / 2],
    direction: along,
    size: [0.4, 0.4],
    depth: 1,
    material,
    maxAngle: 0.5,
  });
  expect(both).toHaveLength(1);
  // Each side is foreshortened by the root of 2: 0.4 x 0.2 x 1.414 x 2.
  expect(areaOf(both[0]!)).toBeCloseTo(0.4 * 0.4 * Math.SQRT2, 3);
  expect(onTop).toEqual([]);
  crate.setTranslation(5, 0, 0);
  expect(castRay(scene, { origin: [5, 3, 0], direction: [0, -1, 0] })?.point[1]).toBeCloseTo(0.5, 3);
});

test('scaled and mirrored things are painted in metres of the world', () => {
  const scene = new Scene();
  scene.createNode({ scale: [-2, 2, 2], mesh: { geometry: plane({ width: 4, depth: 4 }) } });
  const [mark] = placeDecal(scene, { position: [0, 0, 0], size: [1, 1], material, offset: 0.1 });
  expect(areaOf(mark!)).toBeCloseTo(0.25, 5);
  expect(mark!.mesh!.primitives[0]!.geometry.bounds.max[1]).toBeCloseTo(0.05, 6);
});

test('only what is named is painted, balls from the side that is met, and nothing where nothing is', () => {
  const scene = new Scene();
  const [a, b] = [0, 1].map((x) =>
    scene.createNode({ translation: [x, 0, 0], mesh: { geometry: sphere({ radius: 0.5 }) } }),
  );
  const wide = { position: [0.5, 0.5, 0] as const, size: [3, 3] as const, depth: 3, material };
  expect(placeDecal(scene, wide).map(({ parent }) => parent === a || parent === b)).toEqual([true, true]);
  const [onB] = placeDecal(scene, { ...wide, targets: [b!], maxAngle: Math.PI / 2 });
  expect(onB!.parent).toBe(b);
  // The upper half of the ball's triangles.
  const { geometry } = onB!.mesh!.primitives[0]!;
  expect(triangleCount(geometry)).toBe(triangleCount(b!.mesh!.primitives[0]!.geometry) / 2);
  expect(placeDecal(scene, { ...wide, position: [0, 50, 0] })).toEqual([]);
});

test.each<[string, object, string]>([
  ['no size', { size: [0, 1] }, 'decal/size'],
  ['no direction', { size: [1, 1], direction: [0, 0, 0] }, 'decal/direction'],
])('%s is refused', (_, options, code) => {
  expect(() => placeDecal(new Scene(), { position: [0, 0, 0], material, ...options } as never)).toThrow(
    expect.objectContaining({ code }),
  );
});
