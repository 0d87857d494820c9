import type { Node } from 'jsonc-parser';
import { LensError } from '../errors/lens-error.js';
import { type Container, containerAt, rootAt } from '../json/json-scan.js';
import { printJson, styleOf, type TextStyle, valueIn } from '../json/print-json.js';
import { indentAt, insertSlot, removeSlot } from '../json/slots.js';
import { treeOf } from '../json/strict-json.js';
import { applyEdits, EditedText, type TextEdit } from '../json/text-edit.js';
import type { Graph } from './document.js';
import { nodeNamed, type Path } from './walk.js';

/** What is to be other in a graph. Nodes of a function are named with it. */
export type GraphChange =
  /** Anything: `['nodes', 'rim', 'in', 1]`, `['settings', 'edge', 'value']`. Left out: it is taken away. */
  | { type: 'set'; at: Path; value?: unknown }
  /** A node by another name, with all that name it. */
  | { type: 'rename'; node: string; function?: string; name: string }
  /** A node, with its place and its frames. What names it has null there: its default. */
  | { type: 'remove'; node: string; function?: string }
  /** A function by another name, with all that call it. */
  | { type: 'renameFunction'; function: string; name: string };

/**
 * The smallest edits of a graph's text that make changes. Comments, order and layout of everything else stay to the letter.
 *
 *     const edits = graphEdit(text, [{ type: 'set', at: ['nodes', 'rim', 'in', 1], value: 3 }]);
 *     const after = applyEdits(text, edits);
 *     applyEdits(after, undoEdits(text, edits)) === text;
 *
 * @param text a graph that `readGraph` takes
 * @returns in rising order of offsets in `text`
 * @throws LensError `edit/no-node`, `edit/no-place`, `edit/name-twice`, `edit/in-code`; nothing is changed then
 */
export function graphEdit(
  text: string,
  changes: readonly GraphChange[],
  file = 'shader.graph.json',
): TextEdit[] {
  const whole = new EditedText(text);
  let now = text;
  const make = (edits: TextEdit[]): void => {
    whole.edit(edits);
    now = applyEdits(now, edits);
  };
  for (const change of changes) {
    const editor = (): Editor => new Editor(now, file);
    switch (change.type) {
      case 'set':
        make(editor().set(change.at, change.value));
        break;
      case 'rename':
        make(editor().rename(change));
        break;
      case 'remove':
        for (const at of editor().references(change)) make(editor().set(at, null));
        for (const at of editor().framesOf(change)) make(editor().set(at, undefined));
        make(editor().set([...above(change.function), 'layout', change.node], undefined));
        make(editor().removeNode(change));
        break;
      case 'renameFunction':
        make(editor().renameFunction(change.function, change.name));
    }
  }
  return whole.edits;
}

const above = (of: string | undefined): string[] => (of === undefined ? [] : ['functions', of]);

class Editor {
  private readonly style: TextStyle;

  constructor(
    private readonly text: string,
    private readonly file: string,
  ) {
    this.style = styleOf(text);
  }

  private noPlace(path: Path): LensError {
    return new LensError('edit/no-place', `${this.file} has no place for /${path.join('/')}`, {
      where: { file: this.file, pointer: `/${path.join('/')}` },
      hint: 'Numbers are places of lists, names those of objects.',
    });
  }

  private root(): Container {
    const root = containerAt(this.text, rootAt(this.text));
    if (root && !root.isList) return root;
    throw new LensError('edit/no-place', `${this.file} is no graph`, { where: { file: this.file } });
  }

  set(path: Path, value: unknown): TextEdit[] {
    if (path.length === 0) throw this.noPlace(path);
    return this.setIn(this.root(), path, path, value);
  }

  private setIn(container: Container, path: Path, whole: Path, value: unknown): TextEdit[] {
    const [key, ...rest] = path as [string | number, ...(string | number)[]];
    if (container.isList !== (typeof key === 'number')) throw this.noPlace(whole);
    const { slots } = container;
    const index = typeof key === 'number' ? key : slots.findIndex((slot) => slot.key === key);
    const slot = slots[index];
    if (rest.length > 0 && slot) {
      const below = containerAt(this.text, slot.from);
      if (below) return this.setIn(below, rest, whole, value);
      if (value === undefined) return [];
    }
    // What is not there yet is made on the way down.
    const given = value === undefined ? undefined : nested(rest, value);
    if (given === undefined) return slot ? this.remove(container, index) : [];
    if (slot) {
      if (same(valueIn(this.text, slot.from, slot.to), given)) return [];
      return [
        {
          offset: slot.from,
          length: slot.to - slot.from,
          content: printJson(given, this.style, indentAt(this.text, slot.at)),
        },
      ];
    }
    if (typeof key === 'number' && key > slots.length) throw this.noPlace(whole);
    const name = typeof key === 'number' ? '' : `${JSON.stringify(key)}: `;
    return insertSlot(
      this.text,
      container,
      slots.length,
      this.style,
      (indent) => name + printJson(given, this.style, indent),
    );
  }

  private remove(container: Container, index: number): TextEdit[] {
    // Comments within go with what they are about.
    return removeSlot(this.text, container, index, [], this.style);
  }

  private tree(): Node {
    const tree = treeOf(this.text);
    if (tree) return tree;
    throw new LensError('edit/no-place', `${this.file} is nested too deeply`, { where: { file: this.file } });
  }

  private needNode({ function: of, node }: { node: string; function?: string }): void {
    const nodes = nodeAt(this.tree(), [...above(of), 'nodes']);
    if (nodes?.children?.some((one) => one.children?.[0]?.value === node)) return;
    throw new LensError('edit/no-node', `${this.file} has no node "${node}"`, {
      where: { file: this.file },
      hint: 'Look at the names under "nodes".',
    });
  }

  removeNode(change: { node: string; function?: string }): TextEdit[] {
    this.needNode(change);
    return this.set([...above(change.function), 'nodes', change.node], undefined);
  }

  /** Ways down to inputs that name a node, those that lie deepest first. */
  references({ function: of, node }: { node: string; function?: string }): Path[] {
    return this.textsNaming(of, node).map(({ path }) => path);
  }

  framesOf({ function: of, node }: { node: string; function?: string }): Path[] {
    if (of !== undefined) return [];
    const frames = nodeAt(this.tree(), ['frames']);
    const found: Path[] = [];
    for (const frame of frames?.children ?? []) {
      const name = frame.children?.[0]?.value as string;
      const list = frame.children?.[1] && nodeAt(frame.children[1], ['nodes']);
      for (const [i, one] of (list?.children ?? []).entries())
        if (one.value === node) found.unshift(['frames', name, 'nodes', i]);
    }
    return found;
  }

  private textsNaming(of: string | undefined, node: string): { path: Path; from: Node }[] {
    const tree = this.tree();
    const found: { path: Path; from: Node }[] = [];
    const { functions = {}, nodes = {} } = valueIn(
      this.text,
      tree.offset,
      tree.offset + tree.length,
    ) as Graph;
    const others = (of === undefined ? nodes : functions[of]?.nodes) ?? {};
    const look = (at: Node | undefined, path: Path): void => {
      if (!at) return;
      if (at.type === 'string' && nodeNamed(at.value, others) === node) found.push({ path, from: at });
      for (const [i, child] of (at.children ?? []).entries())
        if (at.type === 'array') look(child, [...path, i]);
        else if (child.children) look(child.children[1], [...path, child.children[0]!.value as string]); // a name and a value
    };
    const base = above(of);
    for (const key of of === undefined ? ['nodes', 'hooks'] : ['nodes', 'gives'])
      look(nodeAt(tree, [...base, key]), [...base, key]);
    return found.filter(
      ({ path }) => !['call', 'note', 'code'].includes(String(path.at(-1))) || path.includes('in'),
    );
  }

  rename(change: { node: string; function?: string; name: string }): TextEdit[] {
    const { function: of, name, node } = change;
    this.needNode(change);
    const tree = this.tree();
    const nodes = nodeAt(tree, [...above(of), 'nodes'])!; // looked at above
    if (name === node) return [];
    if (nodes.children?.some((one) => one.children?.[0]?.value === name))
      throw new LensError('edit/name-twice', `there is a node "${name}" already`, {
        where: { file: this.file },
        hint: 'Call it otherwise.',
      });
    const edits: TextEdit[] = [];
    const write = (at: Node, text: string): void =>
      void edits.push({ offset: at.offset, length: at.length, content: JSON.stringify(text) });
    write(keyIn(nodes, node)!, name); // looked at above
    for (const { from } of this.textsNaming(of, node))
      write(from, `@${name}${(from.value as string).slice(node.length + 1)}`);
    const placed = keyIn(nodeAt(tree, [...above(of), 'layout']), node);
    if (placed) write(placed, name);
    if (of === undefined) {
      for (const frame of nodeAt(tree, ['frames'])?.children ?? [])
        for (const one of (frame.children?.[1] && nodeAt(frame.children[1], ['nodes']))?.children ?? [])
          if (one.value === node) write(one, name);
    }
    return edits.sort((a, b) => a.offset - b.offset);
  }

  renameFunction(of: string, name: string): TextEdit[] {
    const tree = this.tree();
    const functions = nodeAt(tree, ['functions']);
    const own = keyIn(functions, of);
    if (!own)
      throw new LensError('edit/no-node', `${this.file} has no function "${of}"`, {
        where: { file: this.file },
        hint: 'Look at the names under "functions".',
      });
    if (name === of) return [];
    if (keyIn(functions, name))
      throw new LensError('edit/name-twice', `there is a function "${name}" already`, {
        where: { file: this.file },
        hint: 'Call it otherwise.',
      });
    const named = [own];
    const look = (at: Node, key: string, path: readonly string[]): void => {
      if (key === 'call' && at.value === of) named.push(at);
      if (key === 'code' && String(at.value).match(/\w+/g)?.includes(of))
        throw new LensError('edit/in-code', `"${of}" is named in the WGSL of /${path.join('/')}`, {
          where: { file: this.file, pointer: `/${path.join('/')}` },
          hint: 'Rename it there, and its name in the graph, by hand.',
        });
      for (const child of at.children ?? [])
        if (at.type === 'array') look(child, '', path);
        // A name and a value.
        else if (child.children?.[1]) {
          const inner = child.children[0]!.value as string;
          look(child.children[1], inner, [...path, inner]);
        }
    };
    for (const part of ['functions', 'nodes', 'hooks']) {
      const at = nodeAt(tree, [part]);
      if (at) look(at, '', [part]);
    }
    return named
      .map(({ length, offset }) => ({ offset, length, content: JSON.stringify(name) }))
      .sort((a, b) => a.offset - b.offset);
  }
}

const keyIn = (holder: Node | undefined, key: string): Node | undefined =>
  holder?.children?.find((one) => one.children?.[0]?.value === key)?.children?.[0];

function nodeAt(tree: Node, path: readonly string[]): Node | undefined {
  let at: Node | undefined = tree;
  for (const key of path)
    at = at?.children?.find((one) => one.type === 'property' && one.children?.[0]?.value === key)
      ?.children?.[1];
  return at;
}

/** A value below names that are not there yet. */
function nested(path: Path, value: unknown): unknown {
  return [...path]
    .reverse()
    .reduce<unknown>((held, key) => (typeof key === 'number' ? [held] : { [key]: held }), value);
}

const same = (a: unknown, b: unknown): boolean => JSON.stringify(a) === JSON.stringify(b);
