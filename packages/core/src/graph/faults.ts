import type { Path } from './walk.js';

/** Something about a graph: an error, or what is right and seldom meant. */
export interface GraphFault {
  severity: 'error' | 'warning';
  code: string;
  summary: string;
  hint: string;
  /** Names and numbers on the way down to it. */
  path: Path;
  /** Whether the last of them is meant, and not what stands there. */
  isKey?: boolean;
  /** The node that it is about, and the function that has it. */
  node?: string;
  function?: string;
}

/** Where a node, or an output of a hook, stands. */
export interface GraphSpot {
  node?: string;
  function?: string;
  hook?: string;
  member?: string;
}

/** The way down to a spot. */
export function pathOfSpot({ function: of, hook, member, node }: GraphSpot): (string | number)[] {
  const above = of === undefined ? [] : ['functions', of];
  if (node !== undefined) return [...above, 'nodes', node];
  if (hook !== undefined) return ['hooks', hook, ...(member === undefined ? [] : [member])];
  return of === undefined ? [] : [...above, 'gives'];
}
