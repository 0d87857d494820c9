import type { JSX } from 'preact';
import { useEffect, useRef, useState } from 'preact/hooks';
import { openable } from '../../logic/graph/board-graph.js';
import type { GraphSession } from '../../logic/graph/graph-session.js';
import { changesOfWgsl } from '../../logic/graph/wgsl-changes.js';

/** What one edit of typed text is called. */
const TYPED = 'typed WGSL';
/** How long nothing is typed before it counts, milliseconds. */
const REST = 350;

/** The WGSL that a graph becomes: lines and nodes show each other, and what is typed changes the graph. */
export function WgslView({ session }: { session: GraphSession }): JSX.Element {
  const [isTyping, setTyping] = useState(false);
  return (
    <div class="graph-text">
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
            ? 'Nodes follow what is typed: a let is a node.'
            : 'A line shows its node. Nodes stay as they are where their lines do.'}
        </span>
      </div>
      {isTyping ? <TypedWgsl session={session} /> : <ReadWgsl session={session} />}
    </div>
  );
}

function ReadWgsl({ session }: { session: GraphSession }): JSX.Element {
  const { compiled } = session;
  return (
    <pre class="graph-wgsl" aria-label="WGSL" tabIndex={0}>
      {compiled.wgsl.split('\n').map((line, i) => {
        const { function: of, node } = compiled.lines[i] ?? {};
        return (
          <span
            key={i}
            class={node !== undefined && of === session.opened && session.chosen.has(node) ? 'new' : ''}
            onClick={() => {
              if (node === undefined) return;
              if (of === undefined || openable(session.graph).includes(of)) session.open(of);
              session.choose([node]);
            }}
          >
            {`${line}\n`}
          </span>
        );
      })}
    </pre>
  );
}

function TypedWgsl({ session }: { session: GraphSession }): JSX.Element {
  const [text, setText] = useState(session.compiled.wgsl);
  const [fault, setFault] = useState('');
  const timer = useRef(0);
  const latest = useRef(text);
  latest.current = text;
  const take = (): void => {
    // What the graph would not take was no step.
    if (session.undoes === TYPED && session.isWrong) session.undo();
    try {
      const { compiled, file, graph, sources } = session;
      const changes = changesOfWgsl(graph, compiled, latest.current, { file, sources });
      if (changes.length > 0) session.edit(TYPED, changes, TYPED);
      setFault('');
    } catch (error) {
      setFault((error as Error).message);
    }
  };
  useEffect(
    () => () => {
      if (!timer.current) return;
      clearTimeout(timer.current);
      take();
    },
    [],
  );
  return (
    <>
      <textarea
        class="graph-wgsl"
        aria-label="WGSL, typed"
        spellcheck={false}
        value={text}
        onInput={(event) => {
          setText(event.currentTarget.value);
          clearTimeout(timer.current);
          timer.current = window.setTimeout(() => {
            timer.current = 0;
            take();
          }, REST);
        }}
        onKeyDown={(event) => {
          if (!((event.ctrlKey || event.metaKey) && event.key.toLowerCase() === 's')) event.stopPropagation();
          if (event.key !== 'Tab' || event.shiftKey) return;
          event.preventDefault();
          event.currentTarget.setRangeText(
            '  ',
            event.currentTarget.selectionStart,
            event.currentTarget.selectionEnd,
            'end',
          );
          setText(event.currentTarget.value);
        }}
      />
      {fault && (
        <pre class="graph-fault" role="alert">
          {fault}
        </pre>
      )}
    </>
  );
}
