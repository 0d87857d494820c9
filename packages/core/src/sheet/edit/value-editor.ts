import { LensError } from '../../errors/lens-error.js';
import { affineToTrs } from '../../math/affine.js';
import { degreesOfRotation } from '../degrees.js';
import { isObject } from '../../json/forms.js';
import { NODE_ORDER, SHEET_ORDER } from '../order.js';
import { same } from '../same.js';
import { commentsIn, type Container, containerAt, type Known, rootAt } from '../../json/json-scan.js';
import { indexNodes, type NodeIndex } from './index-nodes.js';
import { printJson, styleOf, type TextStyle, valueIn } from '../../json/print-json.js';
import { formAt, roundedAt } from './rounding.js';
import { indentAt, insertSlot, removeSlot } from '../../json/slots.js';
import { applyEdits, EditedText, type TextEdit } from '../../json/text-edit.js';

export type Path = readonly (string | number)[];

/** Objects that are taken away when nothing is in them any more. */
const GOES_EMPTY = new Set(['adjust', 'look', 'view', 'settings', 'weights', 'culling']);

/** How changes are made. */
export interface Rules {
  exact: boolean;
  file: string;
  size: number;
}

/** Sets values of a sheet's text, and changes no more of it than differs. */
export class ValueEditor {
  protected readonly style: TextStyle;
  protected nodes: NodeIndex | undefined;

  constructor(
    readonly text: string,
    nodes?: NodeIndex,
    style?: TextStyle,
  ) {
    this.nodes = nodes;
    this.style = style ?? styleOf(text);
  }

  protected get index(): NodeIndex {
    return (this.nodes ??= indexNodes(this.text));
  }

  /** Lists of nodes are known, and not read again. */
  private readonly known: Known = (from) => {
    const { childrenFrom, childrenTo, listFrom, listTo } = this.index;
    if (from === listFrom) return listTo;
    const i = childrenFrom.indexOf(from);
    return i < 0 ? undefined : childrenTo[i];
  };

  protected nodeAt(number: number): Container {
    const { childrenFrom, childrenTo, from } = this.index;
    return containerAt(this.text, from[number]!, (at) =>
      at === childrenFrom[number] ? childrenTo[number] : undefined,
    )!; // it is a node
  }

  protected root(file: string): Container {
    const root = containerAt(this.text, rootAt(this.text), (from) =>
      from === this.index.listFrom ? this.index.listTo : undefined,
    );
    if (root && !root.isList) return root;
    throw new LensError('edit/no-place', `${file} is no sheet`, { where: { file } });
  }

  /** Of a place one word stands for a turn, and a matrix for all of it: the others go. */
  protected place(container: Container, path: Path, name: string, value: unknown, rules: Rules): TextEdit[] {
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
      const editor = new ValueEditor(text, undefined, this.style);
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

  /**
   * Sets what is at a path below an object or a list.
   *
   * @param whole the path from the sheet down, for defaults and rounding
   */
  protected set(container: Container, path: Path, whole: Path, value: unknown, rules: Rules): TextEdit[] {
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

  protected seen(value: unknown, whole: Path, { exact, size }: Rules): unknown {
    return exact ? value : roundedAt(value, whole, size);
  }

  /** @param gone what goes with its comments: a node */
  protected take(container: Container, index: number, gone?: { from: number; to: number }): TextEdit[] {
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
  protected placeOf({ slots }: Container, key: string, whole: Path): number {
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
      const editor = new ValueEditor(text, undefined, this.style);
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
}

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
