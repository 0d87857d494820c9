import { LensError } from '@umber-lens/core/engine';
import type { JSX } from 'preact';
import { useEffect, useLayoutEffect, useRef, useState } from 'preact/hooks';
import { isOpenable } from '../../logic/graph/board-graph.js';
import type { GraphSession } from '../../logic/graph/graph-session.js';
import { changesOfWgsl } from '../../logic/graph/wgsl-changes.js';
import { type LineFault, WgslEditor } from './wgsl-editor.js';

/** What one edit of typed text is called. */
const TYPED = 'typed WGSL';
/** How long nothing is typed before it counts, milliseconds. */
const REST = 350;

/** The WGSL that a graph becomes: lines and nodes show each other, and what is typed changes the graph. */
export function WgslView({ session }: { session: GraphSession }): JSX.Element {
  const [isTyping, setTyping] = useState(false);
  const [fault, setFault] = useState('');
  const field = useRef<HTMLDivElement>(null);
  const editor = useRef<WgslEditor | undefined>(undefined);
  const timer = useRef(0);
  const { chosen, compiled, opened } = session;

  const take = (): void => {
    timer.current = 0;
    // What the graph would not take was no step.
    if (session.undoes === TYPED && session.isWrong) session.undo();
    try {
      const { compiled: now, file, graph, sources } = session;
      const changes = changesOfWgsl(graph, now, editor.current!.text, { file, sources }); // it is typed in
      if (changes.length > 0) session.edit(TYPED, changes, TYPED);
      setFault('');
      editor.current!.tell([]); // as above
    } catch (error) {
      setFault((error as Error).message);
      editor.current!.tell(faultsIn(error)); // as above
    }
  };
  useLayoutEffect(() => {
    const made = new WgslEditor(field.current!, {
      // It is drawn.
      text: session.compiled.wgsl,
      onType: () => {
        clearTimeout(timer.current);
        timer.current = window.setTimeout(take, REST);
      },
      onLine: (line) => {
        const { function: of, node } = session.compiled.lines[line] ?? {};
        if (node === undefined) return;
        if (of === undefined || isOpenable(session.graph, of)) session.open(of);
        session.choose([node]);
      },
    });
    editor.current = made;
    return () => {
      if (timer.current) {
        clearTimeout(timer.current);
        take();
      }
      made.dispose();
    };
  }, [session]);
  useEffect(() => {
    editor.current?.allowTyping(isTyping);
    if (isTyping) return;
    if (timer.current) {
      clearTimeout(timer.current);
      take();
    }
    setFault('');
    editor.current?.tell([]);
  }, [isTyping]);
  const lines = compiled.lines.flatMap((spot, i) =>
    spot?.node !== undefined && spot.function === opened && chosen.has(spot.node) ? [i] : [],
  );
  useEffect(() => {
    // While it is typed the text is the author's.
    if (isTyping) return;
    editor.current?.show(compiled.wgsl);
    editor.current?.mark(lines);
  }, [compiled, isTyping, lines.join()]);
  return (
    <div
      class="graph-text"
      onKeyDown={(event) => {
        const isSave = (event.ctrlKey || event.metaKey) && event.key.toLowerCase() === 's';
        if (isTyping && !isSave) event.stopPropagation();
      }}
    >
      <div class="graph-text-head">
        <button
          type="button"
          aria-pressed={isTyping}
          onClick={() => setTyping(!isTyping)}
          title="what is typed changes the graph"
        >
          {isTyping ? 'done' : 'type'}
        </button>
        <span>
          {isTyping
            ? 'Nodes follow what is typed: a let is a node. Escape, then Tab, leaves the field.'
            : 'A line shows its node. Nodes stay as they are where their lines do.'}
        </span>
      </div>
      <div ref={field} class="graph-field" />
      {fault && (
        <pre class="graph-fault" role="alert">
          {fault}
        </pre>
      )}
    </div>
  );
}

/** What of an error has a line in the text. */
function faultsIn(error: unknown): LineFault[] {
  const all = error instanceof LensError && Array.isArray(error.cause) ? (error.cause as unknown[]) : [error];
  return all.flatMap((one): LineFault[] => {
    const { line } = (one instanceof LensError && one.where) || {};
    if (line === undefined) return [];
    return [{ line: line - 1, message: (one as LensError).summary, severity: 'error' }];
  });
}
