import { box, Scene, type SceneNode } from '@umber-lens/core/engine';
import fc from 'fast-check';
import { holds } from '../../../../../tests/holds.js';
import { act } from '../../../../../tests/editor-acts.js';
import { Editor } from '../editor.js';
import { changeOf } from '../properties/field.js';
import { addressOfNode, nodeAt } from './node-address.js';
import { SHELF } from './apply-edit.js';

function stage(kept?: { text?: string | undefined }): {
  scene: Scene;
  editor: Editor;
  look: Record<string, unknown>;
} {
  const scene = new Scene();
  const quay = scene.createNode({ name: 'quay' });
  for (let i = 0; i < 3; i++)
    scene.createNode({
      name: 'crate',
      parent: quay,
      translation: [i, 0, 0],
      mesh: { geometry: box(), material: { name: `wood ${i}`, baseColorFactor: [0.5, 0.3, 0.1, 1] } },
    });
  scene.createNode({ name: 'lamp', light: { type: 'point', intensity: 5 } });
  const look: Record<string, unknown> = { exposure: 1 };
  const editor = new Editor({
    scene,
    look,
    view: { finish: [] },
    ...(kept ? { kept: { read: () => kept.text, write: (text) => void (kept.text = text) } } : {}),
  });
  return { scene, editor, look };
}

/** All that a scene holds, in words; what waits to come back is none of it. */
function wordsOf(scene: Scene): unknown {
  const words = (node: SceneNode): unknown => ({
    name: node.name,
    place: [
      ...node.readTranslation([0, 0, 0]),
      ...node.readRotation([0, 0, 0, 1]),
      ...node.readScale([1, 1, 1]),
    ].map((value) => Math.fround(value)),
    visible: node.visible,
    light: node.light,
    materials: node.mesh?.primitives.map(({ material }) => material),
    children: [...node.children()].filter(({ name }) => name !== SHELF).map(words),
  });
  return JSON.parse(JSON.stringify([words(scene.root), scene.fog ?? null]));
}

const acts = fc.array(fc.tuple(fc.nat(100), fc.nat(100), fc.nat(100)), { minLength: 1, maxLength: 40 });

test('whatever is done, taken back it is as it was, and made again as it became', () => {
  holds(
    fc.property(acts, (list) => {
      const { editor, scene } = stage();
      const before = wordsOf(scene);
      for (const one of list) act(editor, one);
      const after = wordsOf(scene);
      const { index } = editor.history;
      editor.history.goTo(0);
      expect(wordsOf(scene)).toEqual(before);
      editor.history.goTo(index);
      expect(wordsOf(scene)).toEqual(after);
      editor.history.goTo(0);
      expect(wordsOf(scene)).toEqual(before);
    }),
    { numRuns: 100, seed: 5 },
  );
});

test('after a reload what was not saved is made again, and can be taken back', () => {
  holds(
    fc.property(acts, (list) => {
      const kept: { text?: string | undefined } = {};
      const { editor, scene } = stage(kept);
      for (const one of list) act(editor, one);
      const after = wordsOf(scene);
      // The page anew, with what its sources say.
      const next = stage(kept);
      const first = wordsOf(next.scene);
      next.editor.history.restore();
      if (kept.text !== undefined && editor.history.all.length === next.editor.history.all.length)
        expect(wordsOf(next.scene)).toEqual(after);
      next.editor.history.goTo(0);
      expect(wordsOf(next.scene)).toEqual(first);
    }),
    { numRuns: 60, seed: 5 },
  );
});

test('saved changes are not made twice; taking them back is a change to save', () => {
  const kept: { text?: string | undefined } = {};
  const { editor, scene } = stage(kept);
  const lamp = scene.get('lamp');
  editor.selection.choose([lamp]);
  const field = editor
    .parts()
    .flatMap(({ fields }) => fields)
    .find(({ label }) => label === 'intensity')!;
  editor.make(changeOf(field, 80, editor.editing));
  editor.history.markSaved();
  expect(editor.history.unsaved).toEqual([]);
  editor.undo();
  expect(lamp.light!.intensity).toBe(5);
  expect(editor.history.unsaved.map(({ isBack }) => isBack)).toEqual([true]);
  // Another change in its place: what was taken back stays to be saved.
  editor.add('box');
  expect(editor.history.unsaved.map(({ change }) => change.name)).toEqual([
    'not change intensity',
    'add box',
  ]);
  editor.history.goTo(0);
  expect(lamp.light!.intensity).toBe(5);
  expect(scene.find('box')?.isShown ?? false).toBe(false);
});

test('keys that are pressed again are one step; what cannot be is said, and nothing is changed', () => {
  const { editor, look } = stage();
  const exposure = () =>
    editor
      .parts()
      .flatMap(({ fields }) => fields)
      .find(({ label }) => label === 'exposure')!;
  for (let i = 2; i < 6; i++) editor.make(changeOf(exposure(), i, editor.editing), 'step');
  expect(editor.history.all.length).toBe(1);
  editor.undo();
  expect(look['exposure']).toBe(1);
  editor.make(changeOf(exposure(), 1000, editor.editing));
  expect(editor.status).toContain('exposure');
  expect(look['exposure']).toBe(1);
  expect(editor.history.index).toBe(0);
});

test('nodes are found again by their addresses, siblings of one name too', () => {
  const { scene } = stage();
  scene.createNode({ name: 'a/b#c%', parent: scene.get('quay') });
  for (const node of scene.root.descendants()) expect(nodeAt(scene, addressOfNode(node))).toBe(node);
  expect(nodeAt(scene, 'quay/crate#7')).toBeUndefined();
});

test('a copy has effects and settings of its own; one of a shader has no words, and shares it', () => {
  const { editor, scene } = stage();
  const crate = scene.get('crate');
  crate.effects = [{ type: 'blur', stdDeviation: 2 }];
  crate.settings = { wear: 0.5 };
  editor.selection.choose([crate]);
  editor.duplicate();
  const copy = editor.selection.primary!;
  expect([copy.name, copy.effects, copy.settings]).toEqual([
    'crate 2',
    [{ type: 'blur', stdDeviation: 2 }],
    { wear: 0.5 },
  ]);
  expect(copy.effects[0]).not.toBe(crate.effects[0]);
  const shader = { file: 'rim.wgsl' } as never;
  crate.mesh!.primitives[0]!.material!.shader = shader;
  editor.selection.choose([crate]);
  editor.duplicate();
  expect(editor.selection.primary!.mesh!.primitives[0]!.material!.shader).toBe(shader);
  editor.undo();
  expect(editor.selection.size).toBe(0);
});
