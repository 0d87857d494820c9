import type { JSX } from 'preact';
import { useMemo } from 'preact/hooks';
import type { Card } from '../../logic/graph/graph-cards.js';
import { CARD, type CardPlace, heightOf, keyOf } from '../../logic/graph/graph-layout.js';
import { extentOf, type GraphLook } from './graph-look.js';

const WIDTH = 148;
const HEIGHT = 88;

interface GraphOverviewProps {
  cards: readonly Card[];
  chosen: ReadonlySet<string>;
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
  width,
}: GraphOverviewProps): JSX.Element | null {
  const { boxes, foot, left, right, scale, top } = useMemo(
    () => littleOf(cards, chosen, placeOf),
    // What is chosen changes in place, and the places with it.
    [cards, placeOf],
  );
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
      <path d={boxes.others} />
      <path class="chosen" d={boxes.chosen} />
      <rect
        class="seen"
        x={(seen.x - left) * scale}
        y={(seen.y - top) * scale}
        width={seen.width * scale}
        height={seen.height * scale}
      />
    </svg>
  );
}

/** A box to each card, and what they take together. They are lines of two paths: a thousand elements would be slow to make and to paint. */
function littleOf(
  cards: readonly Card[],
  chosen: ReadonlySet<string>,
  placeOf: (key: string) => CardPlace,
): Record<'left' | 'top' | 'right' | 'foot' | 'scale', number> & {
  boxes: Record<'chosen' | 'others', string>;
} {
  const { foot, left, right, top } = extentOf(cards, placeOf);
  const scale = Math.min(WIDTH / (right - left), HEIGHT / (foot - top));
  const boxes = { chosen: '', others: '' };
  const across = (CARD.width * scale).toFixed(1);
  for (const card of cards) {
    const { x, y } = placeOf(keyOf(card));
    const kind = !card.isHook && chosen.has(card.name) ? 'chosen' : 'others';
    const from = `${((x - left) * scale).toFixed(1)} ${((y - top) * scale).toFixed(1)}`;
    boxes[kind] += `M${from}h${across}v${(heightOf(card) * scale).toFixed(1)}h-${across}z`;
  }
  return { boxes, foot, left, right, scale, top };
}
