import type { Graph, GraphChange } from '@umber-lens/core/graphs';
import type { ComponentChildren, JSX, RefObject } from 'preact';
import { useLayoutEffect, useMemo, useRef, useState } from 'preact/hooks';
import type { BoardLook } from '../../logic/graph/board-look.js';
import type { Card } from '../../logic/graph/graph-cards.js';
import { type GraphCommand, inputAt, inputFor, putIntoLink } from '../../logic/graph/graph-commands.js';
import { CARD, type CardPlace, heightOf, keyOf, meets } from '../../logic/graph/graph-layout.js';
import type { GraphSession } from '../../logic/graph/graph-session.js';
import { boundsOfLink, farFrom } from '../../logic/graph/link-routes.js';
import {
  covers,
  crossesSight,
  keysWithin,
  type GraphLook,
  type Sight,
  sightOf,
} from '../../logic/graph/sight.js';
import { FarPicture } from './far-picture.js';
import { CardSlot } from './graph-card.js';
import { GraphFrame } from './graph-frame.js';
import { isNear, Lines, type Link, LinkLine, linksOf, outOf, PulledLink } from './graph-links.js';
import { isFarOff, zoomed } from './graph-look.js';
import { GraphOverview } from './graph-overview.js';

type Way = readonly (string | number)[];

/** Where a node is to be added: behind a node, into a link, or by itself. */
export interface Adding {
  /** CSS pixels of the board. */
  x: number;
  y: number;
  from?: string;
  into?: Way;
  /** A node that is to call something else. */
  replaces?: string;
}

type Hand =
  | { type: 'pan' | 'light'; x: number; y: number }
  | { type: 'choose'; x: number; y: number; from: CardPlace }
  | { type: 'cards'; name: string; wasChosen: boolean; x: number; y: number; dx: number; dy: number }
  | { type: 'link'; from: string; x: number; y: number; taken?: Way };

interface GraphBoardProps {
  session: GraphSession;
  cards: readonly Card[];
  places: ReadonlyMap<string, CardPlace>;
  pictures: ReadonlyMap<string, ImageData>;
  values: ReadonlyMap<string, string>;
  looked: BoardLook;
  board: RefObject<HTMLDivElement | null>;
  /** Is called when the board has another size. */
  onSize(): void;
  onEdit(name: string, changes: GraphChange[], merge?: string): boolean;
  onCommand(command: () => GraphCommand): void;
  onAdding(adding: Adding | undefined): void;
  onProbe(place: CardPlace): void;
  /** Turns the light on pictures: to the right and up, degrees. */
  onLight(right: number, up: number): void;
  onFault(text: string): void;
  children?: ComponentChildren;
}

/** Of so many cards all are made, wherever one looks. */
const ALL_FULL = 150;
/** Of more those that are so far about the board, as a share of it. */
const ABOUT = 0.25;
/** So many dragged cards are layers of the page, which are moved without being painted. */
const MOST_LAYERS = 32;
/** How near a card is put to a link to go into it, pixels. */
const NEAR = 26;
const ORIGIN: CardPlace = { x: 0, y: 0 };

/** Cards and links, moved and joined by hand. */
export function GraphBoard({
  board,
  cards,
  children,
  looked,
  onAdding,
  onCommand,
  onEdit,
  onFault,
  onLight,
  onProbe,
  onSize,
  pictures,
  places,
  session,
  values,
}: GraphBoardProps): JSX.Element {
  const [hand, setHand] = useState<Hand | undefined>(undefined);
  const [size, setSize] = useState({ width: 0, height: 0 });
  const [look, setLook] = useState(looked.now);
  useLayoutEffect(() => looked.onChange(() => setLook(looked.now)), [looked]);
  const onLook = (to: GraphLook): void => void (looked.now = to);
  const { board: graph, types } = session;
  // A value that is being typed stays where it is.
  const { activeElement } = (board.current?.getRootNode() ?? document) as ShadowRoot;
  const isFar = isFarOff(look) && !activeElement?.closest('.card-input');
  const resized = useRef(onSize);
  resized.current = onSize;
  useLayoutEffect(() => {
    const watch = new ResizeObserver(([entry]) => {
      const { height, width } = entry!.contentRect; // it is told of one
      setSize({ width, height });
      resized.current();
    });
    watch.observe(board.current!); // it is drawn
    return () => watch.disconnect();
  }, [board]);
  // Of a thousand cards and links what is as before is not gone through again.
  const chosen = [...session.chosen].join('\n');
  const [dx, dy] = hand?.type === 'cards' ? [hand.dx, hand.dy] : [0, 0];
  const placeOf = useMemo(
    () =>
      (key: string): CardPlace => {
        const place = places.get(key) ?? ORIGIN;
        return session.chosen.has(key) ? { x: place.x + dx, y: place.y + dy } : place;
      },
    [chosen, dx, dy, places, session],
  );
  // Ways around cards are looked for when something was put down.
  const still = useMemo(() => linksOf(cards, (key) => places.get(key) ?? ORIGIN), [cards, places]);
  // Of a large graph only what is about the board is made: it does until one looks elsewhere.
  const sight = useRef<Sight | undefined>(undefined);
  if (!sight.current || !covers(sight.current, sightOf(look, size)))
    sight.current = sightOf(look, size, ABOUT);
  const full = useMemo(() => {
    if (cards.length <= ALL_FULL) return undefined;
    const typedAt = activeElement?.closest<HTMLElement>('[data-card]')?.dataset['card'];
    return new Set([
      ...keysWithin(cards, places, sight.current!),
      ...(typedAt === undefined ? [] : [typedAt]),
    ]);
  }, [cards, places, sight.current]);
  const [near, others] = useMemo(() => {
    const isOf = (link: Link): boolean => isNear(link, session.chosen);
    return [still.filter(isOf), still.filter((link) => !isOf(link))];
  }, [chosen, session, still]);
  const isMoving = hand?.type === 'cards';
  const nearNow = useMemo(
    () => (isMoving ? near.map((link) => straight(link, placeOf)) : near),
    [isMoving, near, placeOf],
  );
  /** A place of the screen, in the graph. */
  const inGraph = (event: { clientX: number; clientY: number }): CardPlace => {
    const { left, top } = board.current!.getBoundingClientRect(); // it is drawn
    return {
      x: (event.clientX - left - look.x) / look.scale,
      y: (event.clientY - top - look.y) / look.scale,
    };
  };
  const onBoard = (event: { clientX: number; clientY: number }): CardPlace => {
    const { left, top } = board.current!.getBoundingClientRect(); // as above
    return { x: event.clientX - left, y: event.clientY - top };
  };
  const dropCards = ({ dx, dy, name, wasChosen }: Hand & { type: 'cards' }, isAdded: boolean): void => {
    if (Math.hypot(dx, dy) <= 2) {
      // Of several that could have been dragged together one was clicked.
      if (!isAdded) session.choose([name]);
      else if (wasChosen) session.choose([...session.chosen].filter((one) => one !== name));
      return;
    }
    const moved = [...session.chosen].filter((one) => places.has(one));
    const changes = moved.map((one): GraphChange => {
      const { x, y } = placeOf(one);
      return { type: 'set', at: ['layout', one], value: [Math.round(x), Math.round(y)] };
    });
    const into =
      moved.length === 1
        ? linkUnder(name, [...others, ...nearNow], placeOf(name), cards, graph, types)
        : undefined;
    if (!into) {
      onEdit(moved.length === 1 ? `move ${name}` : `move ${moved.length} nodes`, changes);
      return;
    }
    onCommand(() => {
      const command = putIntoLink(session.board, name, into.path, session);
      return { ...command, changes: [...command.changes, ...changes] };
    });
  };
  const dropLink = ({ from, taken }: Hand & { type: 'link' }, event: PointerEvent): void => {
    const root = board.current!.getRootNode() as ShadowRoot; // it is drawn
    const over = root.elementFromPoint(event.clientX, event.clientY)?.closest<HTMLElement>('[data-input]');
    const away: GraphChange[] = taken ? [{ type: 'set', at: taken, value: null }] : [];
    if (over) {
      const at = JSON.parse(over.dataset['input']!) as Way; // it has one
      if (taken && at.join('/') === taken.join('/')) return;
      const value = taken ? (inputAt(graph, taken) ?? `@${from}`) : `@${from}`;
      onEdit(`link ${from}`, [...away, { type: 'set', at, value }]);
    } else if (taken) onEdit(`unlink ${from}`, away);
    else onAdding({ ...onBoard(event), from });
  };
  const drop = (event: PointerEvent): void => {
    setHand(undefined);
    if (hand?.type === 'cards') dropCards(hand, event.shiftKey);
    else if (hand?.type === 'link') dropLink(hand, event);
    else if (hand?.type === 'choose') {
      const to = inGraph(event);
      session.choose(
        cards
          .filter((card) => !card.isHook && meets(card, placeOf(card.name), hand.from, to))
          .map(({ name }) => name),
        true,
      );
    }
  };
  // Cards that are not drawn anew hold what they were given first.
  const grab = useRef<(card: Card, event: PointerEvent) => void>(() => undefined);
  const pull = useRef<(from: string, event: PointerEvent, taken?: Way) => void>(() => undefined);
  grab.current = (card, event) => {
    if (card.isHook) return;
    const target = event.target as Element;
    const isPicture = target.classList.contains('card-picture');
    if (isPicture && event.altKey) {
      board.current!.setPointerCapture(event.pointerId); // it is drawn
      setHand({ type: 'light', x: event.clientX, y: event.clientY });
      return;
    }
    if (isPicture) {
      const { height, left, top, width } = target.getBoundingClientRect();
      onProbe({
        x: ((event.clientX - left) / width) * 2 - 1,
        y: ((event.clientY - top) / height) * 2 - 1,
      });
    }
    const wasChosen = session.chosen.has(card.name);
    if (event.shiftKey) session.choose([card.name], true);
    else if (!wasChosen) session.choose([card.name]);
    board.current!.setPointerCapture(event.pointerId); // it is drawn
    setHand({ type: 'cards', name: card.name, wasChosen, ...inGraph(event), dx: 0, dy: 0 });
  };
  pull.current = (from, event, taken) => {
    event.stopPropagation();
    event.preventDefault();
    board.current!.setPointerCapture(event.pointerId); // as above
    setHand({ type: 'link', from, ...inGraph(event), ...(taken ? { taken } : {}) });
  };
  const slotOf = (card: Card): JSX.Element => (
    <CardSlot
      key={keyOf(card)}
      {...{ card, session, onFault }}
      place={places.get(keyOf(card)) ?? ORIGIN}
      isChosen={!card.isHook && session.chosen.has(card.name)}
      isFull={!isFar && (!full || full.has(keyOf(card)))}
      picture={card.isHook ? undefined : pictures.get(card.name)}
      value={card.isHook ? '' : (values.get(card.name) ?? '')}
      onGrab={(event) => grab.current(card, event)}
      onPull={(event) => pull.current(card.name, event)}
      onUnplug={(path, from, event) => pull.current(from, event, path)}
    />
  );
  const slots = useMemo(
    () => <>{cards.map(slotOf)}</>,
    [cards, chosen, full, isFar, pictures, places, session, values],
  );
  // Those that are dragged are moved by themselves: a thousand others are not gone through for it.
  const dragged = useRef<readonly HTMLElement[]>([]);
  useLayoutEffect(() => {
    if (!isMoving) return undefined;
    const all = [...board.current!.querySelectorAll<HTMLElement>('[data-card]')]; // it is drawn
    dragged.current = all.filter(({ dataset }) => session.chosen.has(dataset['card']!)); // they have one
    return () => {
      for (const { style } of dragged.current) style.transform = style.willChange = '';
      dragged.current = [];
    };
  }, [board, chosen, isMoving, session]);
  useLayoutEffect(() => {
    for (const { style } of dragged.current) {
      style.transform = `translate(${dx}px, ${dy}px)`;
      // Each is a layer of the page then.
      style.willChange = dragged.current.length <= MOST_LAYERS ? 'transform' : '';
    }
  }, [dx, dy]);
  const putInto = useRef<(link: Link, event: MouseEvent) => void>(() => undefined);
  putInto.current = (link, event) => onAdding({ ...onBoard(event), from: link.from, into: link.path });
  const inSight = (links: readonly Link[]): readonly Link[] =>
    full ? links.filter((link) => crossesSight(sight.current!, boundsOf(link))) : links;
  const lineOf = (link: Link, isNear: boolean): JSX.Element => (
    <LinkLine
      key={`${link.from} ${link.path.join('/')}`}
      {...{ link, isNear }}
      onInto={(of, event) => putInto.current(of, event)}
    />
  );
  const otherLines = useMemo(
    () => <Lines>{inSight(others).map((link) => lineOf(link, false))}</Lines>,
    [full, others],
  );
  const nearLines = useMemo(
    () => <Lines isMoving={isMoving}>{inSight(nearNow).map((link) => lineOf(link, true))}</Lines>,
    [full, isMoving, nearNow],
  );
  return (
    <div
      ref={board}
      class="board"
      role="group"
      aria-label="nodes of the graph"
      tabIndex={0}
      onWheel={(event) => {
        event.preventDefault();
        onLook(zoomed(look, onBoard(event), Math.exp(-event.deltaY * 0.0012)));
      }}
      onPointerDown={(event) => {
        onAdding(undefined);
        const target = event.target as Element;
        // Links take double clicks.
        if (target !== event.currentTarget) return;
        event.currentTarget.setPointerCapture(event.pointerId);
        if (event.shiftKey) {
          const from = inGraph(event);
          setHand({ type: 'choose', ...from, from });
          return;
        }
        session.choose([]);
        setHand({ type: 'pan', x: event.clientX, y: event.clientY });
      }}
      onPointerMove={(event) => {
        if (!hand) return;
        if (hand.type === 'pan') {
          onLook({ ...look, x: look.x + event.clientX - hand.x, y: look.y + event.clientY - hand.y });
          setHand({ ...hand, x: event.clientX, y: event.clientY });
          return;
        }
        if (hand.type === 'light') {
          onLight(event.clientX - hand.x, hand.y - event.clientY);
          setHand({ ...hand, x: event.clientX, y: event.clientY });
          return;
        }
        const at = inGraph(event);
        if (hand.type === 'cards') setHand({ ...hand, dx: at.x - hand.x, dy: at.y - hand.y });
        else setHand({ ...hand, ...at });
      }}
      onScroll={(event) => {
        // A card that has the focus is brought into sight: the look goes there, and nothing scrolls.
        const { scrollLeft, scrollTop } = event.currentTarget;
        if (scrollLeft === 0 && scrollTop === 0) return;
        event.currentTarget.scrollTo(0, 0);
        onLook({ ...look, x: look.x - scrollLeft, y: look.y - scrollTop });
      }}
      onPointerUp={drop}
      onPointerCancel={() => setHand(undefined)}
    >
      {isFar && (
        <FarPicture
          {...{ session, cards, chosen, places, placeOf, pictures, look, size }}
          still={others}
          near={nearNow}
        />
      )}
      <div
        class={`world${hand?.type === 'pan' ? ' panned' : ''}`}
        style={{ transform: `translate(${look.x}px, ${look.y}px) scale(${look.scale})` }}
      >
        {Object.entries(graph.frames ?? {}).map(([name, { nodes }]) => (
          <GraphFrame key={name} name={name} nodes={nodes} cards={cards} placeOf={placeOf} />
        ))}
        {!isFar && (
          <>
            {otherLines}
            {nearLines}
          </>
        )}
        {hand?.type === 'link' && <PulledLink from={outOf(placeOf(hand.from))} to={hand} />}
        {slots}
        {hand?.type === 'choose' && <div class="choosing" style={boxStyle(hand.from, hand)} />}
      </div>
      <GraphOverview
        cards={cards}
        chosen={session.chosen}
        places={places}
        placeOf={placeOf}
        look={look}
        width={size.width}
        height={size.height}
        onLook={onLook}
      />
      {children}
    </div>
  );
}

const straight = (link: Link, placeOf: (key: string) => CardPlace): Link => {
  const i = link.to.inputs.findIndex(({ path }) => path.join('/') === link.path.join('/'));
  const { x, y } = placeOf(keyOf(link.to));
  return { ...link, points: [outOf(placeOf(link.from)), { x, y: y + CARD.head + (i + 0.5) * CARD.row }] };
};

const bounds = new WeakMap<Link, ReturnType<typeof boundsOfLink>>();
/** Of a thousand links most stay where they are while something is dragged. */
function boundsOf(link: Link): ReturnType<typeof boundsOfLink> {
  let known = bounds.get(link);
  if (!known) bounds.set(link, (known = boundsOfLink(link.points)));
  return known;
}

/** The link that a card was put onto: one that nothing takes yet, and that takes what the link brings. */
function linkUnder(
  name: string,
  links: readonly Link[],
  { x, y }: CardPlace,
  cards: readonly Card[],
  graph: Graph,
  types: ReadonlyMap<string, string>,
): Link | undefined {
  const card = cards.find((one) => !one.isHook && one.name === name);
  if (!card || links.some(({ from }) => from === name)) return undefined;
  const middle = { x: x + CARD.width / 2, y: y + heightOf(card) / 2 };
  return links.find(
    ({ from, points, to }) =>
      to !== card && farFrom(middle, points) < NEAR && inputFor(graph, name, types.get(from)) >= 0,
  );
}

const boxStyle = (a: CardPlace, b: CardPlace): Record<string, string> => ({
  left: `${Math.min(a.x, b.x)}px`,
  top: `${Math.min(a.y, b.y)}px`,
  width: `${Math.abs(a.x - b.x)}px`,
  height: `${Math.abs(a.y - b.y)}px`,
});
