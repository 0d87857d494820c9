import { createCameraView, updateCameraView } from '../draw/camera-view.js';
import { DrawList } from '../draw/draw-list.js';
import { box, plane } from '../geometry/flat-shapes.js';
import { withTangents } from '../geometry/tangents.js';
import type { Material } from '../material/material.js';
import { Scene } from '../scene/scene.js';
import { batchBreaks } from './batch-breaks.js';

function reasons(fill: (scene: Scene) => void): string[] {
  const scene = new Scene();
  fill(scene);
  const camera = scene.createNode({
    translation: [0, 0, 9],
    camera: { type: 'perspective', yfov: 1, znear: 0.1 },
  });
  const view = createCameraView();
  updateCameraView(view, camera, 1);
  const list = new DrawList();
  list.update(scene, view, true);
  return batchBreaks(list).map(({ reason, words }) => `${reason} = ${words}`);
}

const texture = (name: string): NonNullable<Material['baseColorTexture']> => ({
  texture: {
    name,
    image: { name, content: { kind: 'pixels', width: 1, height: 1, data: new Uint8Array(4) } },
  } as never,
});

test.each<[string, Material, Material, string]>([
  ['numbers alone', { roughnessFactor: 0.2 }, { roughnessFactor: 0.8 }, ''],
  [
    'textures',
    { baseColorTexture: texture('planks') },
    { baseColorTexture: texture('rope') },
    'texture = another texture: baseColorTexture "rope"',
  ],
  ['alpha', {}, { alphaMode: 'mask' }, 'alpha = another alpha mode: mask'],
  ['sides', {}, { doubleSided: true }, 'sides = one is drawn from both sides'],
  ['light', {}, { unlit: true }, 'light = one is lit, the other is not'],
  ['wishes', {}, { batch: false }, 'asked = its material asks for a draw of its own'],
  [
    'layers',
    {},
    { name: 'paint', clearcoatFactor: 1 },
    'layers = a material has layers of its own (coat, sheen, glass): paint',
  ],
])('materials that differ in %s', (_, a, b, expected) => {
  const geometry = box();
  const found = reasons((scene) => {
    for (const material of [a, b]) scene.createNode({ mesh: { geometry, material } });
  });
  expect(found).toEqual(['first = it is the first', ...(expected ? [expected] : [])]);
});

test('geometries, of one layout and of another', () => {
  const found = reasons((scene) => {
    for (const geometry of [box(), plane(), withTangents(box())]) scene.createNode({ mesh: { geometry } });
  });
  expect(found.slice(1)).toEqual([
    'geometry = another geometry',
    'layout = another geometry, whose vertices are laid out otherwise',
  ]);
});

test('mirrored nodes, and what is blended between', () => {
  const geometry = box();
  const mirrored = reasons((scene) => {
    scene.createNode({ mesh: { geometry } });
    scene.createNode({ mesh: { geometry }, scale: [-1, 1, 1] });
  });
  expect(mirrored[1]).toMatch(/^mirrored/);
  const [glass, smoke]: Material[] = [
    { alphaMode: 'blend', name: 'glass' },
    { alphaMode: 'blend', unlit: true, name: 'smoke' },
  ];
  const blended = reasons((scene) => {
    [glass, smoke, glass].forEach((material, i) =>
      scene.createNode({ mesh: { geometry, material: material! }, translation: [0, 0, i] }),
    );
  });
  expect(blended.map((one) => one.split(' ')[0])).toEqual(['first', 'light', 'between']);
});

test('what lies over another material', () => {
  const [paint, dirt]: Material[] = [{ name: 'paint' }, { name: 'dirt' }];
  const found = reasons((scene) => {
    scene.createNode({ mesh: { geometry: box(), material: paint!, overlays: [dirt!] } });
  });
  expect(found[1]).toMatch(/^apart = it lies over another material/);
});
