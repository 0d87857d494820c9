import type { JSX } from 'preact';
import { useCallback, useLayoutEffect, useMemo, useRef } from 'preact/hooks';
import type { Card } from '../../logic/graph/graph-cards.js';
import { CARD, type CardPlace, heightOf, keyOf } from '../../logic/graph/graph-layout.js';
import type { GraphLook } from '../../logic/graph/sight.js';
import { clearedCanvas, type Colors, colorsOf, useTheme } from './by-hand.js';
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
  const extent = useMemo(() => sizeOf(cards, placeOf), [cards, placeOf]);
  const { foot, left, right, scale, top } = extent;
  // What is chosen changes in place; the others stand still while those are dragged.
  const drawOthers = useCallback<Draw>(
    (context, { quiet }) => fillBoxes(context, quiet, cards, placeOf, (card) => !isIn(chosen, card)),
    [cards, [...chosen].join('\n'), foot, left, places, right, top],
  );
  const drawChosen = useCallback<Draw>(
    (context, { brass }) => fillBoxes(context, brass, cards, placeOf, (card) => isIn(chosen, card)),
    [cards, extent],
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
  const go = (event: PointerEvent & { currentTarget: HTMLElement }): void => {
    const box = event.currentTarget.getBoundingClientRect();
    const [x, y] = [left + (event.clientX - box.left) / scale, top + (event.clientY - box.top) / scale];
    onLook({ ...look, x: width / 2 - x * look.scale, y: height / 2 - y * look.scale });
  };
  return (
    <div
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
      <LittlePicture class="others" draw={drawOthers} extent={extent} />
      <LittlePicture class="chosen" draw={drawChosen} extent={extent} />
      <div
        class="seen"
        style={{
          width: `${seen.width * scale}px`,
          height: `${seen.height * scale}px`,
          transform: `translate(${(seen.x - left) * scale}px, ${(seen.y - top) * scale}px)`,
        }}
      />
    </div>
  );
}

type Extent = ReturnType<typeof sizeOf>;
/** In pixels of the graph. */
type Draw = (context: CanvasRenderingContext2D, colors: Colors) => void;

/** What is drawn by hand: as elements a thousand boxes are painted anew with whatever moves over them. */
function LittlePicture({
  class: name,
  draw,
  extent,
}: {
  class: string;
  draw: Draw;
  extent: Extent;
}): JSX.Element {
  const canvas = useRef<HTMLCanvasElement>(null);
  const paint = useRef(() => {});
  const { foot, left, right, scale, top } = extent;
  const [width, height] = [(right - left) * scale, (foot - top) * scale];
  paint.current = () => {
    const element = canvas.current!; // it is drawn
    const ratio = devicePixelRatio;
    const context = clearedCanvas(element, Math.ceil(width * ratio), Math.ceil(height * ratio));
    const inGraph = scale * ratio;
    context.setTransform(inGraph, 0, 0, inGraph, -left * inGraph, -top * inGraph);
    draw(context, colorsOf(element));
  };
  useLayoutEffect(() => paint.current(), [draw]);
  useTheme(canvas, paint);
  return <canvas ref={canvas} class={name} style={{ width: `${width}px`, height: `${height}px` }} />;
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

function fillBoxes(
  context: CanvasRenderingContext2D,
  color: string,
  cards: readonly Card[],
  placeOf: (key: string) => CardPlace,
  isWanted: (card: Card) => boolean,
): void {
  context.fillStyle = color;
  for (const card of cards) {
    if (!isWanted(card)) continue;
    const { x, y } = placeOf(keyOf(card));
    context.fillRect(x, y, CARD.width, heightOf(card));
  }
}
