import { box } from '../geometry/flat-shapes.js';
import { attributeFrom, geometryFrom } from '../geometry/geometry.js';
import { icosphere, sphere, torus } from '../geometry/round-shapes.js';
import { axisAngle } from '../math/rotation.js';
import { poseNode } from '../pose/pose-node.js';
import { Scene } from '../scene/scene.js';
import { castRay, castRayAll } from './cast-ray.js';
import { cameraRay } from './camera-ray.js';
import { meetTriangle, meetTriangles } from './meet-triangles.js';
import { buildTriangleTree, triangleTreeSteps } from './triangle-tree.js';

function random(seed: number): () => number {
  let state = seed;
  return () => (state = (state * 16807) % 2147483647) / 2147483647;
}

test('rays by the thousand meet what all triangles asked one by one give', () => {
  const next = random(11);
  const position: number[] = [];
  for (let t = 0; t < 60; t++) {
    const at = [next() * 4 - 2, next() * 4 - 2, next() * 4 - 2];
    // Small ones, long ones, and some that lie flat along an axis.
    const size = t % 10 === 0 ? 3 : 0.4;
    for (let c = 0; c < 3; c++)
      position.push(...at.map((v, k) => (t % 7 === 0 && k === 1 ? v : v + (next() - 0.5) * size)));
  }
  const tree = buildTriangleTree(geometryFrom({ position }));
  let met = 0;
  for (let r = 0; r < 30_000; r++) {
    const origin = [next() * 6 - 3, next() * 6 - 3, next() * 6 - 3];
    const direction = [next() - 0.5, next() - 0.5, next() - 0.5];
    if (r % 5 === 0) direction[r % 3] = 0;
    const cull = ([-1, 0, 1] as const)[r % 3]!;
    const [one, other] = [
      { triangle: -1, distance: 0, u: 0, v: 0 },
      { triangle: -1, distance: 0, u: 0, v: 0 },
    ];
    const isFound = meetTriangles(tree, origin, direction, { cull, least: 0, most: Infinity }, one);
    let most = Infinity;
    for (let t = 0; t < 60; t++)
      if (meetTriangle(tree, t, origin, direction, cull, 0, most, other)) most = other.distance;
    if (isFound !== most < Infinity || one.triangle !== other.triangle || one.distance !== other.distance)
      throw new Error(`ray ${r}: ${JSON.stringify([one, other])}`);
    if (isFound) met++;
  }
  expect(met).toBeGreaterThan(1000);
});

test('a tree built in pieces is the same, and holds every triangle once', () => {
  const geometry = icosphere({ subdivisions: 4 });
  const steps = triangleTreeSteps(geometry);
  let pieces = 0;
  let step = steps.next();
  for (; !step.done; step = steps.next()) pieces++;
  expect(pieces).toBeGreaterThan(1);
  const whole = buildTriangleTree(geometry);
  expect(step.value.order).toEqual(whole.order);
  expect([...whole.order].sort((a, b) => a - b)).toEqual([...whole.order.keys()]);
  expect(whole.count.reduce((sum, n) => sum + n, 0)).toBe(whole.order.length);
});

test('a hit tells where, what and how', () => {
  const scene = new Scene();
  const float = scene.createNode({
    name: 'float',
    translation: [0, 0, -5],
    mesh: { geometry: sphere({ radius: 1 }) },
  });
  scene.createNode({ name: 'crate', translation: [0, 0, -9], scale: [2, 2, 2], mesh: { geometry: box() } });
  const ray = {
    origin: [0, 0.01, 0] as [number, number, number],
    direction: [0, 0, -3] as [number, number, number],
  };
  const hit = castRay(scene, ray)!;
  expect(hit.node).toBe(float);
  expect(hit.distance).toBeCloseTo(4, 1);
  expect(hit.point[2]).toBeCloseTo(-hit.distance, 5);
  expect(hit.normal[2]).toBeGreaterThan(0.99);
  expect(hit.texcoord).toHaveLength(2);
  const all = castRayAll(scene, ray);
  expect(all.map(({ node }) => node.name)).toEqual(['float', 'crate']);
  expect(all[1]!.distance).toBeCloseTo(8, 5);
  expect(castRay(scene, ray, { filter: ({ name }) => name !== 'float' })!.node.name).toBe('crate');
  expect(castRay(scene, ray, { far: 3 })).toBeUndefined();
  expect(castRay(scene, ray, { near: 7 })!.node.name).toBe('crate');
  float.setVisible(false);
  expect(castRay(scene, ray)!.node.name).toBe('crate');
  // From within, faces are seen from behind.
  const inside = {
    origin: [0, 0, -9] as [number, number, number],
    direction: [1, 0, 0] as [number, number, number],
  };
  expect(castRay(scene, inside)).toBeUndefined();
  expect(castRay(scene, inside, { bothSides: true })!.distance).toBeCloseTo(1, 5);
  expect(() => castRay(scene, { origin: [0, 0, 0], direction: [0, 0, 0] })).toThrow(/leads nowhere/);
});

test('mirrored and turned nodes are met where they are', () => {
  const scene = new Scene();
  const ring = torus({ radius: 1, tubeRadius: 0.3 });
  const node = scene.createNode({
    rotation: axisAngle([1, 1, 0], 0.6),
    scale: [-1.5, 1, 2],
    mesh: { geometry: ring },
  });
  const next = random(3);
  let met = 0;
  for (let i = 0; i < 400; i++) {
    const origin = [next() * 8 - 4, next() * 8 - 4, 6] as [number, number, number];
    const direction = [-origin[0] + next() - 0.5, -origin[1] + next() - 0.5, -6] as [number, number, number];
    const hit = castRay(scene, { origin, direction });
    const both = castRay(scene, { origin, direction }, { bothSides: true });
    // From outside the first face of a closed shape is one seen from in front.
    expect(hit?.distance).toBe(both?.distance);
    if (hit) met++;
  }
  expect(met).toBeGreaterThan(60);
  expect(node.isAlive).toBe(true);
});

test('bent meshes are met as they are bent', () => {
  const scene = new Scene();
  const joint = scene.createNode();
  const geometry = geometryFrom({
    position: [-1, -1, 0, 1, -1, 0, 0, 1, 0],
    joints0: Array<number>(12).fill(0),
    weights0: [1, 0, 0, 0, 1, 0, 0, 0, 1, 0, 0, 0],
  });
  geometry.targets = [
    { name: 'far', attributes: { position: attributeFrom([0, 0, -3, 0, 0, -3, 0, 0, -3], 3) } },
  ];
  const node = scene.createNode({ translation: [50, 0, 0], mesh: { geometry } });
  poseNode(node, { skin: { joints: [joint] } });
  const ray = {
    origin: [0, 0, 10] as [number, number, number],
    direction: [0, 0, -1] as [number, number, number],
  };
  expect(castRay(scene, ray)!.distance).toBeCloseTo(10, 5);
  node.setWeight('far', 1);
  expect(castRay(scene, ray)!.distance).toBeCloseTo(13, 5);
  joint.setTranslation(0, 0, 1);
  expect(castRay(scene, ray)!.distance).toBeCloseTo(12, 5);
  joint.setScale(-1, 1, 1);
  expect(castRay(scene, ray)!.distance).toBeCloseTo(12, 5);
  joint.setTranslation(9, 0, 0);
  expect(castRay(scene, ray)).toBeUndefined();
});

test('rays of cameras go through the places of their pictures', () => {
  const scene = new Scene();
  const camera = scene.createNode({
    translation: [1, 2, 3],
    camera: { type: 'perspective', yfov: Math.PI / 2, znear: 0.1 },
  });
  const corner = cameraRay(camera, 0, 0, 200, 100);
  expect(corner.origin).toEqual([1, 2, 3]);
  corner.direction.forEach((v, k) => expect(v).toBeCloseTo([-2, 1, -1][k]!, 5));
  camera.setCamera({ type: 'orthographic', xmag: 4, ymag: 2, znear: 0.1, zfar: 10 });
  const side = cameraRay(camera, 200, 50, 200, 100);
  side.origin.forEach((v, k) => expect(v).toBeCloseTo([5, 2, 3][k]!, 5));
  side.direction.forEach((v, k) => expect(v).toBeCloseTo([0, 0, -1][k]!, 5));
});
