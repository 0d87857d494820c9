/** Where in a source something was made: noted while developing, by the plugin of Vite. */
export interface SourceCall {
  /** From the project's folder. */
  file: string;
  /** Of the call's own name, both from 1. */
  line: number;
  column: number;
  /** Which call it is. */
  call: 'createNode' | 'setLight' | 'Scene';
}

const calls = new WeakMap<object, SourceCall[]>();
/** How many things a place has made since the page was loaded. */
const counts = new Map<string, number>();

const keyOf = ({ column, file, line }: SourceCall): string => `${file}:${line}:${column}`;

/** Notes which call made a thing, or wrote to it. Production builds have no calls of it. */
export function noteSource<T>(
  thing: T,
  file: string,
  line: number,
  column: number,
  call: SourceCall['call'],
): T {
  if (typeof thing !== 'object' || thing === null) return thing;
  const source: SourceCall = { file, line, column, call };
  counts.set(keyOf(source), (counts.get(keyOf(source)) ?? 0) + 1);
  // The last of a kind counts.
  calls.set(thing, [...(calls.get(thing) ?? []).filter((one) => one.call !== call), source]);
  return thing;
}

/**
 * Where in the sources a node, or a scene, was made and where its light was set; empty where nobody noted it (in production, and
 * without the plugin).
 */
export const sourcesOf = (thing: object): (SourceCall & { made: number })[] =>
  (calls.get(thing) ?? []).map((source) => ({ ...source, made: counts.get(keyOf(source)) ?? 1 }));
