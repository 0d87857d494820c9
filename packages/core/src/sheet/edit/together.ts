import type { TextEdit } from '../../json/text-edit.js';
import type { SheetChange } from './sheet-change.js';
import type { SheetEditor } from './sheet-editor.js';
import type { Rules } from './value-editor.js';

type Add = Extract<SheetChange, { type: 'add' }>;

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
  /** Of nodes that come: by the path of the one above. */
  private readonly coming = new Map<string | undefined, Map<string | number, Add>>();

  constructor(
    private readonly editor: SheetEditor,
    private readonly rules: Rules,
  ) {}

  /** @returns false where it has to be made after those before it, or by itself; nothing is kept then */
  take(change: SheetChange): boolean {
    if (this.type !== undefined && this.type !== change.type) return false;
    const isTaken =
      change.type === 'set'
        ? this.set(change)
        : change.type === 'remove'
          ? this.remove(change.node)
          : change.type === 'add' && this.add(change);
    if (isTaken) this.type = change.type;
    return isTaken;
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

  private add(change: Add): boolean {
    const { node, parent } = change;
    const known = this.coming.get(parent);
    if (change.index !== undefined || (node.name !== undefined && known?.has(node.name))) return false;
    if (!this.editor.takesMore(change, this.rules)) return false;
    const adds = known ?? new Map<string | number, Add>();
    adds.set(node.name ?? adds.size, change);
    this.coming.set(parent, adds);
    return true;
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
