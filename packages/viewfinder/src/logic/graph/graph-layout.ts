import dagre from '@dagrejs/dagre';
import { type Graph, inFlow } from '@umber-lens/core/graphs';
import type { Card } from './graph-cards.js';

/** Pixels of a card, and of a row in it. */
export const CARD = { width: 208, head: 62, row: 26, foot: 8 };

export const heightOf = ({ inputs }: Card): number => CARD.head + inputs.length * CARD.row + CARD.foot;

export interface CardPlace {
  x: number;
  y: number;
}

/** Whether any of a card that stands at a place is within the box between two corners. */
export const meets = (card: Card, { x, y }: CardPlace, a: CardPlace, b: CardPlace): boolean =>
  x < Math.max(a.x, b.x) &&
  x + CARD.width > Math.min(a.x, b.x) &&
  y < Math.max(a.y, b.y) &&
  y + heightOf(card) > Math.min(a.y, b.y);

/** Where cards stand: where the graph says, else by the flow. What hooks give stands on the right. */
export function placesOf(graph: Graph, cards: readonly Card[]): Map<string, CardPlace> {
  const given = graph.layout ?? {};
  const places = new Map<string, CardPlace>();
  const isPlaced = cards.some(({ isHook, name }) => !isHook && given[name]);
  const flow = cards.every(({ isHook, name }) => isHook || given[name]) ? undefined : byFlow(cards);
  for (const card of cards) {
    const own = card.isHook ? undefined : given[card.name];
    const place = own ? { x: own[0], y: own[1] } : flow?.get(keyOf(card));
    if (place) places.set(keyOf(card), place);
  }
  // Hooks follow what they take, wherever that was put.
  const right = Math.max(
    0,
    ...cards.filter(({ isHook }) => !isHook).map((card) => (places.get(card.name)?.x ?? 0) + CARD.width),
  );
  let below = Math.min(...[...places.values()].map(({ y }) => y), Infinity);
  if (!Number.isFinite(below)) below = 0;
  for (const card of cards) {
    if (!card.isHook || (!isPlaced && places.has(keyOf(card)))) continue;
    places.set(keyOf(card), { x: right + 70, y: below });
    below += heightOf(card) + 24;
  }
  return places;
}

/** Cards of nodes and of hooks may have one name. */
export const keyOf = ({ isHook, name }: Card): string => (isHook ? `hook ${name}` : name);

/** Ways of links over layers, beyond which their crossings are not looked at: that takes minutes. */
const MOST_WAYS = 1500;

/** Where cards stand by the flow: each behind those that it takes. */
export function byFlow(cards: readonly Card[]): Map<string, CardPlace> {
  const layers = layersOf(cards);
  let ways = 0;
  for (const card of cards)
    for (const { from } of card.inputs)
      for (const name of from) ways += (layers.get(keyOf(card)) ?? 0) - (layers.get(name) ?? 0);
  return ways > MOST_WAYS ? inColumns(cards, layers) : withFewCrossings(cards);
}

/** How many links lie behind each card at most. */
function layersOf(cards: readonly Card[]): Map<string, number> {
  const byName = new Map(cards.map((card) => [keyOf(card), card] as const));
  const { order } = inFlow([...byName.keys()], (key) => byName.get(key)!.inputs.flatMap(({ from }) => from)); // of these keys
  const layers = new Map<string, number>();
  for (const key of order) {
    const behind = byName.get(key)!.inputs.flatMap(({ from }) => from.map((name) => layers.get(name) ?? -1)); // as above
    layers.set(key, Math.max(-1, ...behind) + 1);
  }
  return layers;
}

function inColumns(cards: readonly Card[], layers: ReadonlyMap<string, number>): Map<string, CardPlace> {
  const feet: number[] = [];
  return new Map(
    cards.map((card) => {
      const layer = layers.get(keyOf(card)) ?? 0;
      const y = feet[layer] ?? 20;
      feet[layer] = y + heightOf(card) + 22;
      return [keyOf(card), { x: 20 + layer * (CARD.width + 56), y }];
    }),
  );
}

/** Layers from left to right, with few crossings (Gansner et al., "A Technique for Drawing Directed Graphs", 1993). */
function withFewCrossings(cards: readonly Card[]): Map<string, CardPlace> {
  const graph = new dagre.graphlib.Graph();
  graph.setGraph({ rankdir: 'LR', nodesep: 22, ranksep: 56, marginx: 20, marginy: 20 });
  graph.setDefaultEdgeLabel(() => ({}));
  for (const card of cards) graph.setNode(keyOf(card), { width: CARD.width, height: heightOf(card) });
  for (const card of cards)
    for (const { from } of card.inputs) for (const name of from) graph.setEdge(name, keyOf(card));
  dagre.layout(graph);
  return new Map(
    cards.map((card) => {
      const { height, width, x, y } = graph.node(keyOf(card)) as {
        x: number;
        y: number;
        width: number;
        height: number;
      };
      return [keyOf(card), { x: Math.round(x - width / 2), y: Math.round(y - height / 2) }];
    }),
  );
}
