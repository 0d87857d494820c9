import fc from 'fast-check';
import { holds } from '../../../../tests/holds.js';
import {
  box,
  type CameraView,
  createCameraView,
  DrawList,
  facing,
  frameBounds,
  frameNode,
  Scene,
  type SceneNode,
  sphere,
  updateCameraView,
} from '../engine.js';
import { RadixSort } from './radix-sort.js';

const perspective = { type: 'perspective', yfov: Math.PI / 2, znear: 0.1 } as const;

function viewOf(cameraNode: SceneNode, aspect = 1): CameraView {
  const view = createCameraView();
  updateCameraView(view, cameraNode, aspect);
  return view;
}

/** Clip coordinates of a world point, divided by w. */
function project(view: CameraView, x: number, y: number, z: number): number[] {
  const m = view.viewProjection;
  const at = (row: number): number => m[row]! * x + m[4 + row]! * y + m[8 + row]! * z + m[12 + row]!;
  return [at(0) / at(3), at(1) / at(3), at(2) / at(3)];
}

test('depth is 1 at the near plane and falls to 0 at the far plane or at infinity', () => {
  const scene = new Scene();
  const infinite = viewOf(scene.createNode({ camera: perspective }));
  expect(project(infinite, 0, 0, -0.1)[2]).toBeCloseTo(1, 6);
  expect(project(infinite, 0, 0, -1e6)[2]).toBeCloseTo(1e-7, 9);
  const finite = viewOf(scene.createNode({ camera: { ...perspective, zfar: 50 } }));
  expect(project(finite, 0, 0, -0.1)[2]).toBeCloseTo(1, 5);
  expect(project(finite, 0, 0, -50)[2]).toBeCloseTo(0, 6);
  const flat = viewOf(
    scene.createNode({ camera: { type: 'orthographic', xmag: 2, ymag: 1, znear: 1, zfar: 3 } }),
    2,
  );
  expect(project(flat, 2, 1, -1)).toEqual([1, 1, 1]);
  expect(project(flat, 0, 0, -2)[2]).toBeCloseTo(0.5, 6);
});

test('a perspective of 90 degrees puts 45 degrees at the edge, whatever scale the node has', () => {
  const scene = new Scene();
  const cameraNode = scene.createNode({
    translation: [1, 2, 3],
    rotation: facing([1, 0, 0]),
    scale: [3, 3, 3],
    camera: perspective,
  });
  const [x, y] = project(viewOf(cameraNode, 2), 1 + 5, 2 + 5, 3);
  expect(x).toBeCloseTo(0, 5);
  expect(y).toBeCloseTo(1, 5);
});

test('an orthographic view is widened to its target, never stretched', () => {
  const scene = new Scene();
  const cameraNode = scene.createNode({
    camera: { type: 'orthographic', xmag: 1, ymag: 1, znear: 0, zfar: 10 },
  });
  expect(project(viewOf(cameraNode, 2), 2, 1, -1).slice(0, 2)).toEqual([1, 1]);
  expect(project(viewOf(cameraNode, 0.5), 1, 2, -1).slice(0, 2)).toEqual([1, 1]);
});

test('framing holds every corner of a box, and one of them near the edge', () => {
  const number = fc.double({ min: -1, max: 1, noNaN: true });
  holds(
    fc.property(
      fc.tuple(number, number, number),
      fc.tuple(number, number, number),
      fc.double({ min: 0.4, max: 3, noNaN: true }),
      (a, b, aspect) => {
        const bounds = {
          min: a.map((v, k) => Math.min(v, b[k]!)) as [number, number, number],
          max: a.map((v, k) => Math.max(v, b[k]!) + 1) as [number, number, number],
        };
        const { translation, rotation, znear } = frameBounds(bounds, { yfov: 0.8, aspect });
        const view = viewOf(
          new Scene().createNode({
            translation,
            rotation,
            camera: { type: 'perspective', yfov: 0.8, znear },
          }),
          aspect,
        );
        let farthest = 0;
        for (let corner = 0; corner < 8; corner++) {
          const p = [0, 1, 2].map((k) => (corner & (1 << k) ? bounds.max[k]! : bounds.min[k]!));
          const [x, y, z] = project(view, p[0]!, p[1]!, p[2]!);
          farthest = Math.max(farthest, Math.abs(x!), Math.abs(y!));
          expect(z).toBeLessThan(1);
          expect(z).toBeGreaterThan(0);
        }
        // 3% stay free at each edge: the picture's half is 1 here.
        expect(farthest).toBeLessThan(0.9401);
        expect(farthest).toBeGreaterThan(0.9399);
      },
    ),
    { numRuns: 100 },
  );
});

test('a node is framed by its vertices, not by the empty corners of its box', () => {
  const scene = new Scene();
  const node = scene.createNode({
    translation: [3, 1, -2],
    mesh: { geometry: sphere({ radius: 2, slices: 64, stacks: 32 }) },
  });
  scene.createNode({ parent: node, translation: [0, 50, 0], visible: false, mesh: { geometry: box() } });
  const { translation, rotation, target, distance, znear } = frameNode(node, {
    yfov: 0.8,
    aspect: 1.6,
    margin: 0,
  });
  const cameraNode = scene.createNode({
    translation,
    rotation,
    camera: { type: 'perspective', yfov: 0.8, znear },
  });
  const view = viewOf(cameraNode, 1.6);
  const [x, y] = project(view, ...target);
  expect([x, y]).toEqual([expect.closeTo(0, 4), expect.closeTo(0, 4)]);
  // A sphere fills the picture's height where its radius is the sine of half the field of view.
  expect(distance).toBeCloseTo(2 / Math.sin(0.4), 1);
  // Its box would have been framed from farther away.
  expect(frameBounds(node.worldBounds(), { yfov: 0.8, aspect: 1.6, margin: 0 }).distance).toBeGreaterThan(
    6.5,
  );
});

test('radix sort agrees with a comparison sort', () => {
  const key = fc.nat(0x3fffff);
  holds(
    fc.property(fc.array(fc.tuple(fc.nat(5), key), { maxLength: 300 }), (keys) => {
      const high = Uint32Array.from(keys, ([h]) => h);
      const low = Uint32Array.from(keys, ([, l]) => l);
      const items = Uint32Array.from(keys, (_, i) => i);
      new RadixSort().sort(high, low, items, keys.length);
      const expected = keys
        .map((_, i) => i)
        .sort((a, b) => high[a]! - high[b]! || low[a]! - low[b]! || a - b);
      expect([...items]).toEqual(expected);
    }),
  );
});

function listOf(scene: Scene, cameraNode: SceneNode): DrawList {
  const list = new DrawList();
  list.update(scene, viewOf(cameraNode), true);
  return list;
}

test('what the view excludes is left out, what touches it is kept', () => {
  const scene = new Scene();
  const cameraNode = scene.createNode({ camera: perspective });
  const geometry = sphere({ radius: 1 });
  const at = (x: number, y: number, z: number): SceneNode =>
    scene.createNode({ translation: [x, y, z], mesh: { geometry } });
  at(0, 0, -5);
  at(0, 0, 5);
  at(20, 0, -5);
  at(5.5, 0, -5);
  at(0, 0, -1e7);
  const list = listOf(scene, cameraNode);
  expect(list.instanceCount).toBe(3);
  expect(list.culledCount).toBe(2);
});

test('culling agrees with projecting a cloud of points, under any transform', () => {
  const number = fc.double({ min: -4, max: 4, noNaN: true });
  holds(
    fc.property(fc.tuple(number, number, number), fc.tuple(number, number, number), (translation, scale) => {
      const scene = new Scene();
      const cameraNode = scene.createNode({ camera: perspective });
      const geometry = sphere({ radius: 1, slices: 8, stacks: 6 });
      const node = scene.createNode({ translation, scale, mesh: { geometry } });
      const list = listOf(scene, cameraNode);
      const view = viewOf(cameraNode);
      const w = node.readWorld(new Float32Array(12));
      const isSeen = Array.from({ length: 200 }, (_, i) => {
        const t = i * 2.39996;
        const y = 1 - (2 * (i + 0.5)) / 200;
        const r = Math.sqrt(1 - y * y);
        const p = [r * Math.cos(t), y, r * Math.sin(t)];
        const q = [0, 4, 8].map(
          (row) => w[row]! * p[0]! + w[row + 1]! * p[1]! + w[row + 2]! * p[2]! + w[row + 3]!,
        );
        const [sx, sy] = project(view, q[0]!, q[1]!, q[2]!);
        return q[2]! < -0.1 && Math.abs(sx!) < 1 && Math.abs(sy!) < 1;
      }).some(Boolean);
      if (isSeen) expect(list.instanceCount).toBe(1);
    }),
  );
});

test('10,000 nodes over 20 materials and 5 geometries make 100 commands', () => {
  const scene = new Scene();
  const cameraNode = scene.createNode({ translation: [0, 0, 200], camera: perspective });
  const geometries = Array.from({ length: 5 }, () => box());
  const materials = Array.from({ length: 20 }, (_, i) => ({ metallicFactor: i / 20 }));
  for (let i = 0; i < 10_000; i++) {
    scene.createNode({
      translation: [i % 100, 0, Math.floor(i / 100)],
      mesh: { geometry: geometries[i % 5]!, material: materials[(i * 7) % 20]! },
    });
  }
  const list = listOf(scene, cameraNode);
  expect(list.instanceCount).toBeGreaterThan(5000);
  expect(list.commands).toBeLessThanOrEqual(100);
});

test('opaque instances run front to back, blended ones back to front', () => {
  const scene = new Scene();
  const cameraNode = scene.createNode({ camera: perspective });
  const geometry = box();
  const glass = { alphaMode: 'blend' as const };
  for (const z of [-5, -3, -9, -7]) {
    scene.createNode({ translation: [0, 0, z], mesh: { geometry } });
    scene.createNode({ translation: [0, 0, z - 0.5], mesh: { geometry, material: glass } });
  }
  const list = listOf(scene, cameraNode);
  const positions = Array.from({ length: list.commands }, (_, c) =>
    Array.from({ length: list.commandCount[c]! }, (_p, i) => list.commandFirst[c]! + i),
  ).flat();
  const depths = Array.from(
    { length: list.instanceCount },
    (_, i) => scene.columns.world[list.rowAt(positions[i]!) * 12 + 11],
  );
  expect(depths).toEqual([-3, -5, -7, -9, -9.5, -7.5, -5.5, -3.5]);
  expect([list.opaqueCommands, list.commands]).toEqual([1, 2]);
});

test('mirrored nodes are drawn apart, since their faces wind the other way', () => {
  const scene = new Scene();
  const cameraNode = scene.createNode({ camera: perspective });
  const geometry = box();
  scene.createNode({ translation: [0, 0, -3], mesh: { geometry } });
  scene.createNode({ translation: [0, 0, -4], scale: [-1, 1, 1], mesh: { geometry } });
  scene.createNode({ translation: [0, 0, -5], scale: [-1, -1, 1], mesh: { geometry } });
  const list = listOf(scene, cameraNode);
  expect([...list.commandMirrored.slice(0, list.commands)]).toEqual([0, 1]);
  expect([...list.commandCount.slice(0, list.commands)]).toEqual([2, 1]);
});

test('nothing is made anew when nothing changed', () => {
  const scene = new Scene();
  const cameraNode = scene.createNode({ camera: perspective });
  const node = scene.createNode({ translation: [0, 0, -3], mesh: { geometry: box() } });
  const list = new DrawList();
  const view = viewOf(cameraNode);
  expect(list.update(scene, view, true)).toBe(true);
  expect(list.update(scene, view, false)).toBe(false);
  node.setVisible(false);
  expect(list.update(scene, view, false)).toBe(true);
  expect(list.instanceCount).toBe(0);
});

test.each([
  [{ type: 'perspective', yfov: 0, znear: 1 } as const, 'yfov'],
  [{ type: 'perspective', yfov: 1, znear: 0 } as const, 'znear'],
  [{ type: 'orthographic', xmag: 1, ymag: 1, znear: 2, zfar: 1 } as const, 'zfar'],
])('a camera that cannot see is refused with a hint', (camera, word) => {
  const cameraNode = new Scene().createNode({ camera });
  expect(() => viewOf(cameraNode)).toThrow(
    expect.objectContaining({ code: 'camera/range', hint: expect.stringContaining(word) }),
  );
});
