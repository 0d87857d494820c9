import type { Card } from '../../logic/graph/graph-cards.js';
import { CARD, type CardPlace, heightOf, keyOf } from '../../logic/graph/graph-layout.js';
import type { GraphLook } from '../../logic/graph/sight.js';

/** Below this size nothing on a card can be read, and cards are drawn without it. */
const FAR = 0.2;
export const isFarOff = ({ scale }: GraphLook): boolean => scale < FAR;
const [LEAST, MOST] = [0.02, 1.6] as const;

/** What cards take together. */
export function extentOf(
  cards: readonly Card[],
  placeOf: (key: string) => CardPlace,
): Record<'left' | 'top' | 'right' | 'foot', number> {
  let [left, top, right, foot] = [Infinity, Infinity, -Infinity, -Infinity];
  for (const card of cards) {
    const { x, y } = placeOf(keyOf(card));
    left = Math.min(left, x);
    top = Math.min(top, y);
    right = Math.max(right, x + CARD.width);
    foot = Math.max(foot, y + heightOf(card));
  }
  return { left, top, right, foot };
}

/** Shows all of it, in the middle. @param width pixels of the board */
export function lookAtAll(
  cards: readonly Card[],
  placeOf: (key: string) => CardPlace,
  width: number,
  height: number,
): GraphLook | undefined {
  if (cards.length === 0) return undefined;
  const { foot, left, right, top } = extentOf(cards, placeOf);
  const scale = Math.min(1, (width - 40) / (right - left), (height - 40) / (foot - top));
  return {
    scale,
    x: (width - (left + right) * scale) / 2,
    y: (height - (top + foot) * scale) / 2,
  };
}

/** Nearer or farther, about a place of the board that stays. */
export function zoomed(look: GraphLook, at: CardPlace, by: number): GraphLook {
  const scale = Math.min(MOST, Math.max(LEAST, look.scale * by));
  const share = scale / look.scale;
  return { scale, x: at.x - (at.x - look.x) * share, y: at.y - (at.y - look.y) * share };
}
