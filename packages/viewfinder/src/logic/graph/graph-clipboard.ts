import {
  exchangedNode,
  type Graph,
  type GraphChange,
  graphOf,
  nodeNamed,
  writeGraph,
} from '@umber-lens/core/graphs';
import { freeName } from '../free-name.js';
import { called, type GraphCommand } from './graph-commands.js';
import type { CardPlace } from './graph-layout.js';

/** Parts of a graph that nodes name beside each other, by the name. */
const SHARED = ['settings', 'instanceSettings', 'attributes', 'textures', 'functions'] as const;

/** Nodes as a graph of their own, in text: with the settings, textures and functions that they name. */
export function copyNodes(graph: Graph, names: readonly string[]): string {
  const pick = (from: Readonly<Record<string, unknown>> | undefined): Record<string, unknown> =>
    Object.fromEntries(Object.entries(from ?? {}).filter(([name]) => names.includes(name)));
  let text = JSON.stringify(names.map((name) => graph.nodes?.[name]));
  const parts = new Map<string, object>();
  // Functions call functions, and read textures: all go with the first.
  if (Object.keys(graph.functions ?? {}).some((name) => isNamed(text, 'functions', name))) {
    parts.set('functions', graph.functions!); // it has some
    text += JSON.stringify(graph.functions);
  }
  for (const part of SHARED) {
    const held = Object.entries(graph[part] ?? {}).filter(([name]) => isNamed(text, part, name));
    if (held.length > 0 && !parts.has(part)) parts.set(part, Object.fromEntries(held));
  }
  return writeGraph({
    graph: 1,
    ...(graph.uses ? { uses: graph.uses } : {}),
    ...Object.fromEntries(parts),
    nodes: pick(graph.nodes) as Graph['nodes'] & object,
    hooks: {},
    layout: pick(graph.layout) as Graph['layout'] & object,
  });
}

const isNamed = (text: string, part: (typeof SHARED)[number], name: string): boolean =>
  part === 'textures' || part === 'functions'
    ? text.includes(JSON.stringify(name))
    : text.includes(
        `@${{ settings: 'settings', instanceSettings: 'instance', attributes: 'attributes' }[part]}.${name}`,
      );

/**
 * Puts what was copied into a graph: nodes of a graph, or WGSL, a module of hooks, `let`s, or an expression alone.
 *
 * @param at where it stands in the graph
 * @param types what its nodes give: lines of WGSL may name them
 * @throws Error with why it is neither
 */
export function pasteNodes(
  graph: Graph,
  text: string,
  at: CardPlace,
  types: ReadonlyMap<string, string> = new Map(),
): GraphCommand {
  const from = pastedGraph(text, graph, types);
  const given = from.nodes ?? {};
  if (Object.keys(given).length === 0) throw new Error('there is no node in what was copied');
  const taken = new Set(Object.keys(graph.nodes ?? {}));
  const names = new Map<string, string>();
  for (const name of Object.keys(given)) {
    const free = freeName(name, (one) => taken.has(one));
    taken.add(free);
    names.set(name, free);
  }
  const renamed = (input: string): string => {
    const named = nodeNamed(input, given);
    return named === undefined ? input : `@${names.get(named)!}${input.slice(named.length + 1)}`; // all have one
  };
  const changes: GraphChange[] = [];
  const uses = [...new Set([...(graph.uses ?? []), ...(from.uses ?? [])])];
  if (uses.length > (graph.uses?.length ?? 0)) changes.push({ type: 'set', at: ['uses'], value: uses });
  for (const part of SHARED)
    for (const [name, value] of Object.entries(from[part] ?? {}))
      // What is called so already counts.
      if (!(name in (graph[part] ?? {}))) changes.push({ type: 'set', at: [part, name], value });
  for (const [name, node] of Object.entries(given))
    changes.push({ type: 'set', at: ['nodes', names.get(name)!], value: exchangedNode(node, renamed) }); // all have one
  const places = Object.entries(from.layout ?? {}).filter(([name]) => names.has(name));
  const left = Math.min(...places.map(([, [x]]) => x));
  const top = Math.min(...places.map(([, [, y]]) => y));
  for (const [name, [x, y]] of places)
    changes.push({
      type: 'set',
      at: ['layout', names.get(name)!], // as above
      value: [Math.round(at.x + x - left), Math.round(at.y + y - top)],
    });
  const choose = [...names.values()];
  return { name: `paste ${called(choose)}`, changes, choose };
}

const HOOK = /\bfn\s+(displace|surface|march|light|outputColor|effect)\b/;

function pastedGraph(text: string, into: Graph, types: ReadonlyMap<string, string>): Graph {
  const plain = text.trim();
  if (plain === '') throw new Error('nothing was copied');
  if (plain.startsWith('{')) {
    let graph: Partial<Graph>;
    try {
      graph = JSON.parse(plain) as Partial<Graph>;
    } catch (error) {
      throw new Error(`what was copied is no graph: ${(error as Error).message}`, { cause: error });
    }
    if (graph.graph !== 1) throw new Error('what was copied is no graph: it has no "graph": 1');
    return { hooks: {}, ...graph } as Graph;
  }
  try {
    if (HOOK.test(plain)) return graphOf(plain, { file: 'what was copied' });
    const { known, wgsl } = asHook(plain, into, types);
    const { nodes = {}, settings: _, ...graph } = graphOf(wgsl, { file: 'what was copied' });
    return {
      ...graph,
      nodes: Object.fromEntries(Object.entries(nodes).filter(([name]) => !known.has(name))),
    };
  } catch (error) {
    const { message, summary = message } = error as Error & { summary?: string };
    throw new Error(`what was copied is neither nodes nor WGSL: ${summary}`, { cause: error });
  }
}

/** Types of settings in WGSL. */
const SETTING_TYPES: Readonly<Record<string, string>> = { color: 'vec3f', colorWithAlpha: 'vec4f' };

/** Lines, or an expression alone, as a hook in which they can be read. What the graph has already is there under its name. */
function asHook(
  code: string,
  { settings = {} }: Graph,
  types: ReadonlyMap<string, string>,
): { wgsl: string; known: ReadonlySet<string> } {
  const words = new Set(code.match(/[\p{XID_Start}_][\p{XID_Continue}]*/gu));
  const lines = /^\s*(let|var|const)\b/.test(code) ? code : `let pasted = ${code.replace(/;\s*$/, '')};`;
  const own = new Set([...lines.matchAll(/\b(?:let|var|const)\s+(\w+)/g)].map(([, name]) => name));
  const known = [...types].filter(([name]) => words.has(name) && !own.has(name));
  const members = Object.entries(settings).map(
    ([name, { type }]) => `  ${name}: ${SETTING_TYPES[type] ?? type},`,
  );
  const hasSettings = words.has('settings') && members.length > 0;
  return {
    known: new Set(known.map(([name]) => name)),
    wgsl: [
      ...(hasSettings ? ['struct Settings {', ...members, '}'] : []),
      `fn outputColor(litColor: vec4f, s: Surface, p: Fragment${hasSettings ? ', settings: Settings' : ''}) -> vec4f {`,
      ...known.map(([name, type]) => `  let ${name} = ${type}();`),
      lines,
      '  return litColor;',
      '}\n',
    ].join('\n'),
  };
}
