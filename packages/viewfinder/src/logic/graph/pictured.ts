import type { Card } from './graph-cards.js';
import { CARD, type CardPlace, heightOf, keyOf } from './graph-layout.js';

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
  const isSeen = (card: Card): boolean => {
    const place = places.get(keyOf(card));
    if (card.isHook || !place) return false;
    const [left, top] = [place.x * scale + x, place.y * scale + y];
    const [right, foot] = [left + CARD.width * scale, top + heightOf(card) * scale];
    return left < board.width && right > 0 && top < board.height && foot > 0;
  };
  return cards.filter(isSeen).map(({ name }) => name);
}

/** Which of many nodes have pictures, by their numbers: all where there is room, else those in sight, or the first. */
export function pictured(nodes: readonly string[], seen: ReadonlySet<string>, most: number): number[] {
  const all = nodes.map((_, i) => i);
  if (nodes.length <= most) return all;
  const near = all.filter((i) => seen.has(nodes[i]!));
  return (near.length > 0 ? near : all).slice(0, most);
}
