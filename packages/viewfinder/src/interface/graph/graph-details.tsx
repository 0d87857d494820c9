import type { ShaderCost } from '@umber-lens/core/graphs';
import type { JSX } from 'preact';
import { functionCalledBy } from '../../logic/graph/board-graph.js';
import { type Alignment, ALIGNMENTS } from '../../logic/graph/graph-commands.js';
import type { GraphSession } from '../../logic/graph/graph-session.js';
import { TypedField } from './typed-field.js';

interface GraphDetailsProps {
  session: GraphSession;
  cost: ShaderCost | undefined;
  onRename(name: string): void;
  onNote(note: string): void;
  onReplace(): void;
  /** Shows the nodes of a function. */
  onOpen(name: string): void;
  onMute(): void;
  onBypass(): void;
  onWrap(): void;
  onFrame(): void;
  onAlign(how: Alignment): void;
  onCopy(): void;
  onPaste(): void;
  onRemove(): void;
}

/** What acts on the nodes that are chosen. */
export function GraphDetails({
  cost,
  onAlign,
  onBypass,
  onCopy,
  onFrame,
  onMute,
  onNote,
  onOpen,
  onPaste,
  onRemove,
  onRename,
  onReplace,
  onWrap,
  session,
}: GraphDetailsProps): JSX.Element {
  const names = [...session.chosen];
  const [name] = names;
  if (name === undefined)
    return (
      <div class="graph-details">
        <span>
          Click a node; Shift for several, or pull a rectangle with it. Double-click a link to put a node into
          it.
        </span>
        <span class="grow" />
        <button
          type="button"
          aria-label="paste nodes"
          onClick={onPaste}
          title="nodes, or WGSL: lines, or an expression (Ctrl+V)"
        >
          paste
        </button>
      </div>
    );
  const { board } = session;
  const node = board.nodes?.[name];
  const isOne = names.length === 1;
  // What a function takes has a name alone.
  if (isOne && !node)
    return (
      <div class="graph-details" role="group" aria-label="chosen nodes">
        <TypedField key={`name ${name}`} label="name of what it takes" value={name} onTake={onRename} />
        <span>{board.takes?.[name]}, given by whoever calls the function</span>
        <span class="grow" />
        <button type="button" onClick={onRemove} title="calls give it no more (Delete)">
          take away
        </button>
      </div>
    );
  const called = functionCalledBy(board, name);
  return (
    <div class="graph-details" role="group" aria-label="chosen nodes">
      {isOne ? (
        <>
          <TypedField key={`name ${name}`} label="name of the node" value={name} onTake={onRename} />
          <TypedField
            key={`note ${name}`}
            label="note"
            placeholder="note"
            value={node?.note ?? ''}
            onTake={onNote}
            isWide
          />
          {cost && (
            <span title="counted by the compiler: operations on single numbers">{costText(cost)}</span>
          )}
        </>
      ) : (
        <span>{names.length} nodes</span>
      )}
      <span class="grow" />
      {isOne && called !== undefined && (
        <button type="button" onClick={() => onOpen(called)} title={`shows the nodes of ${called} (O)`}>
          open
        </button>
      )}
      {isOne && (
        <button type="button" onClick={onReplace} title="calls something else with what it takes">
          replace
        </button>
      )}
      <button type="button" onClick={onMute} title="passes its first input on (M)">
        mute
      </button>
      <button type="button" onClick={onBypass} title="takes it out, and joins what it was between (B)">
        bypass
      </button>
      <button type="button" onClick={onWrap} title="makes it a function of the graph (W)">
        wrap
      </button>
      <button
        type="button"
        aria-label="frame nodes"
        onClick={onFrame}
        title="draws a frame about it, or takes it away"
      >
        frame
      </button>
      {!isOne && (
        <select
          aria-label="align"
          value=""
          onChange={(event) => {
            onAlign(event.currentTarget.value as Alignment);
            event.currentTarget.value = '';
          }}
        >
          <option value="">align …</option>
          {ALIGNMENTS.map((how) => (
            <option key={how} value={how}>
              {how}
            </option>
          ))}
        </select>
      )}
      <button type="button" aria-label="copy nodes" onClick={onCopy} title="as text (Ctrl+C)">
        copy
      </button>
      <button type="button" aria-label="delete nodes" onClick={onRemove} title="takes it away (Delete)">
        delete
      </button>
    </div>
  );
}

/** "12 operations, 1 read", "at least" where loops were guessed. */
export function costText({ isLeast, operations, textureReads }: ShaderCost): string {
  const reads =
    textureReads === 0 ? '' : `, ${textureReads} ${textureReads === 1 ? 'read' : 'reads'} of textures`;
  return `${isLeast ? 'about ' : ''}${operations} ${operations === 1 ? 'operation' : 'operations'}${reads}`;
}
