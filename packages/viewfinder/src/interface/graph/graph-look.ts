import type { Card } from '../../logic/graph/graph-cards.js';
import { CARD, type CardPlace, heightOf, keyOf } from '../../logic/graph/graph-layout.js';

/** How a graph is looked at: pixels of the board to those of the graph, and where its origin lies. */
export interface GraphLook {
  x: number;
  y: number;
  scale: number;
}

/** Below this size nothing on a card can be read, and cards are drawn without it. */
const FAR = 0.2;
export const isFarOff = ({ scale }: GraphLook): boolean => scale < FAR;
const [LEAST, MOST] = [0.02, 1.6] as const;

/** Shows all of it. @param width pixels of the board */
export function lookAtAll(
  cards: readonly Card[],
  placeOf: (key: string) => CardPlace,
  width: number,
  height: number,
): GraphLook | undefined {
  const all = cards.map((card) => ({ ...placeOf(keyOf(card)), height: heightOf(card) }));
  if (all.length === 0) return undefined;
  const [left, top] = [Math.min(...all.map(({ x }) => x)), Math.min(...all.map(({ y }) => y))];
  const right = Math.max(...all.map(({ x }) => x + CARD.width));
  const foot = Math.max(...all.map(({ height: tall, y }) => y + tall));
  const scale = Math.min(1, (width - 40) / (right - left), (height - 40) / (foot - top));
  return { scale, x: 20 - left * scale, y: 20 - top * scale };
}

/** Nearer or farther, about a place of the board that stays. */
export function zoomed(look: GraphLook, at: CardPlace, by: number): GraphLook {
  const scale = Math.min(MOST, Math.max(LEAST, look.scale * by));
  const share = scale / look.scale;
  return { scale, x: at.x - (at.x - look.x) * share, y: at.y - (at.y - look.y) * share };
}
