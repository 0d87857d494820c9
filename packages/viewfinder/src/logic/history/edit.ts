import { type Material, SceneNode, type SheetNode } from '@umber-lens/core/engine';
import type { NodeAddress } from './node-address.js';

/** A node that is known by its handle, and found again by its address where there is none, or a dead one. */
export interface NodeRef {
  node?: SceneNode;
  address: NodeAddress;
}

/** What has members that are edited. */
export type Thing =
  | { kind: 'node'; of: NodeRef }
  /** Of a primitive of a node: its material, or one that lies over it, which other nodes may share. */
  | { kind: 'material'; of: NodeRef; primitive: number; overlay?: number; material?: Material }
  /** What is around the nodes. */
  | { kind: 'scene' }
  | { kind: 'look' }
  | { kind: 'view' }
  /** A value that the page offers. */
  | { kind: 'offer' };

/** Names on the way down: `['light', 'intensity']`. */
export type MemberPath = readonly string[];

/** A step of a change: what it was, and what it is. */
export type Edit =
  | { type: 'set'; thing: Thing; path: MemberPath; before: unknown; after: unknown }
  /** A node that came: by its words, so that it comes again. */
  | {
      type: 'add';
      parent: NodeRef;
      of: NodeRef;
      spec: NodeSpec;
      /** Whether its words do not say all of it: it lasts as long as the page. */
      isHeld?: boolean;
    }
  /** A node that went. Its handle stays alive, hidden, as long as the page has the editor. */
  | {
      type: 'remove';
      of: NodeRef;
      parent: NodeRef;
      /** Which of its siblings it was. */
      index: number;
      spec: NodeSpec | undefined;
    }
  | { type: 'move'; of: NodeRef; from: Hanging; to: Hanging };

/** Where a node hangs, and how it stands there. */
export interface Hanging {
  parent: NodeRef;
  /** Which of its siblings it is. */
  index: number;
  /** Its address there. */
  address: NodeAddress;
  translation: readonly number[];
  rotation: readonly number[];
  scale: readonly number[];
}

/** A node in words, as sheets have them, with materials where they are used. */
export type NodeSpec = SheetNode;

/** A change with a name, of one or more steps. */
export interface Change {
  name: string;
  edits: Edit[];
}

/** A change as text has it: handles left out. Undefined where something in it has no words. */
export function storedChange(change: Change): unknown {
  const wordless = change.edits.some(
    (edit) =>
      (edit.type === 'set' && !(isPlain(edit.before) && isPlain(edit.after))) ||
      (edit.type === 'add' && (edit.isHeld === true || !isPlain(edit.spec))),
  );
  if (wordless) return undefined;
  return JSON.parse(
    JSON.stringify(change, function (this: { kind?: string }, key, value: unknown) {
      if (value instanceof SceneNode || (key === 'material' && this.kind === 'material')) return undefined;
      return value === undefined ? null : value;
    }),
  );
}

/** Whether a value is the same after a trip through text. */
export function isPlain(value: unknown, depth = 0): boolean {
  if (value === undefined || value === null || typeof value === 'boolean' || typeof value === 'string')
    return true;
  if (typeof value === 'number') return Number.isFinite(value);
  if (typeof value !== 'object' || depth > 12) return false;
  if (Array.isArray(value)) return value.every((one) => isPlain(one, depth + 1));
  if (Object.getPrototypeOf(value) !== Object.prototype) return false;
  return Object.values(value).every((one) => isPlain(one, depth + 1));
}
