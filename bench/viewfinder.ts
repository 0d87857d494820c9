/** The viewfinder over a scene of 100,000 nodes: what it does for a click or a key, against a frame. */
import { box, Scene, type SceneNode } from '@umber-lens/core';
import { Editor } from '../packages/viewfinder/src/logic/editor.js';
import { changeOf } from '../packages/viewfinder/src/logic/properties/field.js';
import { race, type Row, row } from './measure.js';

const GROUPS = 1000;
const EACH = 99;
/** Milliseconds. */
const FRAME = 1000 / 60;
const ALL = { text: '', carried: undefined };

export async function viewfinder(): Promise<Row[]> {
  const scene = new Scene();
  const geometry = box();
  const nodes: SceneNode[] = [];
  for (let i = 0; i < GROUPS; i++) {
    const parent = scene.createNode({ name: `stack ${i}` });
    for (let k = 0; k < EACH; k++)
      nodes.push(
        scene.createNode({ name: `crate ${k}`, parent, translation: [i, k, 0], mesh: { geometry } }),
      );
  }
  scene.update();
  const editor = new Editor({ scene, look: {}, view: { finish: [] } });
  let turn = 0;
  const node = (): SceneNode => nodes[(turn++ * 7919) % nodes.length]!; // within it
  const times = await race(
    {
      'opening it: the rows of its tree': () =>
        void new Editor({ scene, look: {}, view: {} }).tree.shown(ALL),
      'unfolding 100,000 rows': () => {
        for (const child of scene.root.children()) editor.tree.open(child, true);
        editor.tree.shown(ALL);
      },
      'finding a name among them': () =>
        void editor.tree.shown({ text: `crate ${turn++ % 90}`, carried: undefined }),
      'choosing one: its properties': () => {
        editor.selection.choose([node()]);
        editor.parts();
      },
      'choosing all, and the box about them': () => {
        editor.selection.choose(nodes);
        editor.boundsOf(editor.selection.nodes);
        editor.selection.clear();
      },
      'a value of one, and back again': () => {
        editor.selection.choose([node()]);
        const [, place] = editor.parts();
        editor.make(changeOf(place!.fields[0]!, turn, editor.editing, 1)); // the transform
        editor.undo();
      },
    },
    9,
  );
  return Object.entries(times).map(([name, time]) =>
    row(
      `viewfinder over 100,000 nodes: ${name}, against a frame`,
      time,
      FRAME,
      'ms',
      name.startsWith('choosing all') ? undefined : 1,
    ),
  );
}
