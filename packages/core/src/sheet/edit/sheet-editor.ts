import { LensError } from '../../errors/lens-error.js';
import { nearHint } from '../../errors/near-names.js';
import { type Container, containerAt } from '../../json/json-scan.js';
import { shiftNodes } from './index-nodes.js';
import { lowerBound } from '../../math/lists.js';
import { printJson, valueIn } from '../../json/print-json.js';
import { indentAt, insertSlot, isByLines, reindented } from '../../json/slots.js';
import { applyEdits, EditedText, type TextEdit } from '../../json/text-edit.js';
import type { SheetChange } from './sheet-change.js';
import { type Path, type Rules, ValueEditor } from './value-editor.js';

/** Makes changes of a sheet's text: of values, and of the tree. */
export class SheetEditor extends ValueEditor {
  /** Lists of nodes that were looked at, by the number of the one above. */
  private readonly lists = new Map<number, Container | undefined>();
  /** Paths that the text names. */
  private named: unknown[] | undefined;

  /** The one of the text with edits made. This one is not to be asked any more. @param keepsTree whether nodes stand where they stood */
  followed(text: string, edits: readonly TextEdit[], keepsTree: boolean): SheetEditor {
    if (!keepsTree || !this.nodes) return new SheetEditor(text, undefined, this.style);
    shiftNodes(this.nodes, edits);
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

  /** @throws LensError `edit/no-node` */
  private numberOf(path: string, { file }: Rules): number {
    const found = this.numberAt(path);
    if (typeof found === 'number') return found;
    throw new LensError('edit/no-node', `${file} has no node "${path}"`, {
      hint: nearHint(found.name, found.siblings),
      where: { file },
    });
  }

  has(path: string): boolean {
    return typeof this.numberAt(path) === 'number';
  }

  /** A node's number; where there is none, the name that is not found, and those that are there. */
  private numberAt(path: string): number | { name: string; siblings: Iterable<string> } {
    const { children } = this.index;
    let at = -1;
    for (const name of path.split('/')) {
      const siblings = children.get(at);
      const found = siblings?.get(name);
      if (found === undefined) return { name, siblings: siblings?.keys() ?? [] };
      at = found;
    }
    return at;
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

  private setAt(at: Path, value: unknown, rules: Rules): TextEdit[] {
    if (at.length === 0 || typeof at[0] !== 'string')
      throw new LensError('edit/no-place', 'a place of a sheet begins with the name of a member', {
        hint: "Give ['look', 'exposure'].",
      });
    return this.set(this.root(rules.file), at, at, value, rules);
  }

  /** The list of nodes below one, or at the top. */
  private listOf(parent: number): Container | undefined {
    if (!this.lists.has(parent)) this.lists.set(parent, this.listAt(parent));
    return this.lists.get(parent);
  }

  private listAt(parent: number): Container | undefined {
    const { childrenFrom, childrenTo, listFrom } = this.index;
    const from = parent < 0 ? listFrom : childrenFrom[parent]!; // a node's number
    if (from < 0) return undefined;
    // Nodes within it are known.
    const { from: begins, to: ends } = this.index;
    return containerAt(this.text, from, (at) => {
      const number = lowerBound(begins.length, at, (i) => begins[i]!); // i < length
      return begins[number] === at ? ends[number] : childrenTo[childrenFrom.indexOf(at)];
    });
  }

  private removed(number: number): TextEdit[] {
    const { from, parent } = this.index;
    const above = parent[number]!; // a node's number
    const list = this.listOf(above)!; // it stands there
    const at = slotAt(list, from[number]!); // a node's number
    const own = list.slots[at]!; // as above
    if (list.slots.length === 1 && above >= 0) {
      const container = this.nodeAt(above);
      const index = container.slots.findIndex(({ key }) => key === 'children');
      return this.take(container, index, own);
    }
    return this.take(list, at, own);
  }

  /**
   * What takes a node away that has lines of its own, and is not the last of its list: it touches no other.
   *
   * @returns undefined for others; else its number too, and the numbers of those above it, from below
   */
  ownLines(
    node: string,
    rules: Rules,
  ): { edit: TextEdit; numbers: [own: number, ...above: number[]] } | undefined {
    const { from, parent } = this.index;
    const number = this.numberOf(node, rules);
    const list = this.listOf(parent[number]!)!; // it stands there
    if (slotAt(list, from[number]!) === list.slots.length - 1) return undefined; // a node's number
    const [edit, ...more] = this.removed(number);
    const isWhole =
      edit?.content === '' &&
      this.text[edit.offset - 1] === '\n' &&
      this.text[edit.offset + edit.length - 1] === '\n';
    if (!isWhole || more.length > 0) return undefined;
    return { edit, numbers: this.numbersTo(node)! }; // it is there
  }

  /** Whether a node goes behind others, and none has its name. */
  takesMore(parent: string | undefined, name: string | undefined): boolean {
    const above = parent === undefined ? -1 : this.numberAt(parent);
    const list = typeof above === 'number' ? this.listOf(above) : undefined;
    if (!list || list.slots.length === 0) return false;
    return (
      name === undefined || (!name.includes('/') && !this.index.children.get(above as number)?.has(name)) // there is a list
    );
  }

  /** A node's number, and those of all above it, from below; undefined where there is none. */
  numbersTo(path: string): [own: number, ...above: number[]] | undefined {
    const own = this.numberAt(path);
    if (typeof own !== 'number') return undefined;
    const numbers: [number, ...number[]] = [own];
    for (let at = this.index.parent[own]!; at >= 0; at = this.index.parent[at]!) numbers.push(at); // numbers of nodes
    return numbers;
  }

  /** Whether the camera, what is cut, or an effect names a node, or one below it. */
  isNamed(path: string): boolean {
    const named = (this.named ??= this.pathSlots().map(({ from, to }) => valueIn(this.text, from, to)));
    return named.some((one) => typeof one === 'string' && (one === path || one.startsWith(`${path}/`)));
  }

  /** Puts nodes behind the last of one list, as one after the other would be. They are such as `takesMore` says. */
  addedTogether(
    changes: readonly Extract<SheetChange, { type: 'add' | 'move' }>[],
    rules: Rules,
  ): TextEdit[] {
    const [first, ...others] = changes;
    if (!first) return [];
    const { style, text } = this;
    const print = (change: Extract<SheetChange, { type: 'add' | 'move' }>, at: string): string => {
      if (change.type === 'add') return printJson(this.seen(change.node, ['nodes', 0], rules), style, at);
      const source = this.sourceOf(this.numberOf(change.node, rules));
      return reindented(source.text, source.indent, at);
    };
    const above = first.parent === undefined ? -1 : this.numberOf(first.parent, rules);
    const list = this.listOf(above)!; // there is one, with some in it
    const last = list.slots.at(-1)!; // as above
    const hasLines = isByLines(text, list);
    let indent = indentAt(text, last.at);
    const edits = this.inserted(above, undefined, (at) => print(first, at), rules.file);
    let made = print(first, indent);
    const more = others.map((change) => {
      // Without lines of their own one begins where the one before it ends.
      const [line] = /[^\n]*$/.exec(made)!; // it matches nothing, too
      if (!hasLines && line.length < made.length) indent = indentAt(line, line.length);
      made = print(change, indent);
      const apart = hasLines ? style.lineEnd + indent : ' ';
      return last.comma >= 0 ? `${apart}${made},` : `,${apart}${made}`;
    });
    const end = edits.pop()!; // one at least
    return [...edits, { ...end, content: end.content + more.join('') }];
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
    for (const { from, to } of editor.pathSlots()) {
      const value = valueIn(text, from, to);
      if (typeof value !== 'string' || (value !== before && !value.startsWith(`${before}/`))) continue;
      found.push({
        offset: from,
        length: to - from,
        content: JSON.stringify(after + value.slice(before.length)),
      });
    }
    whole.edit(found.sort((a, b) => a.offset - b.offset));
    return whole.edits;
  }

  /** Where the text names nodes by their paths: the camera, what is cut, what effects look at. */
  private pathSlots(): { from: number; to: number }[] {
    const { text } = this;
    const slotOf = (container: Container | undefined, key: string): Container['slots'][number] | undefined =>
      container?.slots.find((slot) => slot.key === key);
    const found: (Container['slots'][number] | undefined)[] = [];
    const effects = (slot: { from: number } | undefined): void => {
      for (const one of (slot && containerAt(text, slot.from)?.slots) ?? []) {
        const effect = containerAt(text, one.from);
        found.push(slotOf(effect, 'focus'), slotOf(effect, 'from'));
      }
    };
    const root = this.root('sheet');
    const clipping = slotOf(root, 'clipping');
    found.push(slotOf(root, 'camera'), slotOf(clipping && containerAt(text, clipping.from), 'node'));
    effects(slotOf(root, 'finish'));
    // Few nodes have effects: those are looked at whose text says so.
    if (/"(focus|from)"/.test(text))
      for (let i = 0; i < this.index.from.length; i++) effects(slotOf(this.nodeAt(i), 'effects'));
    return found.filter((slot) => slot !== undefined);
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

/** Number of the entry that begins at a place. */
const slotAt = ({ slots }: Container, from: number): number =>
  lowerBound(slots.length, from, (i) => slots[i]!.from); // i < length

/** Whether nodes stand where they stood, and are called as they were. */
export const keepsTree = (change: SheetChange): boolean =>
  change.type === 'set' &&
  !('at' in change && change.at[0] === 'nodes') &&
  !touches(change, 'name', 'children');

const touches = (change: SheetChange, ...names: string[]): boolean =>
  change.type === 'set' &&
  !('at' in change) &&
  names.includes(String(typeof change.member === 'string' ? change.member : change.member[0]));
