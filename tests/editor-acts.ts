import type { Editor } from '../packages/viewfinder/src/logic/editor.js';
import { NEW_NODES, type NewNode } from '../packages/viewfinder/src/logic/new-nodes.js';
import { changeOf } from '../packages/viewfinder/src/logic/properties/field.js';

/** Something that a person might do in the viewfinder, by three numbers: what, to which node, and how much. */
export function act(editor: Editor, [what, which, amount]: readonly [number, number, number]): void {
  const { editing, scene, selection } = editor;
  const all = [...scene.root.descendants()].filter((node) => !editing.isGone(node));
  const node = all[which % Math.max(1, all.length)];
  if (node) selection.choose([node]);
  const names = Object.keys(NEW_NODES) as NewNode[];
  switch (what % 10) {
    case 0:
      return void editor.add(names[which % names.length]!, [amount, 1, 0]); // within them
    case 1:
      return editor.duplicate();
    case 2:
      return editor.remove();
    case 3:
      return editor.group();
    case 4:
      return editor.undo();
    case 5:
      return node && editor.rename(node, `called ${amount}`);
    case 6:
      return node && editor.hang([node], all[amount % all.length] ?? scene.root, amount % 2 === 0);
    case 7:
      return editor.toggleVisible();
    default: {
      // What is around the nodes, too.
      if (what % 3 === 0) selection.clear();
      const fields = editor.parts().flatMap((part) => [...part.fields, ...part.more]);
      const field = fields[amount % Math.max(1, fields.length)];
      if (field?.property.type === 'number') editor.make(changeOf(field, 0.25 + (which % 3) / 4, editing));
      else if (field?.property.type === 'boolean' && field.label !== 'shadow')
        editor.make(changeOf(field, amount % 2 === 0, editing));
      else if (field?.property.type === 'numbers') editor.make(changeOf(field, 0.5, editing, 0));
    }
  }
}
