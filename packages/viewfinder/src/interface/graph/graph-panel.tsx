import { type GraphChange, type GraphFinding, type GraphInput, previewGraph } from '@umber-lens/core/graphs';
import type { JSX } from 'preact';
import { useEffect, useMemo, useRef, useState } from 'preact/hooks';
import type { Lens, Material } from 'umber-lens';
import type { Editor } from '../../logic/editor.js';
import { type Card, cardsOf } from '../../logic/graph/graph-cards.js';
import { byFlow, CARD, type CardPlace, heightOf, keyOf, placesOf } from '../../logic/graph/graph-layout.js';
import type { Offer } from '../../logic/graph/graph-offers.js';
import { numbersOf, valuesAt } from '../../logic/graph/graph-probe.js';
import type { GraphSession } from '../../logic/graph/graph-session.js';
import { GraphPictures, PICTURE_SHAPES, type PictureShape } from '../../stage/graph-pictures.js';
import { Icon } from '../icon.js';
import { AddBox } from './add-box.js';
import { CardSlot } from './graph-card.js';

interface GraphPanelProps {
  editor: Editor;
  lens: Lens;
  session: GraphSession;
  material: Material;
  onSave(): void;
  onClose(): void;
}

/** How often settings, and time, are looked at, milliseconds. */
const LOOK_AGAIN = 400;

/** How the graph is looked at: pixels of the panel to those of the graph, and where its origin lies. */
interface Look {
  x: number;
  y: number;
  scale: number;
}

type Hand =
  | { type: 'pan'; x: number; y: number }
  | { type: 'card'; name: string; x: number; y: number; from: CardPlace; at: CardPlace }
  | { type: 'link'; from: string; x: number; y: number };

/** A graph as cards with links between them, live: what is changed is seen in the picture at once. */
export function GraphPanel({
  editor,
  lens,
  material,
  onClose,
  onSave,
  session,
}: GraphPanelProps): JSX.Element {
  const [, redraw] = useState(0);
  const [look, setLook] = useState<Look>({ x: 16, y: 12, scale: 0.8 });
  const [hand, setHand] = useState<Hand | undefined>(undefined);
  const [adding, setAdding] = useState<{ x: number; y: number; from?: string } | undefined>(undefined);
  const [shows, setShows] = useState<'nodes' | 'wgsl'>('nodes');
  const [drawn, setDrawn] = useState(0);
  const [shape, setShape] = useState<PictureShape>('ball');
  const [fitted, setFitted] = useState(0);
  const [probe, setProbe] = useState({ x: 0.35, y: -0.35 });
  const board = useRef<HTMLDivElement>(null);
  const pictures = useMemo(() => new GraphPictures(lens), [lens]);
  useEffect(() => () => pictures.dispose(), [pictures]);
  useEffect(() => session.onChange(() => redraw((n) => n + 1)), [session]);
  const { compiled, findings, graph } = session;
  const isWrong = findings.some(({ severity }) => severity === 'error');
  const preview = useMemo(() => previewGraph(graph, session), [graph, session]);
  useEffect(() => {
    const draw = (): void => {
      if (!preview) return;
      pictures.draw(preview, session, material.settings).then(
        (isNew) => isNew && setDrawn((n) => n + 1),
        (error: Error) => editor.say(error.message),
      );
    };
    draw();
    const timer = setInterval(draw, LOOK_AGAIN);
    return () => clearInterval(timer);
  }, [editor, material, pictures, preview, session, shape]);
  const cards = useMemo(() => cardsOf(graph, compiled), [graph, compiled]);
  const places = useMemo(() => placesOf(graph, cards), [graph, cards]);
  // Settings are written to in place.
  const settings = JSON.stringify(numbersOf(material.settings));
  const values = useMemo(
    () => valuesAt(preview, probe, JSON.parse(settings) as Record<string, unknown>, session.file),
    [preview, probe, session, settings],
  );
  const placeOf = (key: string): CardPlace =>
    hand?.type === 'card' && hand.name === key ? hand.at : (places.get(key) ?? { x: 0, y: 0 });
  const fault = (text: string): void => editor.say(text);
  const edit = (name: string, changes: GraphChange[], merge?: string): boolean => {
    try {
      session.edit(name, changes, merge);
      editor.say(name);
      return true;
    } catch (error) {
      fault((error as Error).message);
      return false;
    }
  };
  /** A place of the screen, in the graph. */
  const inGraph = (event: { clientX: number; clientY: number }): CardPlace => {
    const { left, top } = board.current!.getBoundingClientRect(); // it is drawn
    return {
      x: (event.clientX - left - look.x) / look.scale,
      y: (event.clientY - top - look.y) / look.scale,
    };
  };
  const fit = (): void => {
    const all = cards.map((card) => ({ ...placeOf(keyOf(card)), height: heightOf(card) }));
    if (all.length === 0 || !board.current) return;
    const [left, top] = [Math.min(...all.map(({ x }) => x)), Math.min(...all.map(({ y }) => y))];
    const right = Math.max(...all.map(({ x }) => x + CARD.width));
    const foot = Math.max(...all.map(({ height, y }) => y + height));
    const { clientHeight, clientWidth } = board.current;
    const scale = Math.min(1, (clientWidth - 40) / (right - left), (clientHeight - 40) / (foot - top));
    setLook({ scale, x: 20 - left * scale, y: 20 - top * scale });
  };
  useEffect(fit, [session, shows, fitted]);
  const tidy = (): void => {
    const flow = byFlow(cards);
    const changes = cards
      .filter(({ isHook }) => !isHook)
      .map((card): GraphChange => {
        const { x, y } = flow.get(keyOf(card))!; // of these cards
        return { type: 'set', at: ['layout', card.name], value: [x, y] };
      });
    // Once it stands there.
    if (edit('tidy the graph', changes)) setFitted((n) => n + 1);
  };
  const remove = (): void => {
    const all = [...session.chosen].map((node): GraphChange => ({ type: 'remove', node }));
    if (all.length > 0)
      edit(all.length === 1 ? `delete ${[...session.chosen][0]!}` : `delete ${all.length} nodes`, all); // one
  };
  const mute = (): void => {
    const changes = [...session.chosen].map((name): GraphChange => {
      const isMuted = graph.nodes?.[name]?.muted ?? false;
      return { type: 'set', at: ['nodes', name, 'muted'], value: isMuted ? undefined : true };
    });
    if (changes.length > 0) edit('mute', changes);
  };
  const add = ({ call, place }: Offer): void => {
    const { from, x, y } = adding!; // the box is open
    setAdding(undefined);
    const name = session.freeName(/^\w/.test(call) ? call : 'value');
    const inputs: GraphInput[] = Array.from({ length: place + 1 }, (_, i) =>
      from !== undefined && i === place ? `@${from}` : null,
    );
    const at = { x: Math.round((x - look.x) / look.scale), y: Math.round((y - look.y) / look.scale) };
    const made = edit(`add ${name}`, [
      { type: 'set', at: ['nodes', name], value: { call, in: from === undefined ? [] : inputs } },
      { type: 'set', at: ['layout', name], value: [at.x, at.y] },
    ]);
    if (!made) return;
    session.choose([name]);
    requestAnimationFrame(() =>
      board.current?.querySelector<HTMLElement>(`[data-card="${CSS.escape(name)}"]`)?.focus(),
    );
  };
  const drop = (event: PointerEvent): void => {
    setHand(undefined);
    if (hand?.type === 'card') {
      const { at, from, name } = hand;
      if (Math.hypot(at.x - from.x, at.y - from.y) > 2)
        edit(`move ${name}`, [
          { type: 'set', at: ['layout', name], value: [Math.round(at.x), Math.round(at.y)] },
        ]);
      return;
    }
    if (hand?.type !== 'link') return;
    const root = board.current!.getRootNode() as ShadowRoot; // it is drawn
    const over = root.elementFromPoint(event.clientX, event.clientY)?.closest<HTMLElement>('[data-input]');
    if (over) {
      const at = JSON.parse(over.dataset['input']!) as (string | number)[]; // it has one
      edit(`link ${hand.from}`, [{ type: 'set', at, value: `@${hand.from}` }]);
      return;
    }
    const { left, top } = board.current!.getBoundingClientRect(); // as above
    setAdding({ x: event.clientX - left, y: event.clientY - top, from: hand.from });
  };
  // Cards that are not drawn anew hold what they were given first.
  const grab = useRef<(card: Card, event: PointerEvent) => void>(() => undefined);
  const pull = useRef<(card: Card, event: PointerEvent) => void>(() => undefined);
  grab.current = (card, event) => {
    if (card.isHook) return;
    const target = event.target as Element;
    if (target.classList.contains('card-picture')) {
      const { height, left, top, width } = target.getBoundingClientRect();
      setProbe({
        x: ((event.clientX - left) / width) * 2 - 1,
        y: ((event.clientY - top) / height) * 2 - 1,
      });
    }
    session.choose([card.name], event.shiftKey);
    board.current!.setPointerCapture(event.pointerId); // it is drawn
    const from = placeOf(card.name);
    setHand({ type: 'card', name: card.name, ...inGraph(event), from, at: from });
  };
  pull.current = (card, event) => {
    event.stopPropagation();
    board.current!.setPointerCapture(event.pointerId); // as above
    setHand({ type: 'link', from: card.name, ...inGraph(event) });
  };
  const undo = (isBack: boolean): void => {
    const name = isBack ? session.undoes : session.redoes;
    const made = isBack ? session.undo() : session.redo();
    editor.say(
      made
        ? `${isBack ? 'taken back' : 'made again'}: ${name}`
        : `nothing to ${isBack ? 'take back' : 'make again'}`,
    );
  };
  const keys = (event: KeyboardEvent): void => {
    const isMod = event.ctrlKey || event.metaKey;
    if (isMod && event.key.toLowerCase() === 'z') undo(!event.shiftKey);
    else if (isMod && event.key.toLowerCase() === 's') onSave();
    else if (isMod) return;
    else if (event.key === 'Delete' || event.key === 'Backspace') remove();
    else if (event.key === 'm') mute();
    else if (event.key === 'a') setAdding({ x: 60, y: 40 });
    else if (event.key === 'f') fit();
    else if (event.key === 'Escape') session.choose([]);
    else return;
    event.preventDefault();
    event.stopPropagation();
  };
  return (
    <section class="panel graph" aria-label="graph" onKeyDown={keys}>
      <div class="graph-head" role="toolbar" aria-label="graph tools">
        <b title={session.file}>{session.file.split('/').at(-1)}</b>
        <button type="button" onClick={() => setAdding({ x: 60, y: 40 })} title="adds a node (A)">
          <Icon name="add" /> node
        </button>
        <button
          type="button"
          aria-label="undo in the graph"
          disabled={!session.undoes}
          onClick={() => undo(true)}
          title={session.undoes ? `takes back: ${session.undoes}` : 'nothing to take back'}
        >
          <Icon name="undo" />
        </button>
        <button
          type="button"
          aria-label="redo in the graph"
          disabled={!session.redoes}
          onClick={() => undo(false)}
          title={session.redoes ? `makes again: ${session.redoes}` : 'nothing to make again'}
        >
          <Icon name="redo" />
        </button>
        <button type="button" onClick={tidy} title="lays the nodes out by the flow">
          tidy
        </button>
        <button type="button" onClick={fit} title="shows all of it (F)">
          fit
        </button>
        <select
          aria-label="pictures on"
          title="what pictures of nodes are on"
          value={shape}
          onChange={(event) => setShape((pictures.shape = event.currentTarget.value as PictureShape))}
        >
          {PICTURE_SHAPES.map((shape) => (
            <option key={shape} value={shape}>
              {shape}
            </option>
          ))}
        </select>
        <button
          type="button"
          aria-pressed={shows === 'wgsl'}
          onClick={() => setShows(shows === 'wgsl' ? 'nodes' : 'wgsl')}
          title="the WGSL that it becomes"
        >
          WGSL
        </button>
        <span class="grow" />
        <button
          type="button"
          class={session.isUnsaved ? 'main' : ''}
          disabled={!session.isUnsaved}
          onClick={onSave}
          title="writes the graph's file"
        >
          save graph
        </button>
        <button type="button" aria-label="close the graph" onClick={onClose}>
          <Icon name="close" />
        </button>
      </div>
      {shows === 'wgsl' ? (
        <WgslView session={session} />
      ) : (
        <div
          ref={board}
          class="board"
          role="group"
          aria-label="nodes of the graph"
          tabIndex={0}
          onWheel={(event) => {
            event.preventDefault();
            const { left, top } = event.currentTarget.getBoundingClientRect();
            const [x, y] = [event.clientX - left, event.clientY - top];
            const scale = Math.min(1.6, Math.max(0.15, look.scale * Math.exp(-event.deltaY * 0.0012)));
            const by = scale / look.scale;
            setLook({ scale, x: x - (x - look.x) * by, y: y - (y - look.y) * by });
          }}
          onPointerDown={(event) => {
            setAdding(undefined);
            if (
              event.target !== event.currentTarget &&
              !(event.target as Element).classList.contains('links')
            )
              return;
            event.currentTarget.setPointerCapture(event.pointerId);
            session.choose([]);
            setHand({ type: 'pan', x: event.clientX, y: event.clientY });
          }}
          onPointerMove={(event) => {
            if (!hand) return;
            if (hand.type === 'pan') {
              setLook({ ...look, x: look.x + event.clientX - hand.x, y: look.y + event.clientY - hand.y });
              setHand({ ...hand, x: event.clientX, y: event.clientY });
            } else if (hand.type === 'card') {
              const { x, y } = inGraph(event);
              setHand({ ...hand, at: { x: hand.from.x + x - hand.x, y: hand.from.y + y - hand.y } });
            } else setHand({ ...hand, ...inGraph(event) });
          }}
          onScroll={(event) => {
            // A card that has the focus is brought into sight: the look goes there, and nothing scrolls.
            const { scrollLeft, scrollTop } = event.currentTarget;
            if (scrollLeft === 0 && scrollTop === 0) return;
            event.currentTarget.scrollTo(0, 0);
            setLook({ ...look, x: look.x - scrollLeft, y: look.y - scrollTop });
          }}
          onPointerUp={drop}
          onPointerCancel={() => setHand(undefined)}
        >
          <div
            class="world"
            style={{ transform: `translate(${look.x}px, ${look.y}px) scale(${look.scale})` }}
          >
            <svg class="links" width="1" height="1" aria-hidden="true">
              {cards.flatMap((card) =>
                card.inputs.flatMap(({ from, path }, i) =>
                  from.map((name) => (
                    <path
                      key={`${name} ${path.join('/')}`}
                      class={
                        session.chosen.has(name) || (!card.isHook && session.chosen.has(card.name))
                          ? 'near'
                          : ''
                      }
                      d={curve(outOf(placeOf(name)), into(placeOf(keyOf(card)), i))}
                    />
                  )),
                ),
              )}
              {hand?.type === 'link' && <path class="near" d={curve(outOf(placeOf(hand.from)), hand)} />}
            </svg>
            {Object.entries(graph.frames ?? {}).map(([name, { nodes }]) => (
              <Frame key={name} name={name} nodes={nodes} cards={cards} placeOf={placeOf} />
            ))}
            {cards.map((card) => (
              <CardSlot
                key={keyOf(card)}
                isChosen={!card.isHook && session.chosen.has(card.name)}
                card={card}
                place={placeOf(keyOf(card))}
                session={session}
                picture={card.isHook ? undefined : pictures.pictures.get(card.name)}
                value={card.isHook ? '' : (values.get(card.name) ?? '')}
                onFault={fault}
                onGrab={(event) => grab.current(card, event)}
                onPull={(event) => pull.current(card, event)}
              />
            ))}
          </div>
          {adding && (
            <AddBox
              graph={graph}
              type={adding.from === undefined ? undefined : compiled.types.get(adding.from)}
              at={adding}
              onTake={add}
              onClose={() => setAdding(undefined)}
            />
          )}
        </div>
      )}
      <footer>
        {findings.length === 0 ? (
          <span>
            Nothing is wrong. {drawn > 0 ? 'Values are those under the probe: click on a picture.' : ''}
          </span>
        ) : (
          <ul aria-label="findings">
            {byGravity(findings).map(({ hint, message, node, severity }, i) => (
              <li key={i} class={severity}>
                <button
                  type="button"
                  class="plain"
                  disabled={node === undefined}
                  onClick={() => node !== undefined && session.choose([node])}
                >
                  {severity}
                </button>
                {message}
                {hint && <small>{hint}</small>}
              </li>
            ))}
          </ul>
        )}
        {isWrong && <p class="note">The last picture that was right stays until this is right again.</p>}
      </footer>
    </section>
  );
}

/** What is wrong before what is seldom meant. */
const byGravity = (findings: readonly GraphFinding[]): GraphFinding[] =>
  [...findings].sort((a, b) => Number(b.severity === 'error') - Number(a.severity === 'error')).slice(0, 40);

const outOf = ({ x, y }: CardPlace): CardPlace => ({ x: x + CARD.width, y: y + 22 });
const into = ({ x, y }: CardPlace, i: number): CardPlace => ({ x, y: y + CARD.head + (i + 0.5) * CARD.row });

function curve(from: CardPlace, to: CardPlace): string {
  const bend = Math.max(30, Math.abs(to.x - from.x) * 0.5);
  return `M${from.x} ${from.y}C${from.x + bend} ${from.y} ${to.x - bend} ${to.y} ${to.x} ${to.y}`;
}

interface FrameProps {
  name: string;
  nodes: readonly string[];
  cards: ReturnType<typeof cardsOf>;
  placeOf(key: string): CardPlace;
}

/** A frame about some nodes, behind them. */
function Frame({ cards, name, nodes, placeOf }: FrameProps): JSX.Element | null {
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

/** The WGSL that a graph becomes; the lines of what is chosen stand out. */
function WgslView({ session }: { session: GraphSession }): JSX.Element {
  const { compiled } = session;
  return (
    <pre class="graph-wgsl" aria-label="WGSL" tabIndex={0}>
      {compiled.wgsl.split('\n').map((line, i) => {
        const node = compiled.lines[i]?.node;
        return (
          <span
            key={i}
            class={node !== undefined && session.chosen.has(node) ? 'new' : ''}
            onClick={() => node !== undefined && session.choose([node])}
          >
            {`${line}\n`}
          </span>
        );
      })}
    </pre>
  );
}
