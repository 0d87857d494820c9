import {
  callsFor,
  type CompileGraphOptions,
  type Graph,
  type GraphChange,
  type GraphInput,
  inputsOfGraph,
  nodeNamed,
} from '@umber-lens/core/graphs';
import { freeName } from '../free-name.js';
import { typesOnBoard } from './board-graph.js';
import { type Card } from './graph-cards.js';
import { inputsWith } from './inputs-with.js';
import { CARD, type CardPlace, heightOf } from './graph-layout.js';

/** What a command does to a graph, in words and as changes. */
export interface GraphCommand {
  name: string;
  changes: GraphChange[];
  /** Nodes that are chosen then. */
  choose?: readonly string[];
}

type Way = readonly (string | number)[];

const nodesOf = (graph: Graph): NonNullable<Graph['nodes']> => graph.nodes ?? {};

/** "rim", or "3 nodes". */
export const called = (names: readonly string[]): string =>
  names.length === 1 ? names[0]! : `${names.length} nodes`; // one

export function removeNodes(names: readonly string[]): GraphCommand {
  return { name: `delete ${called(names)}`, changes: names.map((node) => ({ type: 'remove', node })) };
}

/** Has nodes pass their first input on, or compute again. */
export function muteNodes(graph: Graph, names: readonly string[]): GraphCommand {
  const isMuted = names.every((name) => nodesOf(graph)[name]?.muted);
  return {
    name: `${isMuted ? 'unmute' : 'mute'} ${called(names)}`,
    changes: names.map((name) => ({
      type: 'set',
      at: ['nodes', name, 'muted'],
      value: isMuted ? undefined : true,
    })),
  };
}

/** The input of a node that takes a value of some type; -1 where none does. */
export function inputFor(graph: Graph, name: string, type: string | undefined): number {
  const { call } = nodesOf(graph)[name] ?? {};
  if (call === undefined) return -1;
  const own = graph.functions?.[call];
  if (own) {
    const takes = Object.values(own.takes ?? {});
    return type === undefined ? Math.min(0, takes.length - 1) : takes.indexOf(type);
  }
  return callsFor(type ?? '').get(call) ?? -1;
}

/** What stands at a way down into a graph. */
export function inputAt(graph: Graph, path: Way): GraphInput | undefined {
  let at: unknown = graph;
  for (const key of path) at = (at as Record<string | number, unknown> | undefined | null)?.[key];
  return at as GraphInput | undefined;
}

/**
 * Puts a node into a link: it takes what the link brought, and what took that takes the node.
 *
 * @param path the way down to the input at the link's end
 * @throws Error where the node takes no such value
 */
export function putIntoLink(
  graph: Graph,
  node: string,
  path: Way,
  options: CompileGraphOptions = {},
): GraphCommand {
  const before = inputAt(graph, path);
  const type = typeof before === 'string' ? typesOnBoard(graph, [before], options).get(before) : undefined;
  const place = inputFor(graph, node, type);
  if (before === undefined || place < 0) throw new Error(`"${node}" takes no ${type ?? 'such value'}`);
  return {
    name: `put ${node} into a link`,
    changes: [
      {
        type: 'set',
        at: ['nodes', node, 'in'],
        value: inputsWith(nodesOf(graph)[node]?.in ?? [], place, before),
      },
      { type: 'set', at: path, value: `@${node}` },
    ],
    choose: [node],
  };
}

/** What each node hands on when it is gone: its first input of its own type, else its first. */
function handedOn(
  graph: Graph,
  names: readonly string[],
  options: CompileGraphOptions,
): Map<string, GraphInput> {
  const inputs = names.flatMap((name) => nodesOf(graph)[name]?.in ?? []);
  const texts = inputs.filter((one): one is string => typeof one === 'string');
  const types = typesOnBoard(graph, [...texts, ...names.map((name) => `@${name}`)], options);
  return new Map(
    names.map((name) => {
      const { in: given = [], value } = nodesOf(graph)[name] ?? {};
      const own = types.get(`@${name}`);
      const fits = given.find(
        (one) => typeof one === 'string' && own !== undefined && types.get(one) === own,
      );
      return [name, value ?? fits ?? given[0] ?? null];
    }),
  );
}

/** Takes nodes away, and has what they take go to where they went. */
export function bypassNodes(
  graph: Graph,
  names: readonly string[],
  options: CompileGraphOptions = {},
): GraphCommand {
  const nodes = nodesOf(graph);
  const handed = handedOn(graph, names, options);
  const instead = (input: string): GraphInput => {
    let at = input;
    // Several in a row.
    for (let i = 0; i <= names.length; i++) {
      const name = nodeNamed(at, nodes);
      if (name === undefined || !handed.has(name)) return at;
      const other = handed.get(name)!; // it has it
      const part = at.slice(name.length + 1);
      if (typeof other !== 'string') return part === '' ? other : at;
      at = other + part;
    }
    return at;
  };
  const changes: GraphChange[] = [];
  for (const { input, node, path } of inputsOfGraph(graph)) {
    if (typeof input !== 'string' || (node !== undefined && handed.has(node))) continue;
    const other = instead(input);
    if (other !== input) changes.push({ type: 'set', at: path, value: other });
  }
  for (const node of names) changes.push({ type: 'remove', node });
  return { name: `bypass ${called(names)}`, changes };
}

/** Has a node call something else with what it takes. */
export function replaceCall(graph: Graph, name: string, call: string): GraphCommand {
  const { in: given } = nodesOf(graph)[name] ?? {};
  return {
    name: `${name} calls ${call}`,
    changes: [
      ...(given ? [] : [{ type: 'set', at: ['nodes', name, 'value'] } as const]),
      { type: 'set', at: ['nodes', name, 'call'], value: call },
    ],
    choose: [name],
  };
}

export const ALIGNMENTS = ['left', 'right', 'top', 'bottom', 'middle', 'column', 'row'] as const;
export type Alignment = (typeof ALIGNMENTS)[number];

/** Has cards stand on a line, or one after the other. @param placeOf of a card that stands somewhere */
export function alignCards(
  cards: readonly Card[],
  how: Alignment,
  placeOf: (card: Card) => CardPlace,
): GraphCommand {
  const all = cards.map((card) => ({ card, ...placeOf(card), height: heightOf(card) }));
  const left = Math.min(...all.map(({ x }) => x));
  const right = Math.max(...all.map(({ x }) => x));
  const top = Math.min(...all.map(({ y }) => y));
  const foot = Math.max(...all.map(({ height, y }) => y + height));
  const sorted = [...all].sort((a, b) => (how === 'column' ? a.y - b.y : a.x - b.x));
  let next = how === 'column' ? top : left;
  const changes = sorted.map(({ card, height, x, y }): GraphChange => {
    const place: [number, number] = [x, y];
    switch (how) {
      case 'left':
        place[0] = left;
        break;
      case 'right':
        place[0] = right;
        break;
      case 'top':
        place[1] = top;
        break;
      case 'bottom':
        place[1] = foot - height;
        break;
      case 'middle':
        place[1] = (top + foot - height) / 2;
        break;
      case 'column':
        place.splice(0, 2, left, next);
        next += height + 22;
        break;
      case 'row':
        place.splice(0, 2, next, top);
        next += CARD.width + 56;
    }
    return { type: 'set', at: ['layout', card.name], value: place.map(Math.round) };
  });
  return { name: `align ${called(cards.map(({ name }) => name))}`, changes };
}

/** Draws a frame about nodes, or takes away the one that is about just these. */
export function frameNodes(graph: Graph, names: readonly string[], name: string): GraphCommand {
  const frames = graph.frames ?? {};
  const known = Object.entries(frames).find(
    ([, { nodes }]) => nodes.length === names.length && names.every((node) => nodes.includes(node)),
  );
  if (known) return { name: `unframe ${known[0]}`, changes: [{ type: 'set', at: ['frames', known[0]] }] };
  const free = freeName(name, (one) => one in frames);
  return {
    name: `frame ${called(names)}`,
    changes: [{ type: 'set', at: ['frames', free], value: { nodes: [...names] } }],
  };
}
