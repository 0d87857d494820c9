import { elementScroll, observeElementOffset, observeElementRect, Virtualizer } from '@tanstack/virtual-core';
import type { SceneNode } from '@umber-lens/core/engine';
import type { JSX, RefObject } from 'preact';
import { useEffect, useLayoutEffect, useRef, useState } from 'preact/hooks';
import type { Editor } from '../logic/editor.js';
import { type Carried, CARRIED, type Sieve } from '../logic/tree/tree-rows.js';
import { Icon, type IconName } from './icon.js';

/** CSS pixels. */
const ROW = 25;
const INDENT = 13;

interface TreeProps {
  editor: Editor;
  search: RefObject<HTMLInputElement | null>;
}

/** The nodes of the scene: found, folded, chosen, named, hidden, locked, hung elsewhere. */
export function TreeView({ editor, search }: TreeProps): JSX.Element {
  const [sieve, setSieve] = useState<Sieve>({ text: '', carried: undefined });
  const [naming, setNaming] = useState<SceneNode | undefined>(undefined);
  const [over, setOver] = useState<SceneNode | undefined>(undefined);
  const [, redraw] = useState(0);
  const list = useRef<HTMLDivElement>(null);
  const { selection, tree } = editor;
  const shown = tree.shown(sieve);
  const virtual = useVirtual(list, shown.count, () => redraw((n) => n + 1));
  const active = selection.primary;
  const activeIndex = active ? tree.indexOf(shown, active) : -1;
  const seen = useRef<SceneNode | undefined>(undefined);
  useEffect(() => {
    // What was chosen in the picture is brought into sight.
    if (active === seen.current) return;
    seen.current = active;
    if (activeIndex >= 0) virtual.scrollToIndex(activeIndex, { align: 'auto' });
  });
  const nodeAt = (index: number): SceneNode | undefined => tree.nodeAt(shown, index);
  const choose = (index: number, event: { shiftKey: boolean; ctrlKey: boolean; metaKey: boolean }): void => {
    const node = nodeAt(index);
    if (!node) return;
    if (event.shiftKey && activeIndex >= 0) {
      const [from, to] = [Math.min(activeIndex, index), Math.max(activeIndex, index)];
      const all: SceneNode[] = [];
      for (let i = from; i <= to; i++) all.push(nodeAt(i)!); // between rows
      selection.choose([...all.filter((one) => one !== node), node]);
    } else selection.choose([node], event.ctrlKey || event.metaKey ? 'toggle' : 'set');
  };
  const goTo = (index: number): void => {
    const node = nodeAt(Math.max(0, Math.min(shown.count - 1, index)));
    if (node) selection.choose([node]);
  };
  const open = (node: SceneNode, isOpen: boolean): void => {
    tree.open(node, isOpen);
    editor.tell();
  };
  const key = (event: KeyboardEvent): void => {
    if (event.ctrlKey || event.metaKey || event.altKey || (event.target as Element).matches('input')) return;
    const isOpen = active !== undefined && tree.isOpen(active);
    const acts: Record<string, () => void> = {
      ArrowDown: () => goTo(activeIndex + 1),
      ArrowUp: () => goTo(activeIndex < 0 ? 0 : activeIndex - 1),
      Home: () => goTo(0),
      End: () => goTo(shown.count - 1),
      PageDown: () => goTo(activeIndex + 10),
      PageUp: () => goTo(activeIndex - 10),
      ArrowRight: () => {
        if (!active) return;
        if (isOpen) goTo(activeIndex + 1);
        else if (tree.hasChildren(active)) open(active, true);
      },
      ArrowLeft: () => {
        if (!active) return;
        if (isOpen && tree.hasChildren(active)) open(active, false);
        else if (active.parent && active.parent !== editor.scene.root) selection.choose([active.parent]);
      },
      F2: () => setNaming(active),
      Enter: () => setNaming(active),
    };
    const act = acts[event.key];
    if (!act) return;
    act();
    event.preventDefault();
    event.stopPropagation();
  };
  const drop = (event: DragEvent, onto: SceneNode): void => {
    event.preventDefault();
    setOver(undefined);
    // With alt they keep what stands in their own numbers, and move with their new parent.
    editor.hang(selection.tops, onto, !event.altKey);
  };
  return (
    <section class="nodes">
      <div class="find">
        <input
          ref={search}
          type="search"
          aria-label="find"
          placeholder="find a node"
          value={sieve.text}
          onInput={(event) => setSieve({ ...sieve, text: event.currentTarget.value })}
          onKeyDown={(event) => {
            if (event.key === 'Enter') {
              for (let i = 0; i < shown.count; i++)
                if (nodeAt(i)!.name.toLowerCase().includes(sieve.text.toLowerCase())) {
                  // i < count
                  goTo(i);
                  break;
                }
              list.current?.focus();
            } else if (event.key === 'Escape') setSieve({ ...sieve, text: '' });
            else return;
            event.stopPropagation();
          }}
        />
        <select
          aria-label="only"
          value={sieve.carried ?? ''}
          onChange={(event) =>
            setSieve({ ...sieve, carried: (event.currentTarget.value || undefined) as Carried | undefined })
          }
        >
          <option value="">all</option>
          {CARRIED.map((one) => (
            <option key={one} value={one}>
              {one}
            </option>
          ))}
        </select>
      </div>
      <div
        ref={list}
        class="rows"
        role="tree"
        aria-label="nodes"
        aria-multiselectable="true"
        tabIndex={0}
        aria-activedescendant={activeIndex >= 0 ? `node-${active!.row}` : undefined} // it is among the rows
        onKeyDown={key}
        onDragOver={(event) => event.preventDefault()}
        onDrop={(event) => drop(event, editor.scene.root)}
      >
        <div style={{ height: `${virtual.getTotalSize()}px` }} role="none">
          {virtual.getVirtualItems().map(({ index, start }) => {
            const node = nodeAt(index);
            if (!node) return null;
            const isParent = tree.hasChildren(node);
            const isLocked = selection.locked.has(node);
            const classes = [
              'row',
              node.isShown ? '' : 'hidden',
              node === active ? 'active' : '',
              node === over ? 'over' : '',
            ];
            const name = node.name || '(no name)';
            return (
              <div
                key={node.row}
                id={`node-${node.row}`}
                role="treeitem"
                aria-label={name}
                aria-level={shown.depths[index]! + 1} // index < count
                aria-selected={selection.has(node)}
                aria-expanded={isParent ? tree.isOpen(node) : undefined}
                class={classes.join(' ')}
                style={{
                  transform: `translateY(${start}px)`,
                  paddingLeft: `${4 + shown.depths[index]! * INDENT}px`,
                }} // as above
                draggable={naming !== node}
                onClick={(event) => choose(index, event)}
                onDblClick={() => setNaming(node)}
                onDragStart={(event) => {
                  if (!selection.has(node)) selection.choose([node]);
                  event.dataTransfer?.setData('text/plain', node.path);
                }}
                onDragOver={(event) => {
                  event.preventDefault();
                  if (over !== node) setOver(node);
                }}
                onDragLeave={() => setOver(undefined)}
                onDrop={(event) => {
                  event.stopPropagation();
                  drop(event, node);
                }}
              >
                {isParent ? (
                  <button
                    type="button"
                    class="plain fold"
                    tabIndex={-1}
                    aria-label={`${tree.isOpen(node) ? 'fold' : 'unfold'} ${name}`}
                    onClick={(event) => {
                      event.stopPropagation();
                      open(node, !tree.isOpen(node));
                    }}
                  >
                    <Icon name="fold" />
                  </button>
                ) : (
                  <span class="fold" />
                )}
                <Icon name={iconOf(node, isParent)} />
                {naming === node ? (
                  <Naming
                    name={node.name}
                    onName={(text) => {
                      setNaming(undefined);
                      if (text !== undefined) editor.rename(node, text);
                      list.current?.focus();
                    }}
                  />
                ) : (
                  <span class="name">{name}</span>
                )}
                {editor.changedNodes.has(node) && <span class="dot" title="not saved yet" />}
                <button
                  type="button"
                  class={`plain act${isLocked ? ' on' : ''}`}
                  tabIndex={-1}
                  aria-label={`lock ${name}`}
                  aria-pressed={isLocked}
                  onClick={(event) => {
                    event.stopPropagation();
                    selection.lock(node, !isLocked);
                  }}
                >
                  <Icon name={isLocked ? 'locked' : 'unlocked'} />
                </button>
                <button
                  type="button"
                  class={`plain act${node.visible ? '' : ' on'}`}
                  tabIndex={-1}
                  aria-label={`hide ${name}`}
                  aria-pressed={!node.visible}
                  onClick={(event) => {
                    event.stopPropagation();
                    const thing = { kind: 'node', of: editor.editing.refOf(node) } as const;
                    const { visible } = node;
                    editor.make({
                      name: `${visible ? 'hide' : 'show'} ${name}`,
                      edits: [{ type: 'set', thing, path: ['visible'], before: visible, after: !visible }],
                    });
                  }}
                >
                  <Icon name={node.visible ? 'shown' : 'hidden'} />
                </button>
              </div>
            );
          })}
        </div>
        {shown.count === 0 && (
          <p class="empty" role="none">
            {sieve.text || sieve.carried ? 'No node fits.' : 'The scene has no nodes yet. Add one: A.'}
          </p>
        )}
      </div>
    </section>
  );
}

function iconOf(node: SceneNode, isParent: boolean): IconName {
  if (node.light) return 'light';
  if (node.camera) return 'camera';
  if (node.mesh) return 'mesh';
  return isParent ? 'folder' : 'node';
}

function Naming({ name, onName }: { name: string; onName(name: string | undefined): void }): JSX.Element {
  const input = useRef<HTMLInputElement>(null);
  const isDone = useRef(false);
  useLayoutEffect(() => input.current?.select(), []);
  const end = (text: string | undefined): void => {
    if (isDone.current) return;
    isDone.current = true;
    onName(text);
  };
  return (
    <input
      ref={input}
      type="text"
      class="name"
      aria-label="new name"
      defaultValue={name}
      onBlur={(event) => end(event.currentTarget.value)}
      onClick={(event) => event.stopPropagation()}
      onKeyDown={(event) => {
        if (event.key === 'Enter') end(event.currentTarget.value);
        else if (event.key === 'Escape') end(undefined);
        event.stopPropagation();
      }}
    />
  );
}

/** Of 100,000 rows those that are in sight. */
function useVirtual(
  list: RefObject<HTMLDivElement | null>,
  count: number,
  redraw: () => void,
): Virtualizer<HTMLDivElement, Element> {
  const held = useRef<Virtualizer<HTMLDivElement, Element> | undefined>(undefined);
  const options = {
    count,
    getScrollElement: () => list.current,
    estimateSize: () => ROW,
    overscan: 6,
    scrollToFn: elementScroll,
    observeElementRect,
    observeElementOffset,
    onChange: redraw,
  };
  held.current ??= new Virtualizer<HTMLDivElement, Element>(options);
  const virtual = held.current;
  virtual.setOptions({ ...virtual.options, ...options });
  useLayoutEffect(() => virtual._didMount(), [virtual]);
  useLayoutEffect(() => virtual._willUpdate());
  return virtual;
}
