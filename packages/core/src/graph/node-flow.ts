import type { GraphValue } from './document.js';
import { type Draft, INDENT } from './draft.js';
import type { GraphSpot } from './faults.js';
import { identifiersFor, isIdentifier, TAKEN } from './names.js';
import { inFlow } from './order.js';
import type { Scope, Worked } from './scope.js';
import { inputsOfNode, nodeNamed } from './walk.js';

export function identsOf(
  draft: Draft,
  nodes: Readonly<Record<string, GraphValue>>,
  args: readonly string[],
): Map<string, string> {
  const { functions = {}, textures = {} } = draft.graph;
  const names = Object.keys(textures);
  const called = [...draft.called].filter((name) => isIdentifier(name));
  // What is called in the function would be hidden by a value of its name.
  return identifiersFor(Object.keys(nodes), [
    ...TAKEN,
    'out',
    ...args,
    ...called,
    ...Object.keys(functions),
    ...names,
    ...names.map((name) => `${name}Sampler`),
  ]);
}

/** Works all nodes out, those first that others name. @returns their order */
export function workAll(
  draft: Draft,
  scope: Scope,
  nodes: Readonly<Record<string, GraphValue>>,
  of?: string,
): string[] {
  const above = of === undefined ? [] : ['functions', of];
  const names = Object.keys(nodes);
  const referredBy = (name: string): string[] =>
    [...inputsOfNode(nodes[name]!, [])].flatMap(({ input }) => nodeNamed(input, nodes) ?? []); // one of them
  const { cycle, order } = inFlow(names, referredBy);
  if (cycle)
    draft.fault(
      'error',
      'graph/cycle',
      [...above, 'nodes', cycle[0]!],
      cycle.length === 1
        ? `"${cycle[0]}" names itself`
        : `nodes name each other in a ring: ${[...cycle, cycle[0]].join(', ')}`,
      'Take one of the links away.',
      { node: cycle[0]!, ...(of === undefined ? {} : { function: of }) },
    );
  for (const name of order) scope.work(name, [...above, 'nodes', name]);
  return order;
}

export function reachedFrom(from: Iterable<string>, worked: ReadonlyMap<string, Worked>): Set<string> {
  const found = new Set<string>();
  const open = [...from];
  for (let name = open.pop(); name !== undefined; name = open.pop()) {
    if (found.has(name)) continue;
    found.add(name);
    open.push(...(worked.get(name)?.uses ?? []));
  }
  return found;
}

export function tellUnused(
  draft: Draft,
  nodes: Readonly<Record<string, GraphValue>>,
  used: ReadonlySet<string>,
  of?: string,
): void {
  for (const name of Object.keys(nodes))
    if (!used.has(name))
      draft.fault(
        'warning',
        'graph/unused',
        [...(of === undefined ? [] : ['functions', of]), 'nodes', name],
        `nothing names "${name}"`,
        'Name it in an output, or take it away.',
        {
          isKey: true,
          node: name,
          ...(of === undefined ? {} : { function: of }),
        },
      );
}

export function writeNode(
  draft: Draft,
  name: string,
  { note }: GraphValue,
  { expression, ident }: Worked,
  of?: string,
): void {
  const spot: GraphSpot = { node: name, ...(of === undefined ? {} : { function: of }) };
  if (note) for (const one of note.split('\n')) draft.line(`${INDENT}// ${one}`.trimEnd(), spot);
  draft.line(`${INDENT}let ${ident} = ${expression.text};`, spot);
}
