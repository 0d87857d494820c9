import { attributeFloats, type Geometry, geometryFrom } from '../geometry/geometry.js';
import { eachTriangle } from '../geometry/triangles.js';
import { box } from '../geometry/flat-shapes.js';
import { icosphere, torus } from '../geometry/round-shapes.js';
import type { Vec3 } from '../math/vectors.js';
import { axisAngle } from '../math/rotation.js';
import { poseNode } from '../pose/pose-node.js';
import { posedGeometry } from '../pose/posed-geometry.js';
import { Scene } from '../scene/scene.js';
import type { SceneNode } from '../scene/scene-node.js';
import { castRay } from './cast-ray.js';
import { cameraFrustum } from './camera-frustum.js';
import { findInBox, findInRegion } from './find-in-region.js';
import { findInSphere, nearestInTriangle } from './find-in-sphere.js';
import { hasTree, preparePicking, treeOf } from './tree-store.js';
import { buildTriangleTree, refitTriangleTree } from './triangle-tree.js';

function random(seed: number): () => number {
  let state = seed;
  return () => (state = (state * 16807) % 2147483647) / 2147483647;
}

function worldTriangles(node: SceneNode, geometry: Geometry): Vec3[][] {
  const m = node.readWorld(new Float64Array(12));
  const p = attributeFloats(geometry.attributes['position']!);
  const place = (v: number): Vec3 =>
    [0, 4, 8].map(
      (r) => m[r]! * p[v * 3]! + m[r + 1]! * p[v * 3 + 1]! + m[r + 2]! * p[v * 3 + 2]! + m[r + 3]!,
    ) as Vec3;
  const all: Vec3[][] = [];
  eachTriangle(geometry, (a, b, c) => void all.push([place(a), place(b), place(c)]));
  return all;
}

/** Nodes here and there, turned, stretched, some mirrored. */
function strewn(): Scene {
  const next = random(5);
  const scene = new Scene();
  const shapes = [box(), icosphere({ subdivisions: 2 }), torus()];
  for (let i = 0; i < 40; i++)
    scene.createNode({
      name: `${i}`,
      mesh: { geometry: shapes[i % 3]! },
      translation: [next() * 12 - 6, next() * 12 - 6, next() * 12 - 6],
      rotation: axisAngle([next() - 0.5, next() - 0.5, next() + 0.1], next() * 6),
      scale: [0.3 + next(), 0.3 + next(), (i % 4 === 0 ? -1 : 1) * (0.3 + next())],
    });
  return scene;
}

test('a sphere finds the nearest point of everything in it, as all triangles asked one by one give', () => {
  const scene = strewn();
  const next = random(9);
  scene.update();
  let found = 0;
  for (let round = 0; round < 30; round++) {
    const center: Vec3 = [next() * 12 - 6, next() * 12 - 6, next() * 12 - 6];
    const radius = next() * 3;
    const hits = findInSphere(scene, { center, radius });
    const expected = new Map<string, number>();
    for (const [node, mesh] of scene.meshes) {
      let least = Infinity;
      for (const [a, b, c] of worldTriangles(node, mesh.primitives[0]!.geometry)) {
        const out: Vec3 = [0, 0, 0];
        nearestInTriangle(out, center, a!, b!, c!);
        least = Math.min(least, Math.hypot(...out.map((v, k) => v - center[k]!)));
      }
      if (least <= radius) expected.set(node.name, least);
    }
    expect(hits.map(({ node }) => node.name).sort()).toEqual([...expected.keys()].sort());
    for (const { node, distance, point, normal } of hits) {
      expect(distance).toBeCloseTo(expected.get(node.name)!, 5);
      expect(point.map((v, k) => v + normal[k]! * distance)).toEqual(
        center.map((v) => expect.closeTo(v, 5) as number),
      );
    }
    found += hits.length;
  }
  expect(found).toBeGreaterThan(30);
});

test('the nearest place of a triangle is not farther than any of five hundred others', () => {
  const next = random(3);
  const vector = (): Vec3 => [next() * 4 - 2, next() * 4 - 2, next() * 4 - 2];
  for (let round = 0; round < 100; round++) {
    const [p, a, b, c, out]: Vec3[] = [vector(), vector(), vector(), vector(), [0, 0, 0]];
    nearestInTriangle(out!, p!, a!, b!, c!);
    const least = Math.hypot(...out!.map((v, k) => v - p![k]!));
    let others = Infinity;
    for (let i = 0; i < 500; i++) {
      let [u, v] = [next(), next()];
      if (u + v > 1) [u, v] = [1 - u, 1 - v];
      const at = a!.map((x, k) => x + (b![k]! - x) * u + (c![k]! - x) * v);
      others = Math.min(others, Math.hypot(...at.map((x, k) => x - p![k]!)));
    }
    expect(others).toBeGreaterThan(least - 1e-9);
  }
});

test('a box finds what a fine grid of rays meets in it', () => {
  const scene = strewn();
  const next = random(21);
  let found = 0;
  for (let round = 0; round < 12; round++) {
    const min: Vec3 = [next() * 10 - 6, next() * 10 - 6, next() * 10 - 6];
    const max = min.map((v) => v + 0.5 + next() * 4) as Vec3;
    const names = findInBox(scene, { min, max }).map(({ name }) => name);
    found += names.length;
    // Whatever a ray from side to side meets is in it.
    for (let i = 0; i < 400; i++) {
      const axis = i % 3;
      const origin = min.map((v, k) => (k === axis ? v : v + next() * (max[k]! - v))) as Vec3;
      const direction = [0, 1, 2].map((k) => (k === axis ? 1 : 0)) as Vec3;
      const hit = castRay(scene, { origin, direction }, { far: max[axis]! - min[axis]!, bothSides: true });
      if (hit) expect(names).toContain(hit.node.name);
    }
    // And what it finds is there: a sphere about the box's middle reaches it, and no corner is farther than that.
    const center = min.map((v, k) => (v + max[k]!) / 2) as Vec3;
    const radius = Math.hypot(...max.map((v, k) => v - center[k]!));
    const near = findInSphere(scene, { center, radius }).map(({ node }) => node.name);
    expect(near).toEqual(expect.arrayContaining(names));
    const inner = findInSphere(scene, { center, radius: Math.min(...max.map((v, k) => v - center[k]!)) });
    expect(names).toEqual(expect.arrayContaining(inner.map(({ node }) => node.name)));
  }
  expect(found).toBeGreaterThan(8);
});

test('a rectangle of the picture gives what it shows, or only what is wholly in it', () => {
  const scene = new Scene();
  const row = [-3, -1, 1, 3].map((x) =>
    scene.createNode({ name: `at ${x}`, mesh: { geometry: box() }, translation: [x, 0, 0] }),
  );
  const camera = scene.createNode({
    translation: [0, 0, 10],
    camera: { type: 'orthographic', xmag: 4, ymag: 4, znear: 0.1, zfar: 100 },
  });
  // A unit is 25 pixels of 200; the box at 1 covers x from 112.5 to 137.5.
  const names = (x: number, width: number, contained = false): string[] =>
    findInRegion(scene, cameraFrustum(camera, { x, y: 80, width, height: 40 }, 200, 200), { contained }).map(
      ({ name }) => name,
    );
  expect(names(100, 20)).toEqual(['at 1']);
  expect(names(100, 20, true)).toEqual([]);
  expect(names(110, 30, true)).toEqual(['at 1']);
  expect(names(140, -30, true)).toEqual(['at 1']);
  expect(names(60, 60)).toEqual(['at -1', 'at 1']);
  expect(names(0, 200, true)).toEqual(['at -3', 'at -1', 'at 1', 'at 3']);
  expect(names(113.5, 1)).toEqual(['at 1']);
  expect(names(111, 1)).toEqual([]);
  row[2]!.setVisible(false);
  expect(names(60, 60)).toEqual(['at -1']);
  expect(() => cameraFrustum(camera, { x: 0, y: 0, width: 0, height: 3 }, 10, 10)).toThrow('shows nothing');
});

test('trees are built in the background, and those who cannot wait leave out what has none', async () => {
  const scene = new Scene();
  const geometry = icosphere({ subdivisions: 5 });
  const node = scene.createNode({ mesh: { geometry } });
  const ray = { origin: [0, 0, 5] as Vec3, direction: [0.01, 0.02, -1] as Vec3 };
  expect(castRay(scene, ray, { readyOnly: true })).toBeUndefined();
  let turns = 0;
  const counting = setInterval(() => turns++, 0);
  await Promise.all([preparePicking(scene), preparePicking(scene)]);
  clearInterval(counting);
  expect(turns).toBeGreaterThan(2);
  expect(hasTree(geometry)).toBe(true);
  expect(castRay(scene, ray, { readyOnly: true })?.node).toBe(node);
});

test('a bent mesh keeps the order of its tree and gets other boxes', () => {
  const position = [];
  for (let i = 0; i < 90; i++) position.push(Math.sin(i * 7), Math.cos(i * 3), Math.sin(i * 5));
  const moves = Float32Array.from(position, (v, i) => (i % 3 === 0 ? v * 2 : -v));
  const scene = new Scene();
  const node = scene.createNode({
    mesh: {
      geometry: {
        ...geometryFrom({ position }),
        targets: [
          {
            name: 'swell',
            attributes: { position: geometryFrom({ position: moves }).attributes['position']! },
          },
        ],
      },
    },
  });
  poseNode(node, { weights: [0] });
  const next = random(31);
  for (const weight of [0, 0.5, 0.8, -0.7]) {
    node.setWeight('swell', weight);
    const posed = posedGeometry(node);
    const rest = treeOf(node.mesh!.primitives[0]!.geometry);
    const refitted = refitTriangleTree(rest, attributeFloats(posed.attributes['position']!));
    const fresh = buildTriangleTree(posed);
    expect([...refitted.boxes.subarray(0, 6)]).toEqual([...fresh.boxes.subarray(0, 6)]);
    const anew = new Scene();
    anew.createNode({ mesh: { geometry: posed } });
    let [met, differing] = [0, 0];
    for (let i = 0; i < 300; i++) {
      const ray = {
        origin: [next() * 8 - 4, next() * 8 - 4, next() * 8 - 4] as Vec3,
        direction: [next() - 0.5, next() - 0.5, next() - 0.5] as Vec3,
      };
      const [bent, plain] = [castRay(scene, ray), castRay(anew, ray)];
      if (bent?.triangle !== plain?.triangle || bent?.distance !== plain?.distance) differing++;
      if (plain) met++;
    }
    expect(met).toBeGreaterThan(3);
    expect(differing).toBe(0);
  }
});
