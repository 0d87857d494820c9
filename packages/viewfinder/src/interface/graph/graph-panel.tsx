import type { GraphChange } from '@umber-lens/core/graphs';
import type { JSX } from 'preact';
import { useEffect, useMemo, useRef, useState } from 'preact/hooks';
import type { Lens } from 'umber-lens';
import type { Editor } from '../../logic/editor.js';
import { BoardLook } from '../../logic/graph/board-look.js';
import {
  addTaken,
  functionCalledBy,
  onBoard,
  removeTaken,
  renameTaken,
} from '../../logic/graph/board-graph.js';
import { cardsOf } from '../../logic/graph/graph-cards.js';
import { copyNodes, pasteNodes } from '../../logic/graph/graph-clipboard.js';
import {
  alignCards,
  bypassNodes,
  called,
  frameNodes,
  type GraphCommand,
  inputAt,
  muteNodes,
  removeNodes,
  replaceCall,
} from '../../logic/graph/graph-commands.js';
import { type ExportKind, exportGraph } from '../../logic/graph/graph-exports.js';
import { byFlow, type CardPlace, keyOf, placesOf } from '../../logic/graph/graph-layout.js';
import type { Offer } from '../../logic/graph/graph-offers.js';
import { inputsWith } from '../../logic/graph/inputs-with.js';
import type { GraphSession } from '../../logic/graph/graph-session.js';
import type { Shaded } from '../../logic/graph/shaded.js';
import { wrapNodes } from '../../logic/graph/graph-wrap.js';
import { type GraphLook, keysWithin, sightOf } from '../../logic/graph/sight.js';
import type { Stage } from '../../stage/stage.js';
import { copyText, download } from '../outlets.js';
import { AddBox } from './add-box.js';
import { type Adding, GraphBoard } from './graph-board.js';
import { FunctionBar } from './function-bar.js';
import { GraphDetails } from './graph-details.js';
import { GraphFoot } from './graph-foot.js';
import { useCosts, usePreview, useProbe } from './graph-hooks.js';
import { usePictureLight, usePictures } from './picture-hooks.js';
import { GraphHead, type GraphView } from './graph-head.js';
import { GraphList } from './graph-list.js';
import { isFarOff, lookAtAll } from './graph-look.js';
import { WgslView } from './wgsl-view.js';

interface GraphPanelProps {
  editor: Editor;
  lens: Lens;
  stage: Stage;
  session: GraphSession;
  shaded: Shaded;
  onSave(): void;
  onClose(): void;
}

const NOTHING = { width: 0, height: 0 };
/** How far arrows move cards, and with shift. */
const STEP = 10;
const LEAP = 50;

/** So many pictures give a look at the whole from far off. */
const ENOUGH = 100;

/** A graph as cards with links between them, live: what is changed is seen in the picture at once. */
export function GraphPanel({
  editor,
  lens,
  onClose,
  onSave,
  session,
  shaded,
  stage,
}: GraphPanelProps): JSX.Element {
  const [, redraw] = useState(0);
  const looked = useMemo(() => new BoardLook({ x: 16, y: 12, scale: 0.8 }), []);
  const [adding, setAdding] = useState<Adding | undefined>(undefined);
  const [view, setView] = useState<GraphView>('nodes');
  const [fitted, setFitted] = useState(0);
  const board = useRef<HTMLDivElement>(null);
  const copied = useRef('');
  /** How all of it is seen, as long as nobody looked elsewhere. */
  const wholeLook = useRef<GraphLook | undefined>(undefined);
  const panel = useRef<HTMLElement>(null);
  // Keys go on where they went before it was opened, or to the picture.
  useEffect(() => {
    const root = panel.current?.getRootNode() as ShadowRoot | undefined;
    const before = root?.activeElement as HTMLElement | null | undefined;
    return () => {
      before?.focus({ preventScroll: true });
      // It may be drawn anew, too.
      requestAnimationFrame(() => {
        if (document.activeElement === document.body)
          root?.querySelector<HTMLElement>('.glass')?.focus({ preventScroll: true });
      });
    };
  }, []);
  useEffect(() => () => void (stage.heldTime = undefined), [stage]);
  useEffect(() => session.onChange(() => redraw((n) => n + 1)), [session]);
  const { board: graph, compiled, opened, types } = session;
  const costs = useCosts(session);
  const preview = usePreview(session);
  const light = usePictureLight();
  const inSight = useRef<() => ReadonlySet<string>>(() => new Set());
  const { pictures, setShape, shape, takeModel } = usePictures({
    ...{ editor, inSight, lens, light: light.from, looked, preview, session, shaded },
  });
  const { hooks, nodes } = graph;
  const cards = useMemo(() => cardsOf(graph, types), [nodes, hooks, opened, compiled]);
  const places = useMemo(() => placesOf(graph, cards), [graph, cards]);
  const { isProbing, probed, putOnPictures, setProbing } = useProbe({
    ...{ editor, lens, light: light.from, pictures, preview, session, shaded, shape, stage },
  });
  const values = probed.words;
  inSight.current = () => {
    const sight = sightOf(looked.now, board.current?.getBoundingClientRect() ?? NOTHING);
    const near = keysWithin(
      cards.filter(({ isHook }) => !isHook),
      places,
      sight,
    );
    const names = opened === undefined ? near : near.map((name) => `${opened}/${name}`);
    // From far off little is seen of pictures: those that there are do.
    const pictured = names.filter((name) => pictures.seen.has(name)).length;
    if (isFarOff(looked.now) && pictured >= Math.min(names.length, ENOUGH)) return pictures.seen;
    return new Set(names);
  };
  const placeOf = (key: string): CardPlace => places.get(key) ?? { x: 0, y: 0 };
  const fault = (said: string): void => editor.say(said);
  /** Does something, says what was done, or why it cannot be done. */
  const attempt = (said: string, act: () => void): boolean => {
    try {
      act();
      editor.say(said);
      return true;
    } catch (error) {
      fault((error as Error).message);
      return false;
    }
  };
  const edit = (name: string, changes: GraphChange[], merge?: string): boolean =>
    attempt(name, () => session.editBoard(name, changes, merge));
  /** Makes what a command says, or tells why it cannot be made. */
  const run = (command: () => GraphCommand): void => {
    try {
      const { changes, choose, name } = command();
      if (edit(name, changes) && choose) session.choose(choose);
    } catch (error) {
      fault((error as Error).message);
    }
  };
  const chosen = (): string[] => [...session.chosen].filter((name) => name in (session.board.nodes ?? {}));
  /** The same of what is chosen, where something is. */
  const runOn = (command: (names: string[]) => GraphCommand): void => {
    if (chosen().length > 0) run(() => command(chosen()));
  };
  const fit = (): void => {
    const { clientHeight = 0, clientWidth = 0 } = board.current ?? {};
    const all = clientWidth > 0 ? lookAtAll(cards, placeOf, clientWidth, clientHeight) : undefined;
    wholeLook.current = all;
    if (all) looked.now = all;
  };
  useEffect(fit, [session, view, fitted, opened]);
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
  const focusCard = (name: string): void =>
    void requestAnimationFrame(() =>
      board.current?.querySelector<HTMLElement>(`[data-card="${CSS.escape(name)}"]`)?.focus(),
    );
  const take = ({ call, place }: Offer): void => {
    const { from, into, replaces, x, y } = adding!; // the box is open
    const look = looked.now;
    setAdding(undefined);
    if (replaces !== undefined) {
      run(() => replaceCall(graph, replaces, call));
      return;
    }
    const name = session.freeName(/^\w/.test(call) ? call : 'value');
    const before = into ? inputAt(graph, into) : from === undefined ? undefined : `@${from}`;
    const at = [Math.round((x - look.x) / look.scale), Math.round((y - look.y) / look.scale)];
    run(() => ({
      name: `add ${name}`,
      changes: [
        {
          type: 'set',
          at: ['nodes', name],
          value: { call, in: before === undefined ? [] : inputsWith([], place, before) },
        },
        ...(into ? [{ type: 'set', at: into, value: `@${name}` } as const] : []),
        { type: 'set', at: ['layout', name], value: at },
      ],
      choose: [name],
    }));
    focusCard(name);
  };
  const copy = (): string => (copied.current = copyNodes(graph, chosen()));
  const copiedWords = (): string => `${called(chosen())} copied`;
  const paste = (given: string): void => {
    const { clientHeight = 0, clientWidth = 0 } = board.current ?? {};
    const look = looked.now;
    const at = { x: (clientWidth / 3 - look.x) / look.scale, y: (clientHeight / 3 - look.y) / look.scale };
    run(() => pasteNodes(graph, given || copied.current, at, types));
  };
  const move = (dx: number, dy: number): void => {
    const all = [...session.chosen];
    const changes = all.map((name): GraphChange => {
      const { x, y } = placeOf(name);
      return { type: 'set', at: ['layout', name], value: [Math.round(x + dx), Math.round(y + dy)] };
    });
    edit(`move ${called(all)}`, changes, `move ${all.join(' ')}`);
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
  const exportAs = (kind: ExportKind, isFile: boolean): void => {
    exportGraph(session, kind, shaded.settings)
      .then(async ({ file, text: written }) => {
        if (!isFile) return copyText(editor, written, `${file} is copied`);
        download(new Blob([written], { type: 'text/plain' }), file);
        editor.say(`${file} was written`);
      })
      .catch((error: Error) => fault(error.message));
  };
  const remove = (): void => {
    const taken = [...session.chosen].find((name) => graph.takes?.[name] !== undefined);
    if (taken === undefined || opened === undefined) return runOn(removeNodes);
    const said = `${opened} takes no ${taken}`;
    attempt(said, () => session.edit(said, removeTaken(session.graph, opened, taken)));
  };
  const onNames: Readonly<Record<string, () => void>> = {
    m: () => runOn((names) => muteNodes(graph, names)),
    b: () => runOn((names) => bypassNodes(graph, names, session)),
    w: () => runOn((names) => wrapNodes(graph, names, 'own', session)),
    Delete: remove,
    Backspace: remove,
    a: () => setAdding({ x: 60, y: 40 }),
    f: fit,
    o: () => {
      const called = functionCalledBy(graph, chosen()[0]);
      if (called !== undefined) session.open(called);
    },
    Escape: () => (session.chosen.size > 0 ? session.choose([]) : session.open(undefined)),
  };
  const keys = (event: KeyboardEvent): void => {
    const isMod = event.ctrlKey || event.metaKey;
    const key = event.key.length === 1 ? event.key.toLowerCase() : event.key;
    const by = event.shiftKey ? LEAP : STEP;
    const way = { ArrowLeft: [-by, 0], ArrowRight: [by, 0], ArrowUp: [0, -by], ArrowDown: [0, by] }[key];
    if (isMod && key === 'z') undo(!event.shiftKey);
    else if (isMod && key === 's') onSave();
    else if (isMod && key === 'a') session.choose(Object.keys({ ...graph.takes, ...graph.nodes }));
    else if (isMod) {
      // Copying and pasting are events of their own.
      if (key === 'c' || key === 'v') event.stopPropagation();
      return;
    } else if ((event.target as Element).matches('select')) return;
    else if (onNames[key]) onNames[key]();
    else if (way && session.chosen.size > 0 && (event.target as Element).closest('.board'))
      move(way[0]!, way[1]!); // two
    else return;
    event.preventDefault();
    event.stopPropagation();
  };
  const isField = (event: Event): boolean =>
    (event.composedPath()[0] as Element).matches('input, textarea, select');
  const isNodes = view === 'nodes';
  return (
    <section
      ref={panel}
      class="panel graph"
      aria-label="graph"
      onKeyDown={keys}
      onCopy={(event) => {
        if (isField(event) || session.chosen.size === 0 || !isNodes) return;
        event.preventDefault();
        event.clipboardData?.setData('text/plain', copy());
        editor.say(copiedWords());
      }}
      onDragOver={(event) => event.preventDefault()}
      onDrop={(event) => {
        event.preventDefault();
        const [file] = event.dataTransfer?.files ?? [];
        if (file) takeModel(file);
      }}
      onPaste={(event) => {
        if (isField(event)) return;
        event.preventDefault();
        paste(event.clipboardData?.getData('text/plain') ?? '');
      }}
    >
      <GraphHead
        session={session}
        view={view}
        shape={shape}
        light={light.light}
        heldTime={stage.heldTime}
        isProbing={isProbing}
        onProbing={setProbing}
        onAdd={() => setAdding({ x: 60, y: 40 })}
        onUndo={undo}
        onTidy={tidy}
        onFit={fit}
        onView={setView}
        onShape={setShape}
        onModel={takeModel}
        onLight={light.setLight}
        height={light.height}
        onHeight={light.setHeight}
        onTime={(held) => {
          stage.heldTime = held;
          stage.touch();
          redraw((n) => n + 1);
        }}
        onExport={exportAs}
        onSave={onSave}
        onClose={onClose}
      />
      {view === 'WGSL' && <WgslView session={session} />}
      {view === 'list' && <GraphList cards={cards} session={session} values={values} onFault={fault} />}
      {opened !== undefined && view !== 'WGSL' && (
        <FunctionBar
          name={opened}
          takes={graph.takes ?? {}}
          onLeave={() => session.open(undefined)}
          onRename={(name) => attempt(`the function is called ${name}`, () => session.renameOpened(name))}
          onTake={(name, type) => {
            const said = `${opened} takes ${name}`;
            attempt(said, () => session.edit(said, addTaken(session.graph, opened, name, type)));
          }}
        />
      )}
      {isNodes && (
        <GraphBoard
          board={board}
          session={session}
          cards={cards}
          places={places}
          pictures={onBoard(pictures.pictures, opened)}
          values={values}
          looked={looked}
          onSize={() => {
            if (looked.now === wholeLook.current) fit();
          }}
          onEdit={edit}
          onCommand={run}
          onAdding={setAdding}
          onProbe={putOnPictures}
          onLight={light.turn}
          onFault={fault}
        >
          {adding && (
            <AddBox
              graph={graph}
              type={adding.from === undefined ? undefined : types.get(adding.from)}
              at={adding}
              onTake={take}
              onClose={() => setAdding(undefined)}
            />
          )}
        </GraphBoard>
      )}
      <GraphDetails
        session={session}
        cost={
          session.chosen.size === 1 && costs
            ? onBoard(costs.nodes, opened).get([...session.chosen][0]!)
            : undefined
        }
        onRename={(name) => {
          const [node] = session.chosen;
          run(() => ({
            name: `call ${node!} ${name}`, // one is chosen
            changes:
              opened !== undefined && graph.takes?.[node!] !== undefined
                ? renameTaken(graph, opened, node!, name)
                : [{ type: 'rename', node: node!, name }],
            choose: [name],
          }));
        }}
        onNote={(note) => {
          const [node] = chosen();
          const value = note === '' ? {} : { value: note };
          run(() => ({
            name: `note of ${node!}`, // as above
            changes: [{ type: 'set', at: ['nodes', node!, 'note'], ...value }],
          }));
        }}
        onReplace={() => {
          setView('nodes');
          const [replaces] = chosen();
          setAdding({ x: 60, y: 40, replaces: replaces! }); // as above
        }}
        onOpen={(name) => session.open(name)}
        onMute={onNames['m']!} // it has them
        onBypass={onNames['b']!}
        onWrap={onNames['w']!}
        onFrame={() => runOn((names) => frameNodes(graph, names, called(names)))}
        onAlign={(how) =>
          runOn(() =>
            alignCards(
              cards.filter(({ isHook, name }) => !isHook && session.chosen.has(name)),
              how,
              (card) => placeOf(keyOf(card)),
            ),
          )
        }
        onCopy={() => void copyText(editor, copy(), copiedWords())}
        onPaste={() =>
          void navigator.clipboard.readText().then(
            paste,
            () => paste(''), // the browser does not let the page read it
          )
        }
        onRemove={onNames['Delete']!}
      />
      <GraphFoot session={session} costs={costs} hasPictures={pictures.pictures.size > 0} probed={probed} />
    </section>
  );
}
