import { box } from '../geometry/flat-shapes.js';
import { axisAngle } from '../math/rotation.js';
import { MANY_ITEMS } from '../columns/flags.js';
import { ItemTree } from './item-tree.js';
import { Scene } from '../scene/scene.js';
import type { SceneNode } from '../scene/scene-node.js';
import { createCameraView, updateCameraView } from '../draw/camera-view.js';
import { DrawList } from '../draw/draw-list.js';

const COUNT = MANY_ITEMS + 1000;

/** Rows in a list, in order. */
function rowsOf(list: DrawList): number[] {
  const rows: number[] = [];
  for (let command = 0; command < list.commands; command++) {
    const first = list.commandFirst[command]!;
    for (let at = first; at < first + list.commandCount[command]!; at++) rows.push(list.rowAt(at));
  }
  return rows.sort((a, b) => a - b);
}

test('lists by cluster hold what lists by item hold, while things move, come, go and hide, and the camera turns', () => {
  const scene = new Scene();
  let seed = 5;
  const random = (): number => (seed = (seed * 16807) % 2147483647) / 2147483647;
  const geometry = box();
  const material = {};
  const place = (): [number, number, number] => [random() * 400 - 200, random() * 20, random() * 400 - 200];
  const nodes: SceneNode[] = [];
  const add = (): void =>
    void nodes.push(scene.createNode({ translation: place(), mesh: { geometry, material } }));
  for (let i = 0; i < COUNT; i++) add();
  const camera = scene.createNode({ camera: { type: 'perspective', yfov: 0.7, znear: 0.1 } });
  const view = createCameraView();
  const [plain, clustered] = [new DrawList(), new DrawList()];
  const tree = new ItemTree(scene);
  let [skipped, ready] = [0, 0];
  for (let frame = 0; frame < 80; frame++) {
    camera.setRotation(...axisAngle([0, 1, 0], frame < 40 ? frame * 0.11 : 1));
    for (let k = 0; k < 20; k++) {
      const node = nodes[Math.floor(random() * nodes.length)]!;
      const what = random();
      if (what < 0.5) node.setTranslation(...place());
      else if (what < 0.7) node.setVisible(!node.isShown);
      else if (what < 0.85) {
        node.remove();
        nodes.splice(nodes.indexOf(node), 1);
      } else add();
    }
    // Now and then nearly everything moves.
    if (frame === 30) for (const node of nodes.slice(0, COUNT / 2)) node.setTranslation(...place());
    scene.update();
    // A clock that lets a few thousand items be looked at each frame.
    let time = 0;
    tree.update(1, () => (time += 0.6));
    if (tree.isReady) ready++;
    const viewChanged = updateCameraView(view, camera, 1.6);
    scene.guests.finder = undefined;
    plain.update(scene, view, viewChanged);
    scene.guests.finder = tree;
    clustered.update(scene, view, viewChanged);
    expect(rowsOf(clustered)).toEqual(rowsOf(plain));
    expect(clustered.culledCount).toBe(plain.culledCount);
    skipped += clustered.clusters?.left ?? 0;
  }
  expect(ready).toBeGreaterThan(30);
  expect(skipped).toBeGreaterThan(100);
});

test('few things need no clusters', () => {
  const scene = new Scene();
  scene.createNode({ mesh: { geometry: box() } });
  scene.update();
  const tree = new ItemTree(scene);
  tree.update(10, () => 0);
  expect(tree.isReady).toBe(false);
});

test('a tree is made while many things move apart, and let go of when nearly all move', () => {
  const scene = new Scene();
  const geometry = box();
  const nodes = Array.from({ length: COUNT }, (_, i) =>
    scene.createNode({ translation: [i % 100, 0, i / 100], mesh: { geometry } }),
  );
  const tree = new ItemTree(scene);
  let time = 0;
  const frame = (moving: number): void => {
    const step = Math.floor(COUNT / moving);
    for (let i = 0; i < moving; i++) nodes[i * step]!.setTranslation(i, ++time % 7, 0);
    scene.update();
    tree.update(1, () => (time += 0.6));
  };
  scene.update();
  // Each moves a span of its own: more in the frames that it takes than the log of moves remembers.
  for (let i = 0; i < 100; i++) frame(1000);
  expect(tree.isReady).toBe(true);
  const { version } = tree;
  for (let i = 0; i < 50; i++) {
    frame(COUNT);
    expect(tree.isReady).toBe(false);
  }
  // It is not made for nothing while they move.
  expect(tree.version).toBe(version);
  expect(tree.boxes.length).toBe(0);
  for (let i = 0; i < 100; i++) frame(1);
  expect(tree.isReady).toBe(true);
});
