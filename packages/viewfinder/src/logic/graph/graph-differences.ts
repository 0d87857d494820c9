import type { Graph, GraphChange } from '@umber-lens/core/graphs';

type Members = Readonly<Record<string, unknown>>;

const isMap = (value: unknown): value is Members =>
  typeof value === 'object' && value !== null && !Array.isArray(value);

/** Whether two values of a graph are written alike. */
export const isSame = (a: unknown, b: unknown): boolean => JSON.stringify(a) === JSON.stringify(b);

/** What makes members others, each by itself. @param at the way down to what has them */
export function memberDifferences(
  at: readonly (string | number)[],
  from: Members,
  to: Members,
  written: (value: unknown) => unknown = (value) => value,
): GraphChange[] {
  return [...new Set([...Object.keys(from), ...Object.keys(to)])]
    .filter((name) => !isSame(from[name], to[name]))
    .map((name) => ({
      type: 'set',
      at: [...at, name],
      ...(to[name] === undefined ? {} : { value: written(to[name]) }),
    }));
}

/** What makes one graph of another: members of its members. */
export function graphDifferences(from: Graph, to: Graph): GraphChange[] {
  const [a, b] = [from, to] as unknown as [Members, Members];
  return [...new Set([...Object.keys(a), ...Object.keys(b)])].flatMap((key) => {
    const [before, after] = [a[key], b[key]];
    if (isMap(before) && isMap(after)) return memberDifferences([key], before, after);
    return memberDifferences([], { [key]: before }, { [key]: after });
  });
}
