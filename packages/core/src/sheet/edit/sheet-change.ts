import type { SheetNode } from '../sheet.js';
import type { Path } from './value-editor.js';

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
