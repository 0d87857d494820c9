import {
  type CompileGraphOptions,
  exchangedInput,
  exchangedNode,
  type Graph,
  type GraphChange,
  type GraphInput,
  type GraphValue,
  inputsOfGraph,
  nodeNamed,
  typesOf,
} from '@umber-lens/core/graphs';
import { inputsWith } from './inputs-with.js';

/** A graph as the board has it: all of it, or the nodes of one of its functions with what that gives as an output. */
export interface BoardGraph extends Graph {
  /** What the function takes: types by name. */
  takes?: Readonly<Record<string, string>>;
}

/** @param opened name of the function whose nodes are shown; undefined: the graph's own */
export function boardGraph(graph: Graph, opened: string | undefined): BoardGraph {
  const held = opened === undefined ? undefined : graph.functions?.[opened];
  if (!held) return graph;
  const { frames: _frames, layout: _layout, nodes: _nodes, notes: _notes, ...rest } = graph;
  const { gives = null, layout, nodes = {}, takes = {} } = held;
  return {
    ...rest,
    takes,
    nodes,
    ...(layout ? { layout } : {}),
    hooks: { gives } as Graph['hooks'],
  };
}

/** Whether a function of a graph has nodes: those in WGSL have none. */
export const isOpenable = ({ functions = {} }: Graph, name: string): boolean =>
  functions[name] !== undefined && functions[name].code === undefined;

export const openable = (graph: Graph): string[] =>
  Object.keys(graph.functions ?? {}).filter((name) => isOpenable(graph, name));

/** The function that a node calls, where it has nodes. */
export function functionCalledBy(graph: Graph, node: string | undefined): string | undefined {
  const call = node === undefined ? undefined : graph.nodes?.[node]?.call;
  return call !== undefined && isOpenable(graph, call) ? call : undefined;
}

type Way = readonly (string | number)[];

/** A way down into what the board shows, in the whole graph. @throws Error for frames: functions have none */
function outwardWay(way: Way, opened: string | undefined): Way {
  if (opened === undefined) return way;
  const [part, ...rest] = way;
  if (part === 'frames') throw new Error('frames are about nodes of the graph itself: functions have none');
  if (part === 'hooks') return ['functions', opened, ...rest];
  return part === 'nodes' || part === 'layout' ? ['functions', opened, ...way] : way;
}

/** Changes of what the board shows as changes of the whole graph. @throws Error for frames: functions have none */
export const outward = (changes: readonly GraphChange[], opened: string | undefined): GraphChange[] =>
  changes.map((change) => {
    if (opened === undefined || change.type === 'renameFunction') return change;
    return change.type === 'set'
      ? { ...change, at: outwardWay(change.at, opened) }
      : { ...change, function: opened };
  });

/** Of names of nodes in a whole graph those of the board, by their names there. */
export function onBoard<T>(all: ReadonlyMap<string, T>, opened: string | undefined): ReadonlyMap<string, T> {
  if (opened === undefined) return all;
  const from = `${opened}/`;
  return new Map(
    [...all].flatMap(([name, one]): [string, T][] =>
      name.startsWith(from) ? [[name.slice(from.length), one]] : [],
    ),
  );
}

/** What references are on the board: see `typesOf`. */
export function typesOnBoard(
  board: BoardGraph,
  references: readonly string[],
  options: CompileGraphOptions,
): ReadonlyMap<string, string> {
  const { takes } = board;
  if (!takes) return typesOf(board, references, options);
  const taken = Object.entries(takes).map(([name, type]) => [name, { call: type }] as const);
  return typesOf(
    { ...board, nodes: { ...Object.fromEntries(taken), ...board.nodes }, hooks: {} },
    references,
    options,
  );
}

/**
 * A graph with a function's nodes among its own, as `function/node`, as the first call has them: so that they have values and pictures
 * of their own. Where nothing calls it, what it takes is 0.
 */
export function withFunctionOpen(graph: Graph, opened: string | undefined): Graph {
  const held = opened === undefined ? undefined : graph.functions?.[opened];
  if (!held) return graph;
  const { nodes = {}, takes = {} } = held;
  const given = callsOf(graph, opened!).find(({ path }) => path[0] !== 'functions')?.in ?? []; // there is one
  const inner = (input: string): GraphInput => {
    const named = nodeNamed(input, { ...takes, ...nodes });
    return named === undefined ? input : `@${opened!}/${input.slice(1)}`;
  };
  const added: Record<string, GraphValue> = {};
  for (const [i, [name, type]] of Object.entries(takes).entries())
    added[`${opened!}/${name}`] = {
      call: type,
      in: given[i] === undefined || given[i] === null ? [] : [given[i]],
    };
  for (const [name, node] of Object.entries(nodes)) added[`${opened!}/${name}`] = exchangedNode(node, inner);
  return { ...graph, nodes: { ...graph.nodes, ...added } };
}

/** What functions may take, and what calls give them at first. */
export const TAKEN_TYPES: Readonly<Record<string, GraphInput>> = {
  f32: 0,
  vec2f: [0, 0],
  vec3f: [0, 0, 0],
  vec4f: [0, 0, 0, 0],
  bool: false,
  i32: 0,
  u32: 0,
};

/**
 * Has a function take one thing more. All that call it give 0 there, until something else is put in.
 *
 * @param graph all of it
 * @param type one of `TAKEN_TYPES`
 * @throws Error where the name is none, or is taken
 */
export function addTaken(graph: Graph, opened: string, name: string, type: string): GraphChange[] {
  const { nodes = {}, takes = {} } = boardGraph(graph, opened);
  needFree(name, { ...takes, ...nodes });
  const place = Object.keys(takes).length;
  const value = TAKEN_TYPES[type]!; // one of them
  return [
    { type: 'set', at: ['functions', opened, 'takes', name], value: type },
    ...callsOf(graph, opened).map(({ in: given = [], path }): GraphChange =>
      // Comments between the others stay.
      given.length === place && place > 0
        ? { type: 'set', at: [...path, 'in', place], value }
        : { type: 'set', at: [...path, 'in'], value: inputsWith(given, place, value) },
    ),
  ];
}

/**
 * Has a function take one thing less: calls give it no more.
 *
 * @param graph all of it
 * @throws Error where something in the function names it
 */
export function removeTaken(graph: Graph, opened: string, name: string): GraphChange[] {
  const board = boardGraph(graph, opened);
  const { layout, nodes = {}, takes = {} } = board;
  for (const { input, node = 'the output' } of inputsOfGraph(board))
    if (nodeNamed(input, { ...takes, ...nodes }) === name)
      throw new Error(`"${name}" goes into ${node}: take that link away first`);
  const place = Object.keys(takes).indexOf(name);
  return [
    { type: 'set', at: ['functions', opened, 'takes', name] },
    ...(layout?.[name] ? outward([{ type: 'set', at: ['layout', name] }], opened) : []),
    // Those that lie deepest, and stand last, first: ways to the others stay as they are.
    ...callsOf(graph, opened)
      .reverse()
      .filter(({ in: given = [] }) => place < given.length)
      .map(({ path }): GraphChange => ({ type: 'set', at: [...path, 'in', place] })),
  ];
}

/** All calls of a function, those within others behind them. */
function callsOf(graph: Graph, name: string): { in?: readonly GraphInput[]; path: Way }[] {
  return [undefined, ...openable(graph)].flatMap((of) => {
    const board = boardGraph(graph, of);
    const found = [
      ...Object.entries(board.nodes ?? {}).map(([node, held]) => ({ held, path: ['nodes', node] })),
      ...[...inputsOfGraph(board)].map(({ input, path }) => ({ held: input, path: [...path] })),
    ];
    return found.flatMap(({ held, path }) => {
      if (typeof held !== 'object' || held === null || Array.isArray(held)) return [];
      const { call, in: given } = held as GraphValue;
      if (call !== name) return [];
      return [{ ...(given ? { in: given } : {}), path: outwardWay(path, of) }];
    });
  });
}

function needFree(name: string, taken: Readonly<Record<string, unknown>>): void {
  if (!/^[\p{XID_Start}_][\p{XID_Continue}]*$/u.test(name))
    throw new Error(`"${name}" is no name: begin with a letter, go on with letters and digits`);
  if (name in taken) throw new Error(`there is a "${name}" already`);
}

/** Calls what a function takes otherwise, with all that name it. @throws Error where it takes such a thing already */
export function renameTaken(board: BoardGraph, opened: string, name: string, other: string): GraphChange[] {
  const { layout, nodes = {}, takes = {} } = board;
  needFree(other, { ...takes, ...nodes });
  const instead = (input: string): GraphInput =>
    nodeNamed(input, { ...takes, ...nodes }) === name ? `@${other}${input.slice(name.length + 1)}` : input;
  const changes: GraphChange[] = [];
  for (const { input, path } of inputsOfGraph(board)) {
    const renamed = typeof input === 'string' ? exchangedInput(input, instead) : input;
    if (renamed !== input) changes.push({ type: 'set', at: path, value: renamed });
  }
  const place = layout?.[name];
  if (place)
    changes.push({ type: 'set', at: ['layout', name] }, { type: 'set', at: ['layout', other], value: place });
  return [
    ...outward(changes, opened),
    {
      type: 'set',
      at: ['functions', opened, 'takes'],
      // In their order: calls give things by it.
      value: Object.fromEntries(
        Object.entries(takes).map(([one, type]) => [one === name ? other : one, type]),
      ),
    },
  ];
}
