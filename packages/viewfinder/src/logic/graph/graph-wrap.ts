import {
  type CompileGraphOptions,
  exchangedNode,
  type Graph,
  type GraphChange,
  identifiersFor,
  inputsOfGraph,
  nodeNamed,
} from '@umber-lens/core/graphs';
import { freeName } from '../free-name.js';
import { typesOnBoard } from './board-graph.js';
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
  /** What comes from outside, by what it is called there. */
  const params = new Map<string, string>();
  const paramFor = (reference: string): string => {
    const last = reference.split('.').at(-1)!; // split gives one part at least
    const own = params.get(reference) ?? identifiersFor([last], [...names, ...params.values()]).get(last)!; // as above
    params.set(reference, own);
    return own;
  };
  const inner = (input: string): string => {
    if (!input.startsWith('@') || input.startsWith('@frame.')) return input;
    const named = nodeNamed(input, nodes);
    if (named === undefined) return `@${paramFor(input.slice(1))}`;
    // Of a part of a node the node is handed over.
    return inside.has(named) ? input : `@${paramFor(named)}${input.slice(named.length + 1)}`;
  };
  const held = Object.fromEntries(names.map((one) => [one, exchangedNode(nodes[one]!, inner)] as const)); // of the graph
  const types = typesOnBoard(
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
  const free = freeName(name, (one) => one in (graph.functions ?? {}), '');
  const layout = Object.fromEntries(Object.entries(graph.layout ?? {}).filter(([one]) => inside.has(one)));
  const others = names.filter((one) => one !== result);
  const changes: GraphChange[] = [
    {
      type: 'set',
      at: ['functions', free],
      value: {
        takes,
        nodes: held,
        gives: `@${result}`,
        ...(Object.keys(layout).length > 0 ? { layout } : {}),
      },
    },
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
  const found = new Set<string>();
  for (const { input, node } of inputsOfGraph(graph)) {
    const named = node !== undefined && inside.has(node) ? undefined : nodeNamed(input, graph.nodes ?? {});
    if (named !== undefined && inside.has(named)) found.add(named);
  }
  return found;
}
