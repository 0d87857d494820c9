import {
  type CompiledGraph,
  type CompileGraphOptions,
  exchangedInput,
  exchangedNode,
  type Graph,
  type GraphChange,
  type GraphInput,
  graphOf,
  hasMembers,
  nodeNamed,
} from '@umber-lens/core/graphs';
import { isSame, memberDifferences } from './graph-differences.js';

/**
 * What WGSL that was typed in place of a graph's own changes in the graph. Only what was typed otherwise is changed: nodes that read the same
 * stay as they are, with their notes and places.
 *
 * @param compiled what was there before
 * @throws LensError what is wrong with the WGSL, with its line
 */
export function changesOfWgsl(
  graph: Graph,
  compiled: CompiledGraph,
  wgsl: string,
  options: CompileGraphOptions,
): GraphChange[] {
  const before = graphOf(compiled.wgsl, options);
  const after = graphOf(wgsl, options);
  const names = new Map<string, string>();
  for (const [name, ident] of compiled.names) if (!name.includes('/')) names.set(ident, name);
  const changes: GraphChange[] = [];
  const [old, fresh] = [before.nodes ?? {}, after.nodes ?? {}];
  const all = { ...old, ...fresh };
  /** As the graph calls nodes. */
  const named = (input: string): string => {
    const ident = nodeNamed(input, all);
    return ident === undefined ? input : `@${names.get(ident) ?? ident}${input.slice(ident.length + 1)}`;
  };
  const written = (input: unknown): GraphInput => exchangedInput(input as GraphInput, named);
  for (const [ident, node] of Object.entries(fresh)) {
    if (isSame(node, old[ident])) continue;
    const name = names.get(ident) ?? ident;
    const { note: _note, ...given } = exchangedNode(node, named);
    const known = graph.nodes?.[name];
    if (!known) changes.push({ type: 'set', at: ['nodes', name], value: exchangedNode(node, named) });
    // Member by member, so that comments stay.
    else {
      const { call, in: inputs, value } = known;
      changes.push(...memberDifferences(['nodes', name], defined({ call, in: inputs, value }), given));
    }
  }
  for (const part of ['settings', 'functions'] as const)
    changes.push(...memberDifferences([part], before[part] ?? {}, after[part] ?? {}));
  for (const hook of new Set(Object.keys({ ...before.hooks, ...after.hooks }) as (keyof Graph['hooks'])[])) {
    const [was, is] = [before.hooks[hook], after.hooks[hook]];
    if (hasMembers(was) && hasMembers(is))
      changes.push(...memberDifferences(['hooks', hook], was, is, written));
    else
      changes.push(
        ...memberDifferences(['hooks'], defined({ [hook]: was }), defined({ [hook]: is }), (value) =>
          hasMembers(value)
            ? Object.fromEntries(Object.entries(value).map(([member, one]) => [member, written(one)]))
            : written(value),
        ),
      );
  }
  // What names them goes first.
  for (const ident of Object.keys(old))
    if (!(ident in fresh)) changes.push({ type: 'remove', node: names.get(ident) ?? ident });
  return changes;
}

/** Members that are there. */
const defined = (members: Readonly<Record<string, unknown>>): Record<string, unknown> =>
  Object.fromEntries(Object.entries(members).filter(([, value]) => value !== undefined));
