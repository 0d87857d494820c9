import type { JSX } from 'preact';
import { useCallback, useLayoutEffect, useRef } from 'preact/hooks';
import type { Card } from '../../logic/graph/graph-cards.js';
import { CARD, type CardPlace, heightOf, keyOf } from '../../logic/graph/graph-layout.js';
import type { GraphSession } from '../../logic/graph/graph-session.js';
import { traceLink } from '../../logic/graph/link-routes.js';
import { covers, fromLookTo, type GraphLook, sightOf } from '../../logic/graph/sight.js';
import { clearedCanvas, type Colors, colorsOf, useTheme } from './by-hand.js';
import type { Link } from './graph-links.js';

interface FarPictureProps {
  session: GraphSession;
  cards: readonly Card[];
  /** Where cards stand, those that are being dragged as before. */
  places: ReadonlyMap<string, CardPlace>;
  placeOf(key: string): CardPlace;
  /** Those that are not dragged. */
  still: readonly Link[];
  /** Those of what is chosen, as it is dragged. */
  near: readonly Link[];
  /** What is chosen, in one word: another one when others are. */
  chosen: string;
  pictures: ReadonlyMap<string, ImageData>;
  look: GraphLook;
  size: Size;
}

interface Size {
  width: number;
  height: number;
}

type Draw = (context: CanvasRenderingContext2D, colors: Colors) => void;

/** Where a card's picture stands on it, and its side. */
const PICTURE = { x: 7, y: 7, side: 54 };
/** How much is drawn beside the board, as a share of it: so far it is moved as it is. */
const ROOM = 0.5;
/** How long nothing is moved before it is drawn sharp again, milliseconds. */
const REST = 300;
/** Links to a stroke: one of all of them takes longer, and so does one of each. */
const BUNDLE = 16;
/** Most pixels of a picture: on a large screen of fine ones it is less sharp, so that it is drawn and sent within a frame or two. */
const MOST_PIXELS = 6e6;

/**
 * Cards and links that are seen from far off, where nothing on them can be read: boxes, of which each has a spot of the color of its picture. They are drawn by
 * hand, and what was drawn is moved and scaled as one until it rests: a thousand elements with as many curves are painted longer than a frame.
 * What is chosen is a picture of its own over the others, since it is what is dragged.
 */
export function FarPicture({
  cards,
  chosen,
  look,
  near,
  pictures,
  placeOf,
  places,
  session,
  size,
  still,
}: FarPictureProps): JSX.Element {
  const draw = (
    context: CanvasRenderingContext2D,
    colors: Colors,
    links: readonly Link[],
    drawn: readonly Card[],
    isChosen: boolean,
  ): void => {
    drawLinks(context, links, isChosen ? colors.brass : colors.quiet, isChosen);
    for (const card of drawn) {
      const place = isChosen ? placeOf(keyOf(card)) : places.get(keyOf(card));
      const picture = card.isHook ? undefined : pictures.get(card.name);
      const isWrong = !card.isHook && session.gravityOf(card.name) === 'error';
      if (place) drawCard(context, colors, card, place, { isChosen, isWrong, picture });
    }
  };
  const isIn = (card: Card): boolean => !card.isHook && session.chosen.has(card.name);
  const drawStill = useCallback<Draw>(
    (context, colors) =>
      draw(
        context,
        colors,
        still,
        cards.filter((card) => !isIn(card)),
        false,
      ),
    [cards, chosen, pictures, places, session, still],
  );
  const drawChosen = useCallback<Draw>(
    (context, colors) => draw(context, colors, near, cards.filter(isIn), true),
    [cards, chosen, near, pictures, placeOf, session],
  );
  return (
    <>
      <FarLayer draw={drawStill} room={ROOM} {...{ look, size }} />
      {chosen && <FarLayer draw={drawChosen} room={0} {...{ look, size }} />}
    </>
  );
}

interface FarLayerProps {
  draw: Draw;
  look: GraphLook;
  size: Size;
  /** How much is drawn beside the board, as a share of it. */
  room: number;
}

/** A picture that is drawn for one look, and is moved to others until it is drawn for them. */
function FarLayer({ draw, look, room, size }: FarLayerProps): JSX.Element {
  const canvas = useRef<HTMLCanvasElement>(null);
  const drawn = useRef<{ look: GraphLook; draw: Draw; size: Size } | undefined>(undefined);
  const paint = useRef(() => {});
  paint.current = () => {
    const element = canvas.current!; // it is drawn
    const [width, height] = [size.width, size.height].map((side) => side * (1 + 2 * room)) as [
      number,
      number,
    ];
    const ratio = Math.min(devicePixelRatio, Math.sqrt(MOST_PIXELS / (width * height)));
    const [across, down] = [Math.round(width * ratio), Math.round(height * ratio)];
    const context = clearedCanvas(element, across, down);
    const scale = look.scale * ratio;
    context.setTransform(
      scale,
      0,
      0,
      scale,
      (look.x + size.width * room) * ratio,
      (look.y + size.height * room) * ratio,
    );
    draw(context, colorsOf(element));
    Object.assign(element.style, {
      left: `${-size.width * room}px`,
      top: `${-size.height * room}px`,
      width: `${width}px`,
      height: `${height}px`,
      transform: 'none',
    });
    drawn.current = { draw, look, size };
  };
  useLayoutEffect(() => {
    if (size.width === 0) return undefined;
    const before = drawn.current;
    const isSame = before?.draw === draw && before.size === size;
    if (!isSame || !covers(sightOf(before.look, size, room), sightOf(look, size))) {
      paint.current();
      return undefined;
    }
    if (before.look === look) return undefined;
    const { scale, x, y } = fromLookTo(before.look, look, size, room);
    canvas.current!.style.transform = `translate(${x}px, ${y}px) scale(${scale})`; // it is drawn
    const timer = setTimeout(() => paint.current(), REST);
    return () => clearTimeout(timer);
  }, [draw, look, room, size]);
  useTheme(canvas, paint);
  return <canvas ref={canvas} class="far-picture" aria-hidden="true" />;
}

function drawLinks(
  context: CanvasRenderingContext2D,
  links: readonly Link[],
  color: string,
  isChosen: boolean,
): void {
  context.strokeStyle = color;
  context.lineWidth = isChosen ? 8 : 1.6;
  context.globalAlpha = isChosen ? 1 : 0.75;
  for (let from = 0; from < links.length; from += BUNDLE) {
    context.beginPath();
    for (const { points } of links.slice(from, from + BUNDLE)) traceLink(points, context);
    context.stroke();
  }
}

function drawCard(
  context: CanvasRenderingContext2D,
  colors: Colors,
  card: Card,
  { x, y }: CardPlace,
  { isChosen, isWrong, picture }: { isChosen: boolean; isWrong: boolean; picture: ImageData | undefined },
): void {
  const isMarked = isChosen || isWrong || card.isHook;
  context.globalAlpha = card.isMuted ? 0.55 : 1;
  context.fillStyle = colors.raised;
  context.fillRect(x, y, CARD.width, heightOf(card));
  context.strokeStyle = isWrong ? colors.wrong : isMarked ? colors.brass : colors.line;
  context.lineWidth = isMarked ? 14 : 4;
  context.strokeRect(x, y, CARD.width, heightOf(card));
  if (card.isHook) return;
  context.fillStyle = picture ? meanColor(picture) : colors.field;
  context.fillRect(x + PICTURE.x, y + PICTURE.y, PICTURE.side, PICTURE.side);
}

const means = new WeakMap<ImageData, string>();
/** The color that a picture has from far off. */
function meanColor(picture: ImageData): string {
  const known = means.get(picture);
  if (known !== undefined) return known;
  const { data } = picture;
  const sums: [number, number, number] = [0, 0, 0];
  for (let i = 0; i + 2 < data.length; i += 4) {
    sums[0] += data[i]!; // in range, as below
    sums[1] += data[i + 1]!;
    sums[2] += data[i + 2]!;
  }
  const mean = `rgb(${sums.map((sum) => Math.round((sum * 4) / data.length)).join(' ')})`;
  means.set(picture, mean);
  return mean;
}
