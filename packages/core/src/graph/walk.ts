import { type Graph, type GraphInput, type GraphValue, isCall } from './document.js';

export type Path = readonly (string | number)[];

/** Every input that lies in another one, and that one, with the way down to each. */
export function* inputsWithin(input: unknown, path: Path): Generator<{ input: GraphInput; path: Path }> {
  const open: { input: unknown; path: Path }[] = [{ input, path }];
  for (let next = open.pop(); next; next = open.pop()) {
    yield next as { input: GraphInput; path: Path };
    const held = next.input;
    if (isCall(held) && Array.isArray(held.in))
      for (const [i, one] of [...held.in.entries()].reverse())
        open.push({ input: one, path: [...next.path, 'in', i] });
  }
}

/** The inputs of a node. */
export function* inputsOfNode(node: GraphValue, path: Path): Generator<{ input: GraphInput; path: Path }> {
  for (const [i, input] of (node.in ?? []).entries()) yield* inputsWithin(input, [...path, 'in', i]);
  if (node.value !== undefined) yield* inputsWithin(node.value, [...path, 'value']);
}

/** The inputs of all nodes and hooks of a graph, with those within them. @param node whose it is; undefined: a hook's */
export function* inputsOfGraph({
  hooks,
  nodes = {},
}: Pick<Graph, 'hooks' | 'nodes'>): Generator<{ node?: string; input: GraphInput; path: Path }> {
  for (const [name, node] of Object.entries(nodes))
    for (const one of inputsOfNode(node, ['nodes', name])) yield { node: name, ...one };
  for (const [name, hook] of Object.entries(hooks))
    for (const { input, path } of outputsOf(hook, name)) yield* inputsWithin(input, path);
}

/** An input with what it names exchanged, however deep that lies. */
export function exchangedInput(input: GraphInput, other: (reference: string) => GraphInput): GraphInput {
  if (typeof input === 'string') return other(input);
  if (!isCall(input)) return input;
  const { call, in: inputs } = input;
  return { call, ...(inputs ? { in: inputs.map((one) => exchangedInput(one, other)) } : {}) };
}

/** The same of a node. */
export const exchangedNode = (node: GraphValue, other: (reference: string) => GraphInput): GraphValue => ({
  ...node,
  ...(node.in ? { in: node.in.map((one) => exchangedInput(one, other)) } : {}),
  ...(node.value === undefined ? {} : { value: exchangedInput(node.value, other) }),
});

/** The node that an input names, by itself or by a part of it; the longest name where names have points. Undefined where it names none. */
export function nodeNamed(input: unknown, nodes: Readonly<Record<string, unknown>>): string | undefined {
  if (typeof input !== 'string' || !input.startsWith('@')) return undefined;
  for (let end = input.length; end > 0; end = input.lastIndexOf('.', end - 1)) {
    const name = input.slice(1, end);
    if (Object.hasOwn(nodes, name)) return name;
  }
  return undefined;
}

/** Nodes that an input names, and those within it: where links come from. Each once. */
export const nodesNamedIn = (input: unknown, nodes: Readonly<Record<string, unknown>>): string[] => [
  ...new Set([...inputsWithin(input, [])].flatMap((one) => nodeNamed(one.input, nodes) ?? [])),
];

/** Whether a hook gives members of a structure, and no value, and no code. */
export const hasMembers = (hook: unknown): hook is Record<string, GraphInput> =>
  typeof hook === 'object' && hook !== null && !Array.isArray(hook) && !isCall(hook) && !('code' in hook);

/** The inputs of a hook's members, or of the hook itself, by the member. */
export function outputsOf(hook: unknown, name: string): { member?: string; input: GraphInput; path: Path }[] {
  if (typeof hook === 'object' && hook !== null && 'code' in hook) return [];
  if (hasMembers(hook)) {
    return Object.entries(hook).map(([member, input]) => ({
      member,
      input,
      path: ['hooks', name, member],
    }));
  }
  return [{ input: hook as GraphInput, path: ['hooks', name] }];
}

/** The WGSL of a hook that is written as code. */
export const codeOf = (hook: unknown): string | undefined =>
  typeof hook === 'object' && hook !== null && 'code' in hook && typeof hook.code === 'string'
    ? hook.code
    : undefined;

/** Names of everything that a graph calls, and words of the WGSL in it. */
export function calledBy(graph: Graph): Set<string> {
  const called = new Set<string>();
  const look = (inputs: Iterable<{ input: GraphInput }>): void => {
    for (const { input } of inputs) if (isCall(input)) called.add(input.call);
  };
  const lookAtNodes = (nodes: Readonly<Record<string, GraphValue>> | undefined): void => {
    for (const node of Object.values(nodes ?? {})) {
      if (node.call !== undefined) called.add(node.call);
      look(inputsOfNode(node, []));
    }
  };
  const texts: string[] = [...(graph.declarations ?? [])];
  lookAtNodes(graph.nodes);
  for (const { code, gives, nodes } of Object.values(graph.functions ?? {})) {
    lookAtNodes(nodes);
    look(inputsWithin(gives, []));
    if (code !== undefined) texts.push(code);
  }
  for (const [name, hook] of Object.entries(graph.hooks)) {
    const code = codeOf(hook);
    if (code !== undefined) texts.push(code);
    else for (const { input } of outputsOf(hook, name)) look(inputsWithin(input, []));
  }
  for (const text of texts)
    for (const [word] of text.matchAll(/[\p{XID_Start}_][\p{XID_Continue}]*/gu)) called.add(word);
  return called;
}
