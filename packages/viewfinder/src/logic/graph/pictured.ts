import type { Card } from './graph-cards.js';
import { type CardPlace, keyOf, meets } from './graph-layout.js';

/**
 * Names of the nodes whose cards a board shows.
 *
 * @param look pixels of the board to those of the graph, and where its origin lies
 * @param board its size, pixels
 */
export function seenNodes(
  cards: readonly Card[],
  places: ReadonlyMap<string, CardPlace>,
  { scale, x, y }: { scale: number; x: number; y: number },
  board: { width: number; height: number },
): string[] {
  const from = { x: -x / scale, y: -y / scale };
  const to = { x: (board.width - x) / scale, y: (board.height - y) / scale };
  return cards.flatMap((card) => {
    const place = places.get(keyOf(card));
    return !card.isHook && place && meets(card, place, from, to) ? [card.name] : [];
  });
}

/** Which of many nodes have pictures, by their numbers: all where there is room, else those in sight, or the first. */
export function pictured(nodes: readonly string[], seen: ReadonlySet<string>, most: number): number[] {
  const all = nodes.map((_, i) => i);
  if (nodes.length <= most) return all;
  const near = all.filter((i) => seen.has(nodes[i]!));
  return (near.length > 0 ? near : all).slice(0, most);
}
