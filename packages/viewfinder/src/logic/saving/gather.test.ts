import {
  applyEdits,
  applySheet,
  KINDS,
  readSheet,
  Scene,
  type SceneNode,
  type SheetChange,
  sheetEdit,
  type Table,
} from '@umber-lens/core/engine';
import fc from 'fast-check';
import { holds } from '../../../../../tests/holds.js';
import { act } from '../../../../../tests/editor-acts.js';
import { Editor } from '../editor.js';
import { SHELF } from '../history/apply-edit.js';
import { changeOf } from '../properties/field.js';
import { gather } from './gather.js';

const TEXT = `{
  "sheet": 1, // the quay
  "materials": { "wood": { "baseColorFactor": [0.5, 0.3, 0.1, 1] } },
  "nodes": [
    { "name": "quay", "translation": [0, 1, 0], "children": [ // with all on it
      { "name": "crate", "degrees": [0, 45, 0], "mesh": { "shape": "box", "material": "wood" } },
      { "name": "barrel", "translation": [2, 0, 0], "mesh": { "shape": "cylinder", "height": 2, "material": { "roughnessFactor": 0.4 } } }
    ] },
    { "name": "lamp", "translation": [0, 3, 0], "light": { "type": "point", "intensity": 5 } }
  ],
  "camera": "quay/crate", "look": { "exposure": 1 }
}
`;

function stage(text = TEXT): { scene: Scene; editor: Editor } {
  const scene = new Scene();
  const lens = { look: {} as Record<string, unknown>, view: { finish: [] } };
  applySheet(scene, readSheet(text, 'stage.sheet.json'), { lens });
  return { scene, editor: new Editor({ scene, look: lens.look, view: lens.view }) };
}

/** Members that are not as their defaults, by name. */
const said = (thing: object, table: Table): [string, unknown][] =>
  Object.entries(thing)
    .filter(([name, value]) => JSON.stringify(value) !== JSON.stringify(table[name]?.default))
    .sort();

/** A scene in words, as finely as files have it, in no order of siblings. */
function wordsOf({ editor, scene }: ReturnType<typeof stage>): unknown {
  const fine = (value: number): number => Math.round(value * 1000) / 1000 + 0;
  const words = (node: SceneNode): unknown => {
    const [x, y, z, w] = node.readRotation([0, 0, 0, 1]);
    // A turn and its negative are the same.
    const sign = Math.sign(w || z || y || x);
    return {
      name: node.name,
      place: [
        ...node.readTranslation([0, 0, 0]),
        ...[x, y, z, w].map((part) => part * sign),
        ...node.readScale([1, 1, 1]),
      ].map(fine),
      visible: node.visible,
      light: node.light && said(node.light, KINDS.light.table),
      camera: node.camera && said(node.camera, KINDS.camera.table),
      meshes: node.mesh?.primitives.map(({ geometry, material }) => {
        const { name: _name, ...members } = material ?? {};
        return [geometry.bounds, said(members, KINDS.material.table)];
      }),
      children: [...node.children()]
        .filter(({ name }) => name !== SHELF)
        .sort((a, b) => (a.name < b.name ? -1 : 1))
        .map(words),
    };
  };
  return JSON.parse(JSON.stringify([words(scene.root), said(editor.editing.edited.look, KINDS.look.table)]));
}

const changesOf = (editor: Editor): SheetChange[] => {
  const { files, left } = gather(editor.history.unsaved, editor.editing, 'adjustments.sheet.json');
  expect(left).toEqual([]);
  expect(files.length).toBeLessThan(2);
  return files[0]?.changes ?? [];
};

test('whatever is done to a scene of a sheet, the edited sheet brings the same scene', () => {
  holds(
    fc.property(
      fc.array(fc.tuple(fc.nat(100), fc.nat(100), fc.nat(100)), { minLength: 1, maxLength: 14 }),
      (list) => {
        const one = stage();
        for (const step of list) act(one.editor, step);
        const text = applyEdits(TEXT, sheetEdit(TEXT, changesOf(one.editor), { exact: true }));
        expect(wordsOf(stage(text))).toEqual(wordsOf(one));
      },
    ),
    { numRuns: 300, seed: 5 },
  );
});

test('nodes that go, and nodes that are grouped, get no other name for a while', () => {
  const gone = stage();
  gone.editor.selection.choose([gone.scene.get('barrel'), gone.scene.get('lamp')]);
  gone.editor.remove();
  expect(changesOf(gone.editor)).toEqual([
    { type: 'remove', node: 'quay/barrel' },
    { type: 'remove', node: 'lamp' },
  ]);
  const grouped = stage();
  grouped.editor.selection.choose([grouped.scene.get('quay'), grouped.scene.get('lamp')]);
  grouped.editor.group();
  const changes = changesOf(grouped.editor);
  expect(new Set(changes.map(({ type }) => type))).toEqual(new Set(['set', 'add', 'move']));
  expect(changes.filter(({ type }) => type === 'move').length).toBe(2);
});

test('a value, a name and a new node are each the smallest change; comments stay', () => {
  const one = stage();
  const { editor, scene } = one;
  editor.selection.choose([scene.get('lamp')]);
  const intensity = editor
    .parts()
    .flatMap(({ fields }) => fields)
    .find(({ label }) => label === 'intensity')!;
  editor.make(changeOf(intensity, 80, editor.editing));
  editor.make(changeOf(intensity, 90, editor.editing));
  expect(changesOf(editor)).toEqual([
    { type: 'set', node: 'lamp', member: ['light', 'intensity'], value: 90 },
  ]);
  editor.rename(scene.get('crate'), 'tea chest');
  const text = applyEdits(TEXT, sheetEdit(TEXT, changesOf(editor)));
  expect(text).toBe(
    TEXT.replace('"intensity": 5', '"intensity": 90')
      .replace('"name": "crate"', '"name": "tea chest"')
      .replace('quay/crate', 'quay/tea chest'),
  );
  // Made and taken away again, it never was.
  editor.add('box');
  editor.remove();
  expect(applyEdits(TEXT, sheetEdit(TEXT, changesOf(editor)))).toBe(text);
});

test('what lies over a material has values of its own, which go where the sheet has them', () => {
  const text = TEXT.replace(
    '"material": "wood" }',
    '"material": "wood", "overlays": ["salt", { "roughnessFactor": 0.9 }] }',
  ).replace('"materials": {', '"materials": { "salt": { "roughnessFactor": 1 },');
  const { editor, scene } = stage(text);
  editor.selection.choose([scene.get('crate')]);
  const parts = editor.parts().filter(({ name }) => /^(material|overlay)/.test(name));
  expect(parts.map(({ name }) => name)).toEqual(['material wood', 'overlay salt', 'overlay']);
  for (const [i, part] of parts.entries()) {
    const rough = [...part.fields, ...part.more].find(({ path }) => path[0] === 'roughnessFactor')!;
    editor.make(changeOf(rough, 0.1 * (i + 1), editor.editing));
  }
  const { material, overlays } = scene.get('crate').mesh!.primitives[0]!;
  expect([material, ...overlays!].map((one) => one!.roughnessFactor!.toFixed(1))).toEqual([
    '0.1',
    '0.2',
    '0.3',
  ]);
  const after = applyEdits(text, sheetEdit(text, changesOf(editor)));
  expect(after).toContain('"overlays": ["salt", { "roughnessFactor": 0.3 }]');
  expect(after).toContain('"salt": { "roughnessFactor": 0.2 }');
  while (editor.history.undoes) editor.undo();
  expect(overlays!.map((one) => one.roughnessFactor)).toEqual([1, 0.9]);
});

test('what came by the editor is taken over by the sheet that brings it from then on', () => {
  const { editor, scene } = stage();
  const box = editor.add('box', [1, 2, 3])!;
  const { added, files } = gather(editor.history.unsaved, editor.editing, 'x.sheet.json');
  expect(added).toEqual([box]);
  const text = applyEdits(TEXT, sheetEdit(TEXT, files[0]!.changes));
  // Unasked, the sheet brings another one.
  expect([...scene.root.children()].filter(({ name }) => name === 'box').length).toBe(1);
  expect(text).toContain('"name": "box"');
});

test('what is taken back before the page has what was saved stays taken back, and what was changed since stays changed', () => {
  const { editor, scene } = stage();
  const show = (text: string): void => {
    applySheet(scene, readSheet(text, 'stage.sheet.json'));
    editor.followSheets();
  };
  editor.followSheets();
  const lamp = scene.get('lamp');
  const place = (): number[] => [...lamp.readTranslation([0, 0, 0])];
  const move = (axis: number, to: number): void => {
    editor.selection.choose([lamp]);
    const field = editor
      .parts()
      .flatMap(({ fields }) => fields)
      .find(({ label }) => label === 'translation')!;
    editor.make(changeOf(field, to, editor.editing, axis));
  };
  move(0, 5);
  const saved = applyEdits(TEXT, sheetEdit(TEXT, changesOf(editor)));
  editor.history.markSaved();
  editor.undo();
  show(saved);
  expect(place()).toEqual([0, 3, 0]);
  // It is a change to be saved.
  expect(applyEdits(saved, sheetEdit(saved, changesOf(editor)))).toBe(TEXT);
  editor.redo();
  move(1, 7);
  show(saved.replace('"name": "lamp"', '"name": "lamp", "visible": false'));
  expect([lamp.visible, place()]).toEqual([false, [5, 7, 0]]);
});

test('of new nodes the one that sheets cannot say is told, and the others are saved', () => {
  const { editor, scene } = stage();
  let deep = editor.add('box')!;
  editor.add('sphere');
  for (let i = 0; i < 600; i++) deep = scene.createNode({ name: 'link', parent: deep });
  const { files, left } = gather(editor.history.unsaved, editor.editing, 'x.sheet.json');
  expect(left).toEqual([{ what: 'new box', reason: expect.stringContaining('deep') as string }]);
  expect(files.flatMap(({ changes }) => changes)).toMatchObject([
    { type: 'set', at: ['materials', 'sphere'] },
    { type: 'add', node: { name: 'sphere' } },
  ]);
});

test('nodes of nobody go into adjustments by their paths; those without a name are told', () => {
  const scene = new Scene();
  const pier = scene.createNode({ name: 'pier' });
  const lamp = scene.createNode({ name: 'lamp 3', parent: pier, light: { type: 'point' } });
  const nameless = scene.createNode({});
  const editor = new Editor({ scene, look: {}, view: { finish: [] } });
  for (const node of [lamp, nameless]) {
    editor.selection.choose([node]);
    const place = editor
      .parts()
      .flatMap(({ fields }) => fields)
      .find(({ label }) => label === 'translation')!;
    editor.make(changeOf(place, 2, editor.editing, 1));
  }
  const { files, left } = gather(editor.history.unsaved, editor.editing, 'adjustments.sheet.json');
  expect(files).toMatchObject([
    {
      kind: 'adjustments',
      file: 'adjustments.sheet.json',
      changes: [{ type: 'set', at: ['adjust', 'pier/lamp 3', 'translation'], value: [0, 2, 0] }],
    },
  ]);
  expect(left).toEqual([
    { what: 'a node: translation', reason: 'it has no name by which a file could find it' },
  ]);
});
