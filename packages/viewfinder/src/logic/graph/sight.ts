import type { Card } from './graph-cards.js';
import { type CardPlace, keyOf, meets } from './graph-layout.js';

/** How a graph is looked at: pixels of the board to those of the graph, and where its origin lies. */
export interface GraphLook {
  x: number;
  y: number;
  scale: number;
}

interface Size {
  width: number;
  height: number;
}

/** A part of a graph, in its own pixels, and how it is scaled. */
export interface Sight {
  from: CardPlace;
  to: CardPlace;
  scale: number;
}

/** What a board shows of a graph. @param room how much more on each side, as a share of the board */
export function sightOf({ scale, x, y }: GraphLook, { height, width }: Size, room = 0): Sight {
  const [across, down] = [width * room, height * room];
  return {
    from: { x: (-x - across) / scale, y: (-y - down) / scale },
    to: { x: (width + across - x) / scale, y: (height + down - y) / scale },
    scale,
  };
}

/** Whether what was drawn of a graph does for what is to be seen now, at about its size. */
export function covers(drawn: Sight, seen: Sight): boolean {
  const share = seen.scale / drawn.scale;
  return (
    share > 0.5 &&
    share < 2 &&
    drawn.from.x <= seen.from.x &&
    drawn.from.y <= seen.from.y &&
    drawn.to.x >= seen.to.x &&
    drawn.to.y >= seen.to.y
  );
}

/** How something drawn for one look is moved to fit another: its scale, and where its corner goes. */
export function fromLookTo(
  drawn: GraphLook,
  now: GraphLook,
  { height, width }: Size,
  room: number,
): GraphLook {
  const scale = now.scale / drawn.scale;
  const [across, down] = [width * room, height * room];
  return {
    scale,
    x: now.x + across - scale * (drawn.x + across),
    y: now.y + down - scale * (drawn.y + down),
  };
}

/** Keys of the cards that a part of a graph holds some of. */
export const keysWithin = (
  cards: readonly Card[],
  places: ReadonlyMap<string, CardPlace>,
  { from, to }: Sight,
): string[] =>
  cards.flatMap((card) => {
    const place = places.get(keyOf(card));
    return place && meets(card, place, from, to) ? [keyOf(card)] : [];
  });

/** Whether a line's bounds meet a part of a graph. */
export const crossesSight = ({ from, to }: Sight, bounds: { from: CardPlace; to: CardPlace }): boolean =>
  bounds.from.x <= to.x && bounds.to.x >= from.x && bounds.from.y <= to.y && bounds.to.y >= from.y;
