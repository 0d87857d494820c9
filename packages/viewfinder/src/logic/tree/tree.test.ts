import { box, Scene } from '@umber-lens/core/engine';
import { Selection, nextAt } from '../selection/selection.js';
import { Tree } from './tree-rows.js';

const ALL = { text: '', carried: undefined };

function harbour(): { scene: Scene; tree: Tree; names: (sieve?: Parameters<Tree['shown']>[0]) => string[] } {
  const scene = new Scene();
  for (const [i, name] of ['quay', 'rock', 'sea'].entries()) {
    const top = scene.createNode({ name });
    for (let k = 0; k < 3; k++) {
      const crate = scene.createNode({ name: `crate ${i}${k}`, parent: top, mesh: { geometry: box() } });
      if (k === 1) scene.createNode({ name: 'Lamp', parent: crate, light: { type: 'point' } });
    }
  }
  const tree = new Tree(scene);
  return {
    scene,
    tree,
    names: (sieve = ALL) => {
      const shown = tree.shown(sieve);
      return Array.from(
        { length: shown.count },
        (_, i) => `${'.'.repeat(shown.depths[i]!)}${tree.nodeAt(shown, i)!.name}`,
      );
    },
  };
}

test('rows unfold, fold, and follow the scene', () => {
  const { names, scene, tree } = harbour();
  expect(names()).toEqual(['quay', 'rock', 'sea']);
  tree.open(scene.get('rock'), true);
  tree.open(scene.get('crate 11'), true);
  expect(names()).toEqual(['quay', 'rock', '.crate 10', '.crate 11', '..Lamp', '.crate 12', 'sea']);
  scene.get('crate 11').remove();
  expect(names()).toEqual(['quay', 'rock', '.crate 10', '.crate 12', 'sea']);
  scene.get('crate 10').setParent(scene.get('sea'));
  expect(names()).toEqual(['quay', 'rock', '.crate 12', 'sea']);
  tree.reveal(scene.get('crate 10'));
  expect(names().slice(-4)).toEqual(['.crate 20', '.crate 21', '.crate 22', '.crate 10']);
  const shown = tree.shown(ALL);
  expect(tree.shown(ALL)).toBe(shown);
  expect(tree.indexOf(shown, scene.get('sea'))).toBe(3);
});

test('what fits is shown with all above it', () => {
  const { names } = harbour();
  expect(names({ text: 'lamp', carried: undefined })).toEqual([
    ...['quay', '.crate 01', '..Lamp', 'rock', '.crate 11', '..Lamp', 'sea', '.crate 21', '..Lamp'],
  ]);
  expect(names({ text: '12', carried: 'meshes' })).toEqual(['rock', '.crate 12']);
  expect(names({ text: '', carried: 'cameras' })).toEqual([]);
});

test('selection: alone, too, the other way round; tops, locks, and what lies behind', () => {
  const { scene } = harbour();
  const selection = new Selection();
  const [quay, crate, lamp] = [scene.get('quay'), scene.get('crate 01'), scene.get('Lamp')];
  let told = 0;
  selection.onChange(() => told++);
  selection.choose([quay, crate]);
  selection.choose([quay, crate]);
  expect(told).toBe(1);
  expect(selection.tops).toEqual([quay]);
  selection.choose([quay], 'toggle');
  expect(selection.nodes).toEqual([crate]);
  selection.choose([lamp], 'add');
  expect(selection.primary).toBe(lamp);
  selection.lock(quay, true);
  expect(selection.isLocked(lamp)).toBe(true);
  quay.remove();
  selection.sweep();
  expect(selection.size).toBe(0);
  const [a, b] = [scene.get('rock'), scene.get('sea')];
  expect(nextAt([a, b], undefined)).toBe(a);
  expect(nextAt([a, b], a)).toBe(b);
  expect(nextAt([a, b], b)).toBe(a);
  expect(nextAt([], a)).toBeUndefined();
});
