import {
  type CompiledGraph,
  type CompileGraphOptions,
  type Graph,
  type GraphChange,
  type GraphInput,
  graphOf,
  nodesNamedIn,
} from '@umber-lens/core/graphs';

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
  const named = (input: unknown): unknown => {
    if (typeof input === 'string' && input.startsWith('@')) {
      const [ident] = nodesNamedIn(input, all);
      return ident === undefined ? input : `@${names.get(ident) ?? ident}${input.slice(ident.length + 1)}`;
    }
    if (Array.isArray(input)) return input.map(named);
    if (typeof input !== 'object' || input === null) return input;
    return Object.fromEntries(
      Object.entries(input).map(([key, one]) => [
        key,
        ['call', 'code', 'note'].includes(key) ? one : named(one),
      ]),
    );
  };
  for (const [ident, node] of Object.entries(fresh)) {
    if (isSame(node, old[ident])) continue;
    const name = names.get(ident) ?? ident;
    const known = graph.nodes?.[name];
    if (!known) {
      changes.push({ type: 'set', at: ['nodes', name], value: named(node) });
      continue;
    }
    // Member by member, so that comments stay.
    const { call, in: inputs, value } = node;
    for (const [key, one] of Object.entries({ call, in: inputs, value }))
      if (!isSame(named(one), known[key as 'call']))
        changes.push({
          type: 'set',
          at: ['nodes', name, key],
          ...(one === undefined ? {} : { value: named(one) }),
        });
  }
  changes.push(
    ...membersOf('settings', before, after, graph),
    ...membersOf('functions', before, after, graph),
  );
  for (const hook of new Set([...Object.keys(before.hooks), ...Object.keys(after.hooks)])) {
    const [was, is] = [before, after].map(({ hooks }) => hooks[hook as 'surface']) as [unknown, unknown];
    if (isSame(was, is)) continue;
    if (!isMembers(was) || !isMembers(is)) {
      changes.push({ type: 'set', at: ['hooks', hook], ...(is === undefined ? {} : { value: named(is) }) });
      continue;
    }
    for (const member of new Set([...Object.keys(was), ...Object.keys(is)]))
      if (!isSame(was[member], is[member]))
        changes.push({
          type: 'set',
          at: ['hooks', hook, member],
          ...(is[member] === undefined ? {} : { value: named(is[member]) }),
        });
  }
  // What names them goes first.
  for (const ident of Object.keys(old))
    if (!(ident in fresh)) changes.push({ type: 'remove', node: names.get(ident) ?? ident });
  return changes;
}

function* membersOf(
  part: 'settings' | 'functions',
  before: Graph,
  after: Graph,
  graph: Graph,
): Generator<GraphChange> {
  const [was, is] = [before[part] ?? {}, after[part] ?? {}] as Record<string, unknown>[];
  for (const name of new Set([...Object.keys(was!), ...Object.keys(is!)])) {
    // Two graphs.
    if (isSame(was![name], is![name])) continue;
    if (is![name] === undefined && !(name in (graph[part] ?? {}))) continue;
    yield { type: 'set', at: [part, name], ...(is![name] === undefined ? {} : { value: is![name] }) };
  }
}

const isMembers = (hook: unknown): hook is Record<string, GraphInput> =>
  typeof hook === 'object' && hook !== null && !Array.isArray(hook) && !('call' in hook) && !('code' in hook);

const isSame = (a: unknown, b: unknown): boolean => JSON.stringify(a) === JSON.stringify(b);
