import {
  type CompileGraphOptions,
  type Graph,
  type GraphChange,
  type GraphInput,
  type GraphValue,
  nodesNamedIn,
  typesOf,
} from '@umber-lens/core/graphs';
import { called, type GraphCommand } from './graph-commands.js';

/**
 * Makes nodes a function of the graph, called where they stood. What they take from outside are its parameters; what is taken of
 * them outside it gives: that is one node.
 *
 * @param name of the function; another where it is taken
 * @throws Error where several of them are taken outside, or none
 */
export function wrapNodes(
  graph: Graph,
  names: readonly string[],
  name: string,
  options: CompileGraphOptions = {},
): GraphCommand {
  const nodes = graph.nodes ?? {};
  const inside = new Set(names);
  const outer = outsideUses(graph, inside);
  if (outer.size === 0)
    throw new Error('nothing outside takes what these nodes give: a function gives a value');
  if (outer.size > 1)
    throw new Error(
      `a function gives one value, and ${[...outer].map((one) => `"${one}"`).join(', ')} are taken outside`,
    );
  const [result] = [...outer] as [string];
  const params = new Map<string, string>();
  const taken = new Set(names);
  const paramFor = (reference: string): string => {
    const known = params.get(reference);
    if (known !== undefined) return known;
    const stem = stemOf(reference);
    let free = stem;
    for (let i = 2; taken.has(free); i++) free = `${stem}${i}`;
    taken.add(free);
    params.set(reference, free);
    return free;
  };
  const inner = (input: GraphInput): GraphInput => {
    if (typeof input === 'string') {
      if (!input.startsWith('@') || input.startsWith('@frame.')) return input;
      const [named] = nodesNamedIn(input, nodes);
      if (named !== undefined && inside.has(named)) return input;
      if (named === undefined) return `@${paramFor(input.slice(1))}`;
      // A part of a node: the node is handed over.
      return `@${paramFor(named)}${input.slice(named.length + 1)}`;
    }
    if (typeof input !== 'object' || input === null || Array.isArray(input)) return input;
    const { call, in: inputs } = input as { call: string; in?: readonly GraphInput[] };
    return { call, ...(inputs ? { in: inputs.map(inner) } : {}) };
  };
  const held = Object.fromEntries(
    names.map((one): [string, GraphValue] => {
      const { in: given, value, ...rest } = nodes[one]!; // of the graph
      return [
        one,
        {
          ...rest,
          ...(given ? { in: given.map(inner) } : {}),
          ...(value === undefined ? {} : { value: inner(value) }),
        },
      ];
    }),
  );
  const types = typesOf(
    graph,
    [...params.keys()].map((reference) => `@${reference}`),
    options,
  );
  const takes: Record<string, string> = {};
  for (const [reference, param] of params) {
    const type = types.get(`@${reference}`);
    if (type === undefined) throw new Error(`it is not known what "@${reference}" is`);
    takes[param] = type;
  }
  const functions = graph.functions ?? {};
  let free = name;
  for (let i = 2; free in functions; i++) free = `${name}${i}`;
  const others = names.filter((one) => one !== result);
  const changes: GraphChange[] = [
    { type: 'set', at: ['functions', free], value: { takes, nodes: held, gives: `@${result}` } },
    {
      type: 'set',
      at: ['nodes', result],
      value: { call: free, in: [...params.keys()].map((reference) => `@${reference}`) },
    },
    ...others.map((node): GraphChange => ({ type: 'remove', node })),
  ];
  return { name: `wrap ${called(names)} into ${free}`, changes, choose: [result] };
}

/** Of some nodes those that something else names. */
function outsideUses(graph: Graph, inside: ReadonlySet<string>): Set<string> {
  const nodes = graph.nodes ?? {};
  const found = new Set<string>();
  const look = (input: unknown): void => {
    if (typeof input === 'string') {
      for (const name of nodesNamedIn(input, nodes)) if (inside.has(name)) found.add(name);
    } else if (typeof input === 'object' && input !== null) for (const one of Object.values(input)) look(one);
  };
  for (const [name, node] of Object.entries(nodes))
    if (!inside.has(name)) {
      look(node.in);
      look(node.value);
    }
  look(graph.hooks);
  return found;
}

/** `p.normal` as `normal`, `settings.edge` as `edge`, "rim light" as `rimLight`. */
function stemOf(reference: string): string {
  const words = (reference.split('.').at(-1) ?? '').split(/[^\p{XID_Continue}]+/u).filter(Boolean);
  const joined = words.map((word, i) => (i === 0 ? word : word[0]!.toUpperCase() + word.slice(1))).join(''); // not empty
  return /^[\p{XID_Start}]/u.test(joined) ? joined : `value${joined}`;
}
