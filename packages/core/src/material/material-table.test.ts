import { box, DrawList, type Material, Scene, sphere } from '../engine.js';
import { createCameraView, updateCameraView } from '../draw/camera-view.js';

const camera = { type: 'perspective', yfov: 1, znear: 0.1 } as const;
const texture = (): Material['baseColorTexture'] => ({
  texture: {
    image: { content: { kind: 'pixels', width: 1, height: 1, data: new Uint8Array([1, 2, 3, 255]) } },
  },
});

/** Commands of a list that sees everything. */
function commands(scene: Scene): number {
  const cameraNode = scene.createNode({ translation: [0, 0, 500], camera });
  const [list, view] = [new DrawList(), createCameraView()];
  updateCameraView(view, cameraNode, 1);
  list.update(scene, view, true);
  cameraNode.remove();
  return list.commands;
}

const put = (scene: Scene, materials: readonly Material[]): void => {
  const geometry = box();
  for (const material of materials) scene.createNode({ mesh: { geometry, material } });
};

const numeric = (count: number): Material[] =>
  Array.from({ length: count }, (_, i) => ({
    roughnessFactor: i / count,
    baseColorFactor: [i / count, 1, 1, 1],
  }));

test('materials that differ in numbers alone are one draw a geometry', () => {
  const scene = new Scene();
  const geometries = [box(), sphere(), box({ width: 2 }), box({ width: 3 }), sphere({ radius: 2 })];
  const materials = numeric(20);
  for (let i = 0; i < 10_000; i++)
    scene.createNode({ mesh: { geometry: geometries[i % 5]!, material: materials[(i * 7) % 20]! } });
  expect(commands(scene)).toBe(5);
});

test('what one draw cannot change keeps things apart', () => {
  const pair = (a: Material, b: Material): number => {
    const scene = new Scene();
    put(scene, [a, b]);
    return commands(scene);
  };
  const rope = texture();
  expect(pair({}, { roughnessFactor: 0.2 })).toBe(1);
  expect(pair({ baseColorTexture: rope! }, { baseColorTexture: rope!, metallicFactor: 0 })).toBe(1);
  expect(pair({ baseColorTexture: rope! }, { baseColorTexture: texture()! })).toBe(2);
  expect(pair({}, { baseColorTexture: rope! })).toBe(2);
  expect(pair({}, { doubleSided: true })).toBe(2);
  expect(pair({}, { unlit: true })).toBe(2);
  expect(pair({}, { alphaMode: 'mask' })).toBe(2);
  expect(pair({ baseColorTexture: rope! }, { baseColorTexture: { ...rope!, texCoord: 1 } })).toBe(2);
  expect(pair({}, { clearcoatFactor: 1 })).toBe(2);
  expect(pair({}, { batch: false })).toBe(2);
});

test('more materials than a table holds take another draw', () => {
  const scene = new Scene();
  put(scene, numeric(130));
  expect(commands(scene)).toBe(3);
});

test('a material that is written to joins others or leaves them', () => {
  const scene = new Scene();
  const geometry = box();
  const [a, b, c] = [{}, { roughnessFactor: 0.1 }, { roughnessFactor: 0.2 }] as [
    Material,
    Material,
    Material,
  ];
  for (const material of [a, b, c, a]) scene.createNode({ mesh: { geometry, material } });
  expect(commands(scene)).toBe(1);
  b.unlit = true;
  expect(commands(scene)).toBe(2);
  c.unlit = true;
  expect(commands(scene)).toBe(2);
  a.unlit = true;
  expect(commands(scene)).toBe(1);
  for (const node of [...scene.meshes.keys()]) node.remove();
  expect(commands(scene)).toBe(0);
  expect(scene.drawables.batches.filter(Boolean)).toEqual([]);
});
