import type { SheetChange } from './sheet-change.js';
import { keepsTree, SheetEditor } from './sheet-editor.js';
import { Together } from './together.js';
import { applyEdits, EditedText, type TextEdit } from '../../json/text-edit.js';

export type { SheetChange } from './sheet-change.js';

export interface SheetEditOptions {
  /** Of the scene, metres: how finely places are written. Default 100. */
  size?: number;
  /** Whether numbers are written as they are. Default false: by what can be seen. */
  exact?: boolean;
  /** For messages. */
  file?: string;
}

/**
 * The smallest edits of a sheet's text that make changes. Comments, order, layout and numbers that did not change stay to the letter;
 * what is back at its default goes with its line; new nodes are indented as the file is. Comments within nodes that are removed go with
 * them; those beside them stay.
 *
 *     const edits = sheetEdit(text, [{ type: 'set', node: 'quay/lamp', member: 'translation', value: [0, 3.2, 1] }]);
 *     const after = applyEdits(text, edits);
 *     applyEdits(after, undoEdits(text, edits)) === text;
 *
 * @param text a sheet that `readSheet` takes
 * @returns in rising order of offsets in `text`
 * @throws LensError `edit/no-node`, `edit/no-place`, `edit/name-twice`, `edit/parents`; nothing is changed then
 */
export function sheetEdit(
  text: string,
  changes: readonly SheetChange[],
  options: SheetEditOptions = {},
): TextEdit[] {
  const { exact = false, file = 'sheet', size = 100 } = options;
  let editor = editorOf(text);
  const [only] = changes;
  if (changes.length === 1 && only) {
    const edits = editor.editsFor(only, { exact, file, size });
    last = { editor, edits, change: only };
    return edits;
  }
  // Should one of them throw, nothing is known.
  last = undefined;
  const whole = new EditedText(text);
  const rules = { exact, file, size };
  let together = new Together(editor, rules);
  const make = (edits: readonly TextEdit[], keeps: boolean): void => {
    if (edits.length > 0) {
      whole.edit(edits);
      editor = editor.followed(applyEdits(editor.text, edits), edits, keeps);
    }
    together = new Together(editor, rules);
  };
  for (const change of changes) {
    if (together.take(change)) continue;
    make(together.edits, !together.changesTree);
    if (!together.take(change)) make(editor.editsFor(change, rules), keepsTree(change));
  }
  make(together.edits, !together.changesTree);
  last = { editor };
  return whole.edits;
}

/** The text that was edited last, with its nodes: of a large one they are found once. And what it was edited by. */
let last: { editor: SheetEditor; edits?: readonly TextEdit[]; change?: SheetChange } | undefined;

function editorOf(text: string): SheetEditor {
  if (last?.editor.text === text) return last.editor;
  const { change, edits, editor } = last ?? {};
  if (editor && edits && change && isEdited(text, editor.text, edits))
    return editor.followed(text, edits, keepsTree(change));
  return new SheetEditor(text);
}

/** Whether a text is another one with edits made. */
function isEdited(text: string, before: string, edits: readonly TextEdit[]): boolean {
  let [at, from] = [0, 0];
  for (const { content, length, offset } of edits) {
    const size = offset - from;
    if (text.slice(at, at + size) !== before.slice(from, offset)) return false;
    at += size;
    if (text.slice(at, at + content.length) !== content) return false;
    at += content.length;
    from = offset + length;
  }
  return text.length - at === before.length - from && text.slice(at) === before.slice(from);
}
