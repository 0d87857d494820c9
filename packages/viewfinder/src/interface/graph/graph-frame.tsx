import type { JSX } from 'preact';
import type { Card } from '../../logic/graph/graph-cards.js';
import { CARD, type CardPlace, heightOf } from '../../logic/graph/graph-layout.js';

interface GraphFrameProps {
  name: string;
  nodes: readonly string[];
  cards: readonly Card[];
  placeOf(key: string): CardPlace;
}

/** A frame about some nodes, behind them. */
export function GraphFrame({ cards, name, nodes, placeOf }: GraphFrameProps): JSX.Element | null {
  const own = cards.filter((card) => !card.isHook && nodes.includes(card.name));
  if (own.length === 0) return null;
  const all = own.map((card) => ({ ...placeOf(card.name), height: heightOf(card) }));
  const [left, top] = [Math.min(...all.map(({ x }) => x)) - 14, Math.min(...all.map(({ y }) => y)) - 30];
  const right = Math.max(...all.map(({ x }) => x + CARD.width)) + 14;
  const foot = Math.max(...all.map(({ height, y }) => y + height)) + 12;
  return (
    <div
      class="frame"
      style={{ left: `${left}px`, top: `${top}px`, width: `${right - left}px`, height: `${foot - top}px` }}
    >
      <span>{name}</span>
    </div>
  );
}
