import type { Budget } from '@umber-lens/core/engine';
import { type JSX, render } from 'preact';
import { useEffect, useMemo, useRef, useState } from 'preact/hooks';
import { tinykeys } from 'tinykeys';
import type { Lens } from 'umber-lens';
import 'vanilla-colorful/hex-color-picker.js';
import { commandsOf } from '../logic/commands.js';
import type { Editor } from '../logic/editor.js';
import { factsOf } from '../logic/facts/facts.js';
import type { SaveClient } from '../logic/saving/save-client.js';
import { insetOf, type Stage } from '../stage/stage.js';
import { SaveDialog, Shortcuts } from './dialogs.js';
import { type Imports, ImportsContext } from './imports.js';
import { FrameList } from './frame-list.js';
import { GraphEditor } from './graph/graph-editor.js';
import { MessageList } from './message-list.js';
import { LightBallView } from './light-ball-view.js';
import { MotionView } from './motion-view.js';
import { PartView } from './part-view.js';
import { Toolbar } from './toolbar.js';
import { TreeView } from './tree-view.js';
import { WaysBar } from './ways-bar.js';

/** What the interface shows. */
export interface Shown {
  editor: Editor;
  stage: Stage;
  lens: Lens;
  client: SaveClient;
  imports: Imports;
  adjustments: string;
  budget: Budget;
  side: 'left' | 'right';
  theme: 'dark' | 'light';
  /** What holds glass and signs: they are placed by the stage. */
  root: HTMLElement;
  onClose(): void;
}

/** @returns takes it away */
export function showInterface(into: HTMLElement, shown: Shown): () => void {
  render(<App {...shown} />, into);
  return () => render(null, into);
}

type Opened = 'save' | 'shortcuts' | undefined;

/** How often values of things that move are looked at, milliseconds. */
const LOOK_AGAIN = 250;

function App({
  adjustments,
  budget,
  client,
  editor,
  imports,
  lens,
  onClose,
  root,
  side,
  stage,
  theme: first,
}: Shown): JSX.Element {
  const [, redraw] = useState(0);
  const [opened, setOpened] = useState<Opened>(undefined);
  const [isAdding, setAdding] = useState(false);
  const [lists, setLists] = useState<ReadonlySet<string>>(new Set());
  const [theme, setTheme] = useState(first);
  const [nodesShare, setNodesShare] = useState(40);
  const search = useRef<HTMLInputElement>(null);
  useEffect(() => {
    // At once, so that what is typed next is about what is shown; while a hand drags, once a frame at most.
    let request = 0;
    const again = (): void => {
      request ||= requestAnimationFrame(() => {
        request = 0;
        redraw((n) => n + 1);
      });
    };
    const stop = editor.onChange(() => {
      stage.touch();
      if (stage.input.held) again();
      else redraw((n) => n + 1);
    });
    // What was said before somebody listened.
    redraw((n) => n + 1);
    const timer = setInterval(() => {
      if (editor.selection.size > 0 || lists.size > 0) again();
    }, LOOK_AGAIN);
    return () => {
      stop();
      clearInterval(timer);
      cancelAnimationFrame(request);
    };
  }, [editor, stage, lists.size]);
  const commands = useMemo(
    () =>
      commandsOf(editor, stage, {
        open: (what) => {
          if (what === 'add') setAdding(true);
          else if (what === 'save' || what === 'shortcuts') setOpened(what);
          else
            setLists((before) => {
              const next = new Set(before);
              if (!next.delete(what)) next.add(what);
              return next;
            });
        },
        find: () => search.current?.focus(),
      }),
    [editor, stage],
  );
  useEffect(() => {
    const bindings = commands.flatMap(({ keys, run }) =>
      keys.map(
        (keyed) =>
          [
            keyed,
            (event: KeyboardEvent): void => {
              const [target] = event.composedPath() as [Element];
              const isTyping = target.matches('input[type=text], input[type=search], textarea, select');
              if (isTyping && !keyed.startsWith('$mod')) return;
              if (target.matches('[role=menuitem]')) return;
              event.preventDefault();
              event.stopPropagation();
              run(event);
            },
          ] as const,
      ),
    );
    return tinykeys(root, Object.fromEntries(bindings));
  }, [commands, root]);
  useEffect(() => {
    root.classList.toggle('light', theme === 'light');
  }, [root, theme]);
  const parts = editor.parts();
  const { nodes, primary } = editor.selection;
  const { height, width } = stage.place;
  const inset = stage.showsInset ? insetOf(width, height) : undefined;
  return (
    <ImportsContext.Provider value={imports}>
      {inset && (
        <div
          class="inset"
          style={{
            left: `${inset.x}px`,
            top: `${inset.y}px`,
            width: `${inset.width}px`,
            height: `${inset.height}px`,
          }}
        >
          <span>live</span>
        </div>
      )}
      {stage.showsBall && <LightBallView ball={stage.ball} editor={editor} />}
      <WaysBar
        editor={editor}
        stage={stage}
        onTheme={() => setTheme(theme === 'dark' ? 'light' : 'dark')}
        onClose={onClose}
      />
      <aside class={`panel rail ${side}`} style={{ '--nodes': `${nodesShare}%` }} aria-label="scene">
        <TreeView editor={editor} search={search} />
        <div
          class="split"
          role="separator"
          aria-orientation="horizontal"
          aria-label="share of the nodes"
          aria-valuenow={nodesShare}
          aria-valuemin={15}
          aria-valuemax={80}
          tabIndex={0}
          onKeyDown={(event) => {
            const by = event.key === 'ArrowUp' ? -4 : event.key === 'ArrowDown' ? 4 : 0;
            if (by === 0) return;
            setNodesShare(within(nodesShare + by));
            event.preventDefault();
          }}
          onPointerDown={(event) => event.currentTarget.setPointerCapture(event.pointerId)}
          onPointerMove={(event) => {
            if (!event.currentTarget.hasPointerCapture(event.pointerId)) return;
            const { height: whole, top } = event.currentTarget.parentElement!.getBoundingClientRect(); // the rail
            setNodesShare(within(((event.clientY - top) / whole) * 100));
          }}
        />
        <div class="card" tabIndex={0} role="region" aria-label="properties">
          {nodes.length > 1 && (
            <p class="empty">{nodes.length} nodes: what is typed counts for all of them.</p>
          )}
          {parts.map((part) => (
            <PartView
              key={part.name}
              editor={editor}
              part={part}
              onGraph={(shaded) => editor.showGraph(shaded)}
            />
          ))}
          {nodes.length === 1 && primary && <MotionView editor={editor} stage={stage} node={primary} />}
          {nodes.length === 1 && primary && (
            <fieldset aria-label="facts">
              <legend>
                <span>facts</span>
              </legend>
              <dl>
                {factsOf(primary, stage.camera, Math.max(1, width), Math.max(1, height)).map(
                  ({ isWrong, name, value }) => (
                    <Fact key={name} name={name} value={value} isWrong={isWrong ?? false} />
                  ),
                )}
              </dl>
            </fieldset>
          )}
          {nodes.length === 0 && (
            <p class="empty">Click on something in the picture to see what it is made of.</p>
          )}
        </div>
      </aside>
      {lists.has('messages') && <MessageList editor={editor} />}
      {lists.has('frames') && !lists.has('messages') && (
        <FrameList lens={lens} stage={stage} budget={budget} />
      )}
      {editor.graphOf && (
        <GraphEditor
          client={client}
          editor={editor}
          lens={lens}
          stage={stage}
          shaded={editor.graphOf}
          onClose={() => editor.showGraph(undefined)}
        />
      )}
      <p class="status" role="status">
        {editor.status}
      </p>
      <Toolbar
        editor={editor}
        stage={stage}
        commands={commands}
        isAdding={isAdding}
        onAdd={setAdding}
        shownLists={lists}
      />
      {opened === 'shortcuts' && <Shortcuts commands={commands} onClose={() => setOpened(undefined)} />}
      {opened === 'save' && (
        <SaveDialog
          editor={editor}
          lens={lens}
          client={client}
          adjustments={adjustments}
          onClose={() => setOpened(undefined)}
        />
      )}
    </ImportsContext.Provider>
  );
}

function Fact({ isWrong, name, value }: { isWrong: boolean; name: string; value: string }): JSX.Element {
  return (
    <>
      <dt>{name}</dt>
      <dd class={isWrong ? 'wrong' : ''}>{value}</dd>
    </>
  );
}

const within = (share: number): number => Math.min(80, Math.max(15, share));
