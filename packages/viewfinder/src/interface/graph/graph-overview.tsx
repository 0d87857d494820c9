import type { JSX } from 'preact';
import { useMemo } from 'preact/hooks';
import type { Card } from '../../logic/graph/graph-cards.js';
import { CARD, type CardPlace, heightOf, keyOf } from '../../logic/graph/graph-layout.js';
import type { GraphLook } from '../../logic/graph/sight.js';
import { extentOf } from './graph-look.js';

const WIDTH = 148;
const HEIGHT = 88;

interface GraphOverviewProps {
  cards: readonly Card[];
  chosen: ReadonlySet<string>;
  /** Where cards stand, those that are being dragged as before. */
  places: ReadonlyMap<string, CardPlace>;
  placeOf(key: string): CardPlace;
  look: GraphLook;
  /** Pixels of the board. */
  width: number;
  height: number;
  onLook(look: GraphLook): void;
}

/** All of a graph in little, where the board does not show all of it: click to go there. */
export function GraphOverview({
  cards,
  chosen,
  height,
  look,
  onLook,
  placeOf,
  places,
  width,
}: GraphOverviewProps): JSX.Element | null {
  const { foot, left, right, scale, top } = useMemo(() => sizeOf(cards, placeOf), [cards, placeOf]);
  // What is chosen changes in place; the others stand still while those are dragged.
  const others = useMemo(
    () => boxesOf(cards, placeOf, (card) => !isIn(chosen, card)),
    [cards, [...chosen].join('\n'), places],
  );
  const dragged = useMemo(() => boxesOf(cards, placeOf, (card) => isIn(chosen, card)), [cards, placeOf]);
  if (cards.length === 0 || width === 0) return null;
  const seen = {
    x: -look.x / look.scale,
    y: -look.y / look.scale,
    width: width / look.scale,
    height: height / look.scale,
  };
  const isAllSeen =
    seen.x <= left && seen.y <= top && seen.x + seen.width >= right && seen.y + seen.height >= foot;
  if (isAllSeen) return null;
  const go = (event: PointerEvent & { currentTarget: SVGSVGElement }): void => {
    const box = event.currentTarget.getBoundingClientRect();
    const [x, y] = [left + (event.clientX - box.left) / scale, top + (event.clientY - box.top) / scale];
    onLook({ ...look, x: width / 2 - x * look.scale, y: height / 2 - y * look.scale });
  };
  return (
    <svg
      class="graph-overview"
      style={{ width: `${(right - left) * scale}px`, height: `${(foot - top) * scale}px` }}
      viewBox={`${left} ${top} ${right - left} ${foot - top}`}
      aria-hidden="true"
      onPointerDown={(event) => {
        event.stopPropagation();
        event.currentTarget.setPointerCapture(event.pointerId);
        go(event);
      }}
      onPointerMove={(event) => {
        if (event.currentTarget.hasPointerCapture(event.pointerId)) go(event);
      }}
    >
      <path d={others} />
      <path class="chosen" d={dragged} />
      <rect class="seen" {...seen} />
    </svg>
  );
}

/** What cards take together, and pixels of the little picture to those of the graph. */
function sizeOf(
  cards: readonly Card[],
  placeOf: (key: string) => CardPlace,
): Record<'left' | 'top' | 'right' | 'foot' | 'scale', number> {
  const extent = extentOf(cards, placeOf);
  const { foot, left, right, top } = extent;
  return { ...extent, scale: Math.min(WIDTH / (right - left), HEIGHT / (foot - top)) };
}

const isIn = (chosen: ReadonlySet<string>, { isHook, name }: Card): boolean => !isHook && chosen.has(name);

/** A box to each of some cards, as lines of one path: a thousand elements would be slow to make and to paint. */
function boxesOf(
  cards: readonly Card[],
  placeOf: (key: string) => CardPlace,
  isWanted: (card: Card) => boolean,
): string {
  let boxes = '';
  for (const card of cards) {
    if (!isWanted(card)) continue;
    const { x, y } = placeOf(keyOf(card));
    boxes += `M${x} ${y}h${CARD.width}v${heightOf(card)}h-${CARD.width}z`;
  }
  return boxes;
}
