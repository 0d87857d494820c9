import { type Change, storedChange } from './edit.js';
import type { Editing } from './apply-edit.js';

/** Text that is kept over reloads: `sessionStorage`, by a key of the page. */
export interface Kept {
  read(): string | undefined;
  write(text: string | undefined): void;
}

interface Stored {
  changes: Change[];
  index: number;
  saved: number;
}

/**
 * All that was changed, in order, without a limit. Between `saved` and `index` lies what no file has yet; where `index` is less, something that
 * files have was taken back.
 */
export class History {
  private changes: Change[] = [];
  private at = 0;
  private savedAt = 0;
  private last: { key: string; time: number } | undefined;
  private readonly listeners = new Set<(change: Change | undefined) => void>();

  constructor(
    private readonly editing: Editing,
    private readonly kept?: Kept,
  ) {}

  get index(): number {
    return this.at;
  }

  get saved(): number {
    return this.savedAt;
  }

  get all(): readonly Change[] {
    return this.changes;
  }

  /** Name of the change that `undo` takes back. */
  get undoes(): string | undefined {
    return this.changes[this.at - 1]?.name;
  }

  get redoes(): string | undefined {
    return this.changes[this.at]?.name;
  }

  /** What files do not say yet, in the order of time; steps that were taken back since stand with what they were. */
  get unsaved(): { change: Change; isBack: boolean }[] {
    const back = this.changes.slice(this.at, this.savedAt).reverse();
    const forth = this.changes.slice(this.savedAt, this.at);
    return [
      ...back.map((change) => ({ change, isBack: true })),
      ...forth.map((change) => ({ change, isBack: false })),
    ];
  }

  /** Makes a change, and notes it. @throws LensError of what cannot be; what was made of it is taken back then */
  make(change: Change, merge?: string): void {
    try {
      this.editing.apply(change, false);
    } catch (error) {
      this.editing.apply(change, true);
      throw error;
    }
    this.note(change, merge);
  }

  /**
   * Notes a change that is made already: what a hand has dragged.
   *
   * @param merge what it goes on with: a change of the same key just before is one with it
   */
  note(change: Change, merge?: string): void {
    if (change.edits.length === 0) return;
    const now = Date.now();
    const { last } = this;
    const before = this.changes[this.at - 1];
    this.last = merge === undefined ? undefined : { key: merge, time: now };
    const isMore = merge !== undefined && last?.key === merge && now - last.time < MERGED;
    if (
      isMore &&
      before &&
      this.at === this.changes.length &&
      this.at > this.savedAt &&
      goesOn(before, change)
    ) {
      this.tell(change);
      return;
    }
    // What files have and is left behind here cannot come back: it counts as made the other way round.
    if (this.savedAt > this.at) {
      const lost = this.changes.slice(this.at, this.savedAt).reverse();
      this.changes.splice(this.savedAt);
      for (const one of lost) this.changes.push(reversed(one));
    } else this.changes.splice(this.at);
    this.changes.push(change);
    this.at = this.changes.length;
    this.tell(change);
  }

  undo(): boolean {
    this.last = undefined;
    const change = this.changes[this.at - 1];
    if (!change) return false;
    this.at--;
    this.editing.apply(change, true);
    this.tell(change);
    return true;
  }

  redo(): boolean {
    const change = this.changes[this.at];
    if (!change) return false;
    this.at++;
    this.editing.apply(change, false);
    this.tell(change);
    return true;
  }

  /** To any step. */
  goTo(index: number): void {
    while (this.at > index && this.undo());
    while (this.at < index && this.redo());
  }

  /**
   * Has values that no file says yet once more, where those that files say were written over them: what was taken back since it was saved is among
   * them. Nodes that came or went are as they were.
   */
  insist(): void {
    for (const { change, isBack } of this.unsaved) {
      const edits = change.edits.filter(({ type }) => type === 'set');
      this.editing.apply({ ...change, edits }, isBack);
    }
  }

  /** Files have what the scene is now; or what it was after so many changes. */
  markSaved(index = this.at): void {
    this.savedAt = index;
    this.tell(undefined);
  }

  /** Has what was not saved before a reload once more. @returns how many changes were made again */
  restore(): number {
    const text = this.kept?.read();
    if (text === undefined) return 0;
    let from = 0;
    try {
      const { changes, index, saved } = JSON.parse(text) as Stored;
      this.changes = changes.map(revived);
      // The page shows what files have.
      this.at = this.savedAt = from = Math.min(saved, changes.length);
      this.goTo(Math.min(index, changes.length));
      return Math.abs(index - saved);
    } catch {
      // The page is another one now: what was made of it goes back, and the rest is let go of.
      this.goTo(from);
      this.changes = [];
      this.at = this.savedAt = 0;
      this.kept?.write(undefined);
      return 0;
    }
  }

  /** Stores a change that has got more steps since it was made. */
  restate(): void {
    this.tell(this.changes[this.at - 1]);
  }

  onChange(listener: (change: Change | undefined) => void): () => void {
    this.listeners.add(listener);
    return () => void this.listeners.delete(listener);
  }

  private tell(change: Change | undefined): void {
    this.store();
    for (const listener of this.listeners) listener(change);
  }

  /** What has no words, and all before it, is not kept. */
  private store(): void {
    if (!this.kept) return;
    const stored = this.changes.map(storedChange);
    const from = stored.lastIndexOf(undefined) + 1;
    const text: Stored = {
      changes: stored.slice(from) as Change[],
      index: this.at - from,
      saved: this.savedAt - from,
    };
    this.kept.write(
      text.index < 0 || text.saved < 0 || stored.length === from ? undefined : JSON.stringify(text),
    );
  }
}

/** Milliseconds within which keys that are pressed again go on with a change. */
const MERGED = 1200;

/** Writes what a change ends with into the one before it, where both are about the same members. */
function goesOn(before: Change, { edits }: Change): boolean {
  const pairs = before.edits.map((edit, i) => [edit, edits[i]] as const);
  const isSame =
    before.edits.length === edits.length &&
    pairs.every(([a, b]) => a.type === 'set' && b?.type === 'set' && a.path.join() === b.path.join());
  if (!isSame) return false;
  for (const [a, b] of pairs) if (a.type === 'set' && b?.type === 'set') a.after = b.after;
  return true;
}

/** The change that takes one back. */
function reversed({ edits, name }: Change): Change {
  return {
    name: `not ${name}`,
    edits: [...edits].reverse().map((edit): Change['edits'][number] => {
      switch (edit.type) {
        case 'set':
          return { ...edit, before: edit.after, after: edit.before };
        case 'add':
          return { type: 'remove', of: edit.of, parent: edit.parent, index: Infinity, spec: edit.spec };
        case 'remove':
          return edit.spec ? { type: 'add', of: edit.of, parent: edit.parent, spec: edit.spec } : edit;
        case 'move':
          return { ...edit, from: edit.to, to: edit.from };
      }
    }),
  };
}

/** Text has no undefined. */
function revived(change: Change): Change {
  for (const edit of change.edits)
    if (edit.type === 'set') {
      edit.before ??= undefined;
      edit.after ??= undefined;
    } else if (edit.type === 'remove') {
      edit.spec ??= undefined;
    }
  return change;
}
