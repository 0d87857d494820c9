import type { TextEdit } from '../../json/text-edit.js';
import type { SheetChange } from './sheet-change.js';
import type { SheetEditor } from './sheet-editor.js';
import type { Rules } from './value-editor.js';

/** A node that comes: a new one, or one that hung elsewhere. */
type Coming = Extract<SheetChange, { type: 'add' | 'move' }>;

/**
 * Changes that do not touch one another's text: their edits are found in one text and made together, and are those that they would be one
 * after the other. Thousands cost as many places then, and not as many texts.
 */
export class Together {
  private type: SheetChange['type'] | undefined;
  /** Of members: by the path of their node. */
  private readonly members = new Map<string, readonly TextEdit[]>();
  /** Of nodes that go: by their numbers, and the numbers of all above them. */
  private readonly gone = new Map<number, TextEdit>();
  private readonly above = new Set<number>();
  /** Numbers of what nodes are moved to, and of all above that. */
  private readonly targets = new Set<number>();
  /** Of nodes that come: by the path of the one above. */
  private readonly coming = new Map<string | undefined, Map<string | number, Coming>>();

  constructor(
    private readonly editor: SheetEditor,
    private readonly rules: Rules,
  ) {}

  /** @returns false where it has to be made after those before it, or by itself; nothing is kept then */
  take(change: SheetChange): boolean {
    if (this.type !== undefined && this.type !== change.type) return false;
    const isTaken = this.fits(change);
    if (isTaken) this.type = change.type;
    return isTaken;
  }

  private fits(change: SheetChange): boolean {
    switch (change.type) {
      case 'set':
        return this.set(change);
      case 'remove':
        return this.remove(change.node);
      case 'add':
        return this.add(change, change.node.name);
      case 'move':
        return this.move(change);
      default:
        return false;
    }
  }

  private set(change: Extract<SheetChange, { type: 'set' }>): boolean {
    if ('at' in change || this.members.has(change.node) || !this.editor.has(change.node)) return false;
    const name = typeof change.member === 'string' ? change.member : change.member[0];
    // They change the tree.
    if (name === 'name' || name === 'children') return false;
    this.members.set(change.node, this.editor.editsFor(change, this.rules));
    return true;
  }

  private remove(node: string): boolean {
    const { editor, gone, rules } = this;
    const found = editor.has(node) ? editor.ownLines(node, rules) : undefined;
    // Of those below one another, one is gone already, or goes with the other.
    if (!found || this.above.has(found.numbers[0])) return false;
    const [number, ...above] = found.numbers;
    if (above.some((one) => gone.has(one)) || gone.has(number)) return false;
    gone.set(number, found.edit);
    for (const one of above) this.above.add(one);
    return true;
  }

  private add(change: Coming, name: string | undefined): boolean {
    if (!this.mayCome(change, name)) return false;
    const { parent } = change;
    const adds = this.coming.get(parent) ?? new Map<string | number, Coming>();
    adds.set(name ?? adds.size, change);
    this.coming.set(parent, adds);
    return true;
  }

  private mayCome({ index, parent }: Coming, name: string | undefined): boolean {
    if (index !== undefined || (name !== undefined && this.coming.get(parent)?.has(name))) return false;
    return this.editor.takesMore(parent, name);
  }

  /** It goes, and comes as it is. */
  private move(change: Extract<SheetChange, { type: 'move' }>): boolean {
    const { editor, gone } = this;
    const { node, parent } = change;
    const name = node.split('/').at(-1);
    if (!editor.has(node) || editor.isNamed(node) || !this.mayCome(change, name)) return false;
    // Neither goes what others come to, nor does it come to what goes.
    const targets: readonly number[] | undefined = parent === undefined ? [] : editor.numbersTo(parent);
    if (!targets || targets.some((one) => gone.has(one))) return false;
    const [number] = editor.numbersTo(node)!; // it is there
    if (targets.includes(number) || this.targets.has(number) || !this.remove(node)) return false;
    for (const one of targets) this.targets.add(one);
    return this.add(change, name);
  }

  /** In rising order. */
  get edits(): TextEdit[] {
    const { coming, editor, gone, members, rules } = this;
    return [
      ...[...members.values()].flat(),
      ...gone.values(),
      ...[...coming.values()].flatMap((adds) => editor.addedTogether([...adds.values()], rules)),
    ].sort((a, b) => a.offset - b.offset);
  }

  /** Whether the tree is another one afterwards. */
  get changesTree(): boolean {
    return this.type !== 'set';
  }
}
