import type { JSX } from 'preact';
import { useEffect, useRef, useState } from 'preact/hooks';
import { openable } from '../../logic/graph/board-graph.js';
import { EXPORTS, type ExportKind } from '../../logic/graph/graph-exports.js';
import type { GraphSession } from '../../logic/graph/graph-session.js';
import { PICTURE_SHAPES, type PictureShape } from '../../stage/picture-shapes.js';
import { Icon } from '../icon.js';

export const GRAPH_VIEWS = ['nodes', 'list', 'WGSL'] as const;
export type GraphView = (typeof GRAPH_VIEWS)[number];

interface GraphHeadProps {
  session: GraphSession;
  view: GraphView;
  shape: PictureShape;
  /** Degrees from where light comes on pictures. */
  light: number;
  /** And over the horizon. */
  height: number;
  /** Seconds at which time stands still; undefined where it goes on. */
  heldTime: number | undefined;
  /** Whether clicks in the picture put the probe there. */
  isProbing: boolean;
  onProbing(isOn: boolean): void;
  onAdd(): void;
  onUndo(isBack: boolean): void;
  onTidy(): void;
  onFit(): void;
  onView(view: GraphView): void;
  onShape(shape: PictureShape): void;
  /** Puts pictures on a model out of a file. */
  onModel(file: File): void;
  onLight(degrees: number): void;
  onHeight(degrees: number): void;
  onTime(held: number | undefined): void;
  onExport(kind: ExportKind, isFile: boolean): void;
  onSave(): void;
  onClose(): void;
}

/** What acts on a whole graph. */
export function GraphHead({
  height,
  heldTime,
  isProbing,
  light,
  onAdd,
  onClose,
  onExport,
  onFit,
  onHeight,
  onLight,
  onModel,
  onProbing,
  onSave,
  onShape,
  onTidy,
  onTime,
  onUndo,
  onView,
  session,
  shape,
  view,
}: GraphHeadProps): JSX.Element {
  const file = session.file.split('/').at(-1);
  const functions = openable(session.graph);
  const isTimed = session.compiled.wgsl.includes('frame.');
  const models = useRef<HTMLInputElement>(null);
  return (
    <div class="graph-head" role="toolbar" aria-label="graph tools">
      {functions.length === 0 ? (
        <b title={session.file}>{file}</b>
      ) : (
        <select
          class="part"
          aria-label="nodes of"
          title="the graph, or a function of it"
          value={session.opened ?? ''}
          onChange={(event) => session.open(event.currentTarget.value || undefined)}
        >
          <option value="">{file}</option>
          {functions.map((name) => (
            <option key={name} value={name}>
              {name}
            </option>
          ))}
        </select>
      )}
      <button type="button" onClick={onAdd} title="adds a node (A)">
        <Icon name="add" /> node
      </button>
      <button
        type="button"
        aria-label="undo in the graph"
        disabled={!session.undoes}
        onClick={() => onUndo(true)}
        title={session.undoes ? `takes back: ${session.undoes}` : 'nothing to take back'}
      >
        <Icon name="undo" />
      </button>
      <button
        type="button"
        aria-label="redo in the graph"
        disabled={!session.redoes}
        onClick={() => onUndo(false)}
        title={session.redoes ? `makes again: ${session.redoes}` : 'nothing to make again'}
      >
        <Icon name="redo" />
      </button>
      <button type="button" onClick={onTidy} title="lays the nodes out by the flow">
        tidy
      </button>
      <button type="button" onClick={onFit} title="shows all of it (F)">
        fit
      </button>
      <span class="views" role="group" aria-label="shown as">
        {GRAPH_VIEWS.map((one) => (
          <button
            key={one}
            type="button"
            aria-pressed={view === one}
            onClick={() => onView(one)}
            title={{ nodes: 'cards and links', list: 'line by line', WGSL: 'the text that it becomes' }[one]}
          >
            {one}
          </button>
        ))}
      </span>
      <select
        aria-label="pictures on"
        title="what pictures of nodes are on; chosen: what is chosen in the scene; model: a file, which may be dropped on the graph, too"
        value={shape}
        onChange={(event) => {
          const wanted = event.currentTarget.value as PictureShape;
          if (wanted !== 'model') return onShape(wanted);
          // Once there is one.
          event.currentTarget.value = shape;
          models.current?.click();
        }}
      >
        {PICTURE_SHAPES.map((one) => (
          <option key={one} value={one}>
            {one}
          </option>
        ))}
      </select>
      <input
        ref={models}
        type="file"
        hidden
        aria-label="a model for pictures"
        accept=".glb,.gltf,.obj,.ply,.stl"
        onChange={(event) => {
          const [file] = event.currentTarget.files ?? [];
          if (file) onModel(file);
          event.currentTarget.value = '';
        }}
      />
      <input
        type="range"
        aria-label="light on pictures, degrees"
        title={`light on pictures: from ${Math.round(light)}°, ${Math.round(height)}° high; Alt and a drag on a picture turn it, Shift and arrows up and down lift it`}
        min="-180"
        max="180"
        step="5"
        value={light}
        onInput={(event) => onLight(Number(event.currentTarget.value))}
        onKeyDown={(event) => {
          event.stopPropagation();
          const up = { ArrowUp: 5, ArrowDown: -5 }[event.key];
          if (!event.shiftKey || up === undefined) return;
          event.preventDefault();
          onHeight(height + up);
        }}
      />
      <button
        type="button"
        aria-pressed={isProbing}
        onClick={() => onProbing(!isProbing)}
        title="a click in the picture puts the probe there: nodes have their values at that place"
      >
        probe
      </button>
      {isTimed && <HeldTime held={heldTime} onTime={onTime} />}
      <span class="grow" />
      <ExportMenu onExport={onExport} />
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
  );
}

/** Seconds that can be gone through. */
const MOST_TIME = 20;
const FRAME = 1 / 60;

function HeldTime({
  held,
  onTime,
}: {
  held: number | undefined;
  onTime(held: number | undefined): void;
}): JSX.Element {
  // Where nothing asks for it any more, it goes on.
  const free = useRef(onTime);
  free.current = onTime;
  useEffect(() => () => free.current(undefined), []);
  return (
    <span class="held-time" role="group" aria-label="time">
      <button
        type="button"
        aria-pressed={held !== undefined}
        onClick={() => onTime(held === undefined ? 0 : undefined)}
        title="has time stand still in the picture"
      >
        hold
      </button>
      {held !== undefined && (
        <>
          <input
            type="range"
            aria-label="held time, seconds"
            min="0"
            max={MOST_TIME}
            step={FRAME}
            value={held}
            onInput={(event) => onTime(Number(event.currentTarget.value))}
            onKeyDown={(event) => event.stopPropagation()}
          />
          <button
            type="button"
            onClick={() => onTime(held + FRAME)}
            title="one frame of a sixtieth of a second"
          >
            {held.toFixed(2)} s
          </button>
        </>
      )}
    </span>
  );
}

function ExportMenu({ onExport }: Pick<GraphHeadProps, 'onExport'>): JSX.Element {
  const [isOpen, setOpen] = useState(false);
  const take = (kind: ExportKind, isFile: boolean): void => {
    setOpen(false);
    onExport(kind, isFile);
  };
  return (
    <span
      class="anchor"
      onFocusOut={(event) => {
        if (!event.currentTarget.contains(event.relatedTarget as Node | null)) setOpen(false);
      }}
      onKeyDown={(event) => {
        if (event.key !== 'Escape' || !isOpen) return;
        event.stopPropagation();
        setOpen(false);
      }}
    >
      <button type="button" aria-expanded={isOpen} onClick={() => setOpen(!isOpen)}>
        export
      </button>
      {isOpen && (
        <div class="panel menu down exports" role="group" aria-label="export as">
          {(Object.keys(EXPORTS) as ExportKind[]).map((kind) => (
            <div key={kind}>
              <span>
                <b>{EXPORTS[kind].label}</b>
                <small>{EXPORTS[kind].line}</small>
              </span>
              <button
                type="button"
                aria-label={`copy ${EXPORTS[kind].label}`}
                onClick={() => take(kind, false)}
              >
                copy
              </button>
              <button
                type="button"
                aria-label={`download ${EXPORTS[kind].label}`}
                onClick={() => take(kind, true)}
              >
                file
              </button>
            </div>
          ))}
        </div>
      )}
    </span>
  );
}
