import { LensError } from '../../errors/lens-error.js';
import { nearHint } from '../../errors/near-names.js';
import { affineToTrs } from '../../math/affine.js';
import { degreesOfRotation } from '../degrees.js';
import { isObject } from '../forms.js';
import { NODE_ORDER, SHEET_ORDER } from '../order.js';
import { same } from '../same.js';
import type { SheetNode } from '../sheet.js';
import {
  commentsIn,
  type Container,
  containerAt,
  indexNodes,
  type Known,
  type NodeIndex,
  rootAt,
  shiftNodes,
} from './json-scan.js';
import { printJson, styleOf, type TextStyle, valueIn } from './print-json.js';
import { formAt, roundedAt } from './rounding.js';
import { indentAt, insertSlot, reindented, removeSlot } from './slots.js';
import { applyEdits, EditedText, type TextEdit } from './text-edit.js';

type Path = readonly (string | number)[];

/** What is to be other in a sheet. Nodes are named by their paths of names. */
export type SheetChange =
  /** A member of a node; `within` is the path of a node of its model, or of its other sheet: it is adjusted. */
  | {
      type: 'set';
      node: string;
      within?: string;
      /** `translation`, or names on the way down: `['light', 'shadow', 'bias']`. */
      member: string | Path;
      /** Left out, or its default: the member is taken away. */
      value?: unknown;
    }
  /** Anything else: `['materials', 'red paint', 'roughnessFactor']`, `['look', 'exposure']`, `['finish', 0, 'amount']`. */
  | { type: 'set'; at: Path; value?: unknown }
  /** A new node. @param index among its siblings; left out: the last */
  | { type: 'add'; parent?: string; node: SheetNode; index?: number }
  | { type: 'remove'; node: string }
  | { type: 'rename'; node: string; name: string }
  /** To another place, with all below it. */
  | { type: 'move'; node: string; parent?: string; index?: number }
  /** The same once more, behind it. */
  | { type: 'duplicate'; node: string; name: string }
  /** Nodes of one parent below a new one, which stands where the first of them stood. */
  | { type: 'group'; nodes: readonly string[]; name: string };

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
  for (const change of changes) {
    const edits = editor.editsFor(change, { exact, file, size });
    whole.edit(edits);
    editor = editor.followed(applyEdits(editor.text, edits), edits, change);
  }
  last = { editor };
  return whole.edits;
}

/** The text that was edited last, with its nodes: of a large one they are found once. And what it was edited by. */
let last: { editor: SheetEditor; edits?: readonly TextEdit[]; change?: SheetChange } | undefined;

function editorOf(text: string): SheetEditor {
  if (last?.editor.text === text) return last.editor;
  const { change, edits, editor } = last ?? {};
  if (editor && edits && change && isEdited(text, editor.text, edits))
    return editor.followed(text, edits, change);
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

/** Objects that are taken away when nothing is in them any more. */
const GOES_EMPTY = new Set(['adjust', 'look', 'view', 'settings', 'weights', 'culling']);

interface Rules {
  exact: boolean;
  file: string;
  size: number;
}

class SheetEditor {
  private readonly style: TextStyle;
  private nodes: NodeIndex | undefined;

  constructor(
    readonly text: string,
    nodes?: NodeIndex,
    style?: TextStyle,
  ) {
    this.nodes = nodes;
    this.style = style ?? styleOf(text);
  }

  /** The one of the text with edits made. This one is not to be asked any more. */
  followed(text: string, edits: readonly TextEdit[], change: SheetChange): SheetEditor {
    const isPlain =
      change.type === 'set' &&
      !('at' in change && change.at[0] === 'nodes') &&
      !touches(change, 'name', 'children');
    if (!isPlain || !this.nodes) return new SheetEditor(text, undefined, this.style);
    for (let i = edits.length - 1; i >= 0; i--) shiftNodes(this.nodes, edits[i]!); // i < length
    return new SheetEditor(text, this.nodes, this.style);
  }

  editsFor(change: SheetChange, rules: Rules): TextEdit[] {
    switch (change.type) {
      case 'set':
        return 'at' in change ? this.setAt(change.at, change.value, rules) : this.setOf(change, rules);
      case 'add':
        return this.add(change, rules);
      case 'remove':
        return this.removed(this.numberOf(change.node, rules));
      case 'rename':
        return this.rename(change, rules);
      case 'move':
        return this.move(change, rules);
      case 'duplicate':
        return this.duplicate(change, rules);
      case 'group':
        return this.group(change, rules);
    }
  }

  private get index(): NodeIndex {
    return (this.nodes ??= indexNodes(this.text));
  }

  /** Lists of nodes are known, and not read again. */
  private readonly known: Known = (from) => {
    const { childrenFrom, childrenTo, listFrom, listTo } = this.index;
    if (from === listFrom) return listTo;
    const i = childrenFrom.indexOf(from);
    return i < 0 ? undefined : childrenTo[i];
  };

  /** @throws LensError `edit/no-node` */
  private numberOf(path: string, { file }: Rules): number {
    const { children } = this.index;
    let at = -1;
    for (const name of path.split('/')) {
      const siblings = children.get(at);
      const found = siblings?.get(name);
      if (found === undefined)
        throw new LensError('edit/no-node', `${file} has no node "${path}"`, {
          hint: nearHint(name, siblings?.keys() ?? []),
          where: { file },
        });
      at = found;
    }
    return at;
  }

  private nodeAt(number: number): Container {
    const { childrenFrom, childrenTo, from } = this.index;
    return containerAt(this.text, from[number]!, (at) =>
      at === childrenFrom[number] ? childrenTo[number] : undefined,
    )!; // it is a node
  }

  private root(file: string): Container {
    const root = containerAt(this.text, rootAt(this.text), (from) =>
      from === this.index.listFrom ? this.index.listTo : undefined,
    );
    if (root && !root.isList) return root;
    throw new LensError('edit/no-place', `${file} is no sheet`, { where: { file } });
  }

  private setOf(
    { member, node, value, within }: Extract<SheetChange, { node: string; type: 'set' }>,
    rules: Rules,
  ): TextEdit[] {
    const number = this.numberOf(node, rules);
    const names = typeof member === 'string' ? [member] : member;
    const path = within === undefined ? names : ['adjust', within, ...names];
    const container = this.nodeAt(number);
    if (within === undefined && names[0] === 'name' && typeof value === 'string')
      this.refuseTwin(number, value, rules);
    const isPlaced =
      names.length === 1 &&
      ['translation', 'rotation', 'degrees', 'scale', 'matrix'].includes(names[0] as string);
    if (!isPlaced) return this.set(container, path, ['nodes', 0, ...path], value, rules);
    return this.place(container, path, names[0] as string, value, rules);
  }

  /** Of a place one word stands for a turn, and a matrix for all of it: the others go. */
  private place(container: Container, path: Path, name: string, value: unknown, rules: Rules): TextEdit[] {
    const holder = path.length > 1 ? this.below(container, path.slice(0, -1)) : container;
    const has = (key: string): boolean => holder?.slots.some((slot) => slot.key === key) ?? false;
    const set = (key: string, given: unknown): [string, unknown] => [key, given];
    const writes: [string, unknown][] = [];
    if (name === 'matrix') {
      writes.push(
        ...['translation', 'rotation', 'degrees', 'scale'].filter(has).map((key) => set(key, undefined)),
        [name, value],
      );
    } else if (has('matrix')) {
      const slot = holder!.slots.find(({ key }) => key === 'matrix')!; // it has one
      const [translation, rotation, scale] = partsOf(valueIn(this.text, slot.from, slot.to) as number[]);
      writes.push(
        ['matrix', undefined],
        ['translation', translation],
        ['rotation', rotation],
        ['scale', scale],
      );
      if (name === 'degrees') writes.splice(2, 1);
      const known = writes.find(([key]) => key === name);
      if (known) known[1] = value;
      else writes.push([name, value]);
    } else if (name === 'rotation' && has('degrees') && Array.isArray(value))
      // It goes on in the words that it was given in.
      writes.push(['degrees', degreesOfRotation(value as number[])]);
    else if (name === 'degrees' && has('rotation')) writes.push(['rotation', undefined], [name, value]);
    else writes.push([name, value]);
    if (writes.length === 1) {
      const [key, given] = writes[0]!; // one
      const own = [...path.slice(0, -1), key];
      return this.set(container, own, ['nodes', 0, ...own], given, rules);
    }
    const whole = new EditedText(this.text);
    let { text } = this;
    const start = container.from;
    for (const [key, given] of writes) {
      const editor = new SheetEditor(text, undefined, this.style);
      const at = containerAt(text, start)!; // it begins where it did
      const own = [...path.slice(0, -1), key];
      const edits = editor.set(at, own, ['nodes', 0, ...own], given, rules);
      whole.edit(edits);
      text = applyEdits(text, edits);
    }
    return whole.edits;
  }

  /** The object below one, by names; undefined where there is none. */
  private below(container: Container, path: Path): Container | undefined {
    let at: Container | undefined = container;
    for (const key of path) {
      const slot: Container['slots'][number] | undefined = at.slots.find((one) => one.key === key);
      at = slot && containerAt(this.text, slot.from);
      if (!at) return undefined;
    }
    return at;
  }

  private setAt(at: Path, value: unknown, rules: Rules): TextEdit[] {
    if (at.length === 0 || typeof at[0] !== 'string')
      throw new LensError('edit/no-place', 'a place of a sheet begins with the name of a member', {
        hint: "Give ['look', 'exposure'].",
      });
    return this.set(this.root(rules.file), at, at, value, rules);
  }

  /**
   * Sets what is at a path below an object or a list.
   *
   * @param whole the path from the sheet down, for defaults and rounding
   */
  private set(container: Container, path: Path, whole: Path, value: unknown, rules: Rules): TextEdit[] {
    const [key, ...rest] = path as [string | number, ...(string | number)[]];
    const depth = whole.length - path.length;
    const slotNumber = container.isList ? Number(key) : container.slots.findIndex((slot) => slot.key === key);
    const slot = container.slots[slotNumber];
    if (rest.length > 0) {
      const inner = slot && containerAt(this.text, slot.from, this.known);
      if (inner) {
        const isLast =
          (value === undefined || this.isDefault(whole, value, false)) &&
          this.leavesNothing(inner, rest) &&
          GOES_EMPTY.has(this.emptyName(whole, depth));
        if (isLast) return this.take(container, slotNumber);
        return this.set(inner, rest, whole, value, rules);
      }
      if (value === undefined) return [];
      // What is on the way and not there yet is made.
      const made = rest.reduceRight<unknown>(
        (below, name) => (typeof name === 'number' ? [below] : { [name]: below }),
        this.seen(value, whole, rules),
      );
      return slot
        ? this.replace(slot.from, slot.to, made)
        : this.put(container, key, made, whole.slice(0, depth + 1));
    }
    const isUsual = value === undefined || this.isDefault(whole, value, container.isList);
    if (isUsual) return slot ? this.take(container, slotNumber) : [];
    if (!slot) return this.put(container, key, this.seen(value, whole, rules), whole);
    return this.replaceBy(slot.from, slot.to, value, whole, rules);
  }

  private emptyName(whole: Path, depth: number): string {
    const name = whole[depth];
    // Adjustments by path go with the last that they say.
    return whole[depth - 1] === 'adjust' ? 'adjust' : String(name);
  }

  /** Whether an object is empty when what is at a path below it is gone. */
  private leavesNothing({ isList, slots }: Container, rest: Path): boolean {
    if (isList || slots.length !== 1 || slots[0]!.key !== rest[0]) return false; // length 1
    if (rest.length === 1) return true;
    const inner = containerAt(this.text, slots[0]!.from); // as above
    return inner !== undefined && this.leavesNothing(inner, rest.slice(1));
  }

  /** Whether it need not be said. Adjustments say what is other than elsewhere: theirs always are. */
  private isDefault(whole: Path, value: unknown, isList: boolean): boolean {
    if (isList || whole.includes('adjust')) return false;
    if (whole.at(-1) === 'degrees') return same(value, [0, 0, 0]);
    const member = formAt(whole)?.member;
    return member?.default !== undefined && same(value, member.default);
  }

  private seen(value: unknown, whole: Path, { exact, size }: Rules): unknown {
    return exact ? value : roundedAt(value, whole, size);
  }

  /** @param gone what goes with its comments: a node */
  private take(container: Container, index: number, gone?: { from: number; to: number }): TextEdit[] {
    const { from, to } = container.slots[index]!; // it is there
    const comments = gone
      ? [...commentsIn(this.text, from, gone.from), ...commentsIn(this.text, gone.to, to)]
      : commentsIn(this.text, from, to);
    return removeSlot(this.text, container, index, comments, this.style);
  }

  private put(container: Container, key: string | number, value: unknown, whole: Path): TextEdit[] {
    const print = (indent: string): string =>
      container.isList
        ? printJson(value, this.style, indent)
        : `${JSON.stringify(key)}: ${printJson(value, this.style, indent)}`;
    const index = container.isList ? container.slots.length : this.placeOf(container, String(key), whole);
    return insertSlot(this.text, container, index, this.style, print);
  }

  /** Before which member one is put in. */
  private placeOf({ slots }: Container, key: string, whole: Path): number {
    const isOfNode = whole[0] === 'nodes' && whole.length === 3;
    const order = isOfNode ? NODE_ORDER : whole.length === 1 ? SHEET_ORDER : [];
    const rank = order.indexOf(key);
    if (rank < 0) return slots.length;
    let after = 0;
    for (const [i, slot] of slots.entries()) {
      const other = order.indexOf(slot.key);
      if (other >= 0 && other < rank) after = i + 1;
    }
    return after;
  }

  private replace(from: number, to: number, value: unknown): TextEdit[] {
    return [
      { offset: from, length: to - from, content: printJson(value, this.style, indentAt(this.text, from)) },
    ];
  }

  /** Makes a value that stands there another one, and changes no more of it than differs. */
  private replaceBy(from: number, to: number, value: unknown, whole: Path, rules: Rules): TextEdit[] {
    const before = valueIn(this.text, from, to);
    const after = this.seen(value, whole, rules);
    if (same(before, after) || same(this.seen(before, whole, rules), after)) return [];
    const container = containerAt(this.text, from, this.known);
    if (Array.isArray(before) && Array.isArray(after) && container && before.length === after.length)
      return container.slots.flatMap((slot, i) =>
        this.replaceBy(slot.from, slot.to, after[i], [...whole, i], { ...rules, exact: true }),
      );
    if (!isObject(before) || !isObject(after) || !container) return this.replace(from, to, after);
    const edited = new EditedText(this.text);
    let { text } = this;
    const step = (key: string, given: unknown): void => {
      const editor = new SheetEditor(text, undefined, this.style);
      const edits = editor.set(containerAt(text, from)!, [key], [...whole, key], given, {
        ...rules,
        exact: true,
      }); // it begins where it did
      edited.edit(edits);
      text = applyEdits(text, edits);
    };
    for (const key of Object.keys(before)) if (!(key in after)) step(key, undefined);
    for (const [key, given] of Object.entries(after)) if (!same(before[key], given)) step(key, given);
    return edited.edits;
  }

  /** The list of nodes below one, or at the top. */
  private listOf(parent: number): Container | undefined {
    const { childrenFrom, childrenTo, listFrom } = this.index;
    const from = parent < 0 ? listFrom : childrenFrom[parent]!; // a node's number
    if (from < 0) return undefined;
    // Nodes within it are known.
    const { from: begins, to: ends } = this.index;
    return containerAt(this.text, from, (at) => {
      let [low, high] = [0, begins.length];
      while (low < high) {
        const middle = (low + high) >> 1;
        if (begins[middle]! < at)
          low = middle + 1; // middle < high
        else high = middle;
      }
      return begins[low] === at ? ends[low] : childrenTo[childrenFrom.indexOf(at)];
    });
  }

  private removed(number: number): TextEdit[] {
    const { from, parent } = this.index;
    const above = parent[number]!; // a node's number
    const list = this.listOf(above)!; // it stands there
    const at = list.slots.findIndex((slot) => slot.from === from[number]);
    const own = list.slots[at]!; // as above
    if (list.slots.length === 1 && above >= 0) {
      const container = this.nodeAt(above);
      const index = container.slots.findIndex(({ key }) => key === 'children');
      return this.take(container, index, own);
    }
    return this.take(list, at, own);
  }

  /** Puts a node's text among the children of another. */
  private inserted(
    parent: number,
    index: number | undefined,
    print: (indent: string) => string,
    file: string,
  ): TextEdit[] {
    const list = this.listOf(parent);
    if (list) return insertSlot(this.text, list, index ?? list.slots.length, this.style, print);
    const container = parent < 0 ? this.root(file) : this.nodeAt(parent);
    const key = parent < 0 ? 'nodes' : 'children';
    const whole: Path = parent < 0 ? ['nodes'] : ['nodes', 0, 'children'];
    const { indent, lineEnd } = this.style;
    return insertSlot(this.text, container, this.placeOf(container, key, whole), this.style, (at) => {
      const deeper = at + indent;
      return `${JSON.stringify(key)}: [${lineEnd}${deeper}${print(deeper)}${lineEnd}${at}]`;
    });
  }

  private add({ index, node, parent }: Extract<SheetChange, { type: 'add' }>, rules: Rules): TextEdit[] {
    const above = parent === undefined ? -1 : this.numberOf(parent, rules);
    if (node.name !== undefined) this.refuseName(above, node.name, rules);
    const seen = this.seen(node, ['nodes', 0], rules);
    return this.inserted(above, index, (indent) => printJson(seen, this.style, indent), rules.file);
  }

  /** @throws LensError `edit/name-twice` */
  private refuseName(parent: number, name: string, { file }: Rules, but = -1): void {
    const found = this.index.children.get(parent)?.get(name);
    if (found !== undefined && found !== but)
      throw new LensError('edit/name-twice', `a node "${name}" stands there already`, {
        where: { file },
        hint: 'Give it another name: siblings are told apart by their names.',
      });
    if (name.includes('/'))
      throw new LensError('edit/name-twice', `the name "${name}" has a slash`, {
        where: { file },
        hint: 'Slashes join names to paths: take another sign.',
      });
  }

  private refuseTwin(number: number, name: string, rules: Rules): void {
    this.refuseName(this.index.parent[number]!, name, rules, number); // a node's number
  }

  private pathOf(number: number): string {
    const names: string[] = [];
    for (let at = number; at >= 0; at = this.index.parent[at]!) names.unshift(this.index.names[at] ?? ''); // numbers of nodes
    return names.join('/');
  }

  private rename({ name, node }: Extract<SheetChange, { type: 'rename' }>, rules: Rules): TextEdit[] {
    const number = this.numberOf(node, rules);
    this.refuseTwin(number, name, rules);
    const renamed = this.set(this.nodeAt(number), ['name'], ['nodes', 0, 'name'], name, {
      ...rules,
      exact: true,
    });
    const path = [...node.split('/').slice(0, -1), name].join('/');
    return this.withPaths(renamed, node, path);
  }

  /** What names nodes by their paths goes along: the camera, what is cut, what effects look at. */
  private withPaths(edits: readonly TextEdit[], before: string, after: string): TextEdit[] {
    const text = applyEdits(this.text, edits);
    const whole = new EditedText(this.text);
    whole.edit(edits);
    if (before === after) return whole.edits;
    const editor = new SheetEditor(text, undefined, this.style);
    const found: TextEdit[] = [];
    const follow = (slot: { from: number; to: number } | undefined): void => {
      if (!slot) return;
      const value = valueIn(text, slot.from, slot.to);
      if (typeof value !== 'string' || (value !== before && !value.startsWith(`${before}/`))) return;
      found.push({
        offset: slot.from,
        length: slot.to - slot.from,
        content: JSON.stringify(after + value.slice(before.length)),
      });
    };
    const slotOf = (container: Container | undefined, key: string): Container['slots'][number] | undefined =>
      container?.slots.find((slot) => slot.key === key);
    const effects = (slot: { from: number } | undefined): void => {
      for (const one of (slot && containerAt(text, slot.from)?.slots) ?? []) {
        const effect = containerAt(text, one.from);
        follow(slotOf(effect, 'focus'));
        follow(slotOf(effect, 'from'));
      }
    };
    const root = editor.root('sheet');
    follow(slotOf(root, 'camera'));
    const clipping = slotOf(root, 'clipping');
    follow(slotOf(clipping && containerAt(text, clipping.from), 'node'));
    effects(slotOf(root, 'finish'));
    // Few nodes have effects: those are looked at whose text says so.
    if (/"(focus|from)"/.test(text))
      for (let i = 0; i < editor.index.from.length; i++) effects(slotOf(editor.nodeAt(i), 'effects'));
    whole.edit(found.sort((a, b) => a.offset - b.offset));
    return whole.edits;
  }

  private sourceOf(number: number): { text: string; indent: string } {
    const { from, to } = this.index;
    const [begin, end] = [from[number]!, to[number]!]; // a node's number
    return { text: this.text.slice(begin, end), indent: indentAt(this.text, begin) };
  }

  private move({ index, node, parent }: Extract<SheetChange, { type: 'move' }>, rules: Rules): TextEdit[] {
    const number = this.numberOf(node, rules);
    const target = parent === undefined ? -1 : this.numberOf(parent, rules);
    for (let at = target; at >= 0; at = this.index.parent[at]!)
      // numbers of nodes
      if (at === number)
        throw new LensError('edit/parents', `node "${node}" cannot hang below itself`, {
          where: { file: rules.file },
          hint: `"${parent!}" is "${node}", or hangs below it.`, // it has one
        });
    const name = this.index.names[number] ?? '';
    const isSame = this.index.parent[number] === target;
    if (name !== '') this.refuseName(target, name, rules, isSame ? number : -1);
    const source = this.sourceOf(number);
    const whole = new EditedText(this.text);
    const gone = this.removed(number);
    whole.edit(gone);
    const rest = new SheetEditor(applyEdits(this.text, gone), undefined, this.style);
    // Its new parent has moved in the text, and may be the one that lost its last child.
    const at = parent === undefined ? -1 : rest.numberOf(parent, rules);
    const put = rest.inserted(
      at,
      index,
      (indent) => reindented(source.text, source.indent, indent),
      rules.file,
    );
    whole.edit(put);
    const after = parent === undefined ? name : `${parent}/${name}`;
    return this.withPaths(whole.edits, node, after);
  }

  private duplicate({ name, node }: Extract<SheetChange, { type: 'duplicate' }>, rules: Rules): TextEdit[] {
    const number = this.numberOf(node, rules);
    const parent = this.index.parent[number]!; // a node's number
    this.refuseName(parent, name, rules);
    const source = this.sourceOf(number);
    const twin = new SheetEditor(source.text, undefined, this.style);
    const named = twin.set(containerAt(source.text, 0)!, ['name'], ['nodes', 0, 'name'], name, {
      ...rules,
      exact: true,
    }); // a node
    const text = applyEdits(source.text, named);
    const list = this.listOf(parent)!; // it stands there
    const index = list.slots.findIndex((slot) => slot.from === this.index.from[number]);
    return this.inserted(parent, index + 1, (indent) => reindented(text, source.indent, indent), rules.file);
  }

  private group({ name, nodes }: Extract<SheetChange, { type: 'group' }>, rules: Rules): TextEdit[] {
    const numbers = nodes.map((node) => this.numberOf(node, rules));
    const parents = new Set(numbers.map((number) => this.index.parent[number]));
    const [parent] = parents;
    if (parents.size !== 1 || parent === undefined)
      throw new LensError('edit/parents', 'nodes of several parents cannot be grouped', {
        where: { file: rules.file },
        hint: 'Move them to one parent first.',
      });
    if (!numbers.includes(this.index.children.get(parent)?.get(name) ?? -1))
      this.refuseName(parent, name, rules);
    numbers.sort((a, b) => a - b);
    const list = this.listOf(parent)!; // they stand there
    const first = list.slots.findIndex((slot) => slot.from === this.index.from[numbers[0]!]); // one at least
    const sources = numbers.map((number) => this.sourceOf(number));
    const { indent, lineEnd } = this.style;
    const print = (at: string): string => {
      const [inner, deeper] = [at + indent, at + indent + indent];
      const children = sources
        .map(({ indent: own, text }) => deeper + reindented(text, own, deeper))
        .join(`,${lineEnd}`);
      return `{${lineEnd}${inner}"name": ${JSON.stringify(name)},${lineEnd}${inner}"children": [${lineEnd}${children}${lineEnd}${inner}]${lineEnd}${at}}`;
    };
    const whole = new EditedText(this.text);
    // The group stands in the place of the first; the others go.
    const at = list.slots[first]!; // it was found
    const put: TextEdit = {
      offset: at.from,
      length: at.to - at.from,
      content: print(indentAt(this.text, at.from)),
    };
    whole.edit([put]);
    let editor = new SheetEditor(applyEdits(this.text, [put]), undefined, this.style);
    for (let k = numbers.length - 1; k > 0; k--) {
      const number = numbers[k]!; // k < length
      const number2 = editor.index.children.get(parent)?.get(this.index.names[number] ?? '');
      if (number2 === undefined) continue;
      const gone = editor.removed(number2);
      whole.edit(gone);
      editor = new SheetEditor(applyEdits(editor.text, gone), undefined, this.style);
    }
    let edits = whole.edits;
    const above = parent < 0 ? '' : `${this.pathOf(parent)}/`;
    for (const number of numbers) {
      const own = this.index.names[number] ?? '';
      edits = this.withPaths(edits, above + own, `${above}${name}/${own}`);
    }
    return edits;
  }
}

const touches = (change: SheetChange, ...names: string[]): boolean =>
  change.type === 'set' &&
  !('at' in change) &&
  names.includes(String(typeof change.member === 'string' ? change.member : change.member[0]));

/** Translation, rotation and scale of 16 numbers by columns. */
function partsOf(m: readonly number[]): [number[], number[], number[]] {
  const rows = Float32Array.from(
    [0, 1, 2].flatMap((row) => [m[row]!, m[row + 4]!, m[row + 8]!, m[row + 12]!]),
  ); // sixteen
  const [t, r, s] = [
    [0, 0, 0],
    [0, 0, 0, 1],
    [1, 1, 1],
  ];
  affineToTrs(rows, 0, t, 0, r, 0, s, 0);
  return [t, r, s];
}
