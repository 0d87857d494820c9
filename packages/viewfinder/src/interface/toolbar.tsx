import type { JSX } from 'preact';
import { useEffect, useRef, useState } from 'preact/hooks';
import type { Command } from '../logic/commands.js';
import type { Editor } from '../logic/editor.js';
import type { NewNode } from '../logic/new-nodes.js';
import type { Stage } from '../stage/stage.js';
import { keyText } from './dialogs.js';
import { Icon, type IconName } from './icon.js';

interface ToolbarProps {
  editor: Editor;
  stage: Stage;
  commands: readonly Command[];
  isAdding: boolean;
  onAdd(isAdding: boolean): void;
  shownLists: ReadonlySet<string>;
}

const RATES = [0.1, 0.25, 0.5, 1, 2];

/** What is done most: along the foot of the picture. */
export function Toolbar({ commands, editor, isAdding, onAdd, shownLists, stage }: ToolbarProps): JSX.Element {
  const byName = new Map(commands.map((command) => [command.name, command]));
  const button = (
    name: string,
    icon: IconName,
    more: { pressed?: boolean; disabled?: boolean; label?: string; title?: string } = {},
  ): JSX.Element => {
    const command = byName.get(name)!; // of the commands
    return (
      <button
        type="button"
        key={name}
        aria-label={more.label ?? name}
        title={`${more.title ?? command.about} (${keyText(command.keys[0]!)})`}
        disabled={more.disabled ?? false}
        {...(more.pressed === undefined ? {} : { 'aria-pressed': more.pressed })}
        onClick={() => command.run()}
      >
        <Icon name={icon} />
      </button>
    );
  };
  const { history, selection, snapping } = editor;
  const hasNone = selection.size === 0;
  const count = history.unsaved.length;
  return (
    <div class="panel band" role="toolbar" aria-label="tools">
      <div class="cluster">
        {(['move', 'rotate', 'scale'] as const).map((tool) =>
          button(tool, tool, { pressed: editor.tool === tool }),
        )}
        <select
          aria-label="axes"
          title="along which axes handles move: the world's, the parent's, its own"
          value={editor.space}
          onChange={(event) => {
            editor.space = event.currentTarget.value as Editor['space'];
            editor.tell();
          }}
        >
          <option value="world">world</option>
          <option value="parent">parent</option>
          <option value="own">own</option>
        </select>
        <select
          aria-label="pivot"
          title="about what several nodes turn: their middle, or each about itself"
          value={editor.pivot}
          onChange={(event) => {
            editor.pivot = event.currentTarget.value as Editor['pivot'];
            editor.tell();
          }}
        >
          <option value="middle">middle</option>
          <option value="each">each</option>
        </select>
        <select
          aria-label="snapping"
          title="whether handles keep to steps, to surfaces, or to the sides of other things"
          value={
            snapping.toSurface ? 'surface' : snapping.toBounds ? 'bounds' : snapping.isOn ? 'steps' : 'free'
          }
          onChange={(event) => {
            const { value } = event.currentTarget;
            snapping.isOn = value === 'steps';
            snapping.toSurface = value === 'surface';
            snapping.toBounds = value === 'bounds';
            editor.tell();
          }}
        >
          <option value="free">free</option>
          <option value="steps">steps</option>
          <option value="surface">surfaces</option>
          <option value="bounds">bounds</option>
        </select>
      </div>
      <div class="cluster">
        <AddMenu editor={editor} isOpen={isAdding} onOpen={onAdd} title={`${byName.get('add')!.about} (A)`} />
        {button('duplicate', 'duplicate', { disabled: hasNone })}
        {button('group', 'group', { disabled: hasNone })}
        {button('delete', 'delete', { disabled: hasNone })}
      </div>
      <div class="cluster">
        {button('undo', 'undo', {
          disabled: !history.undoes,
          title: history.undoes ? `takes back: ${history.undoes}` : 'nothing to take back',
        })}
        {button('redo', 'redo', {
          disabled: !history.redoes,
          title: history.redoes ? `makes again: ${history.redoes}` : 'nothing to make again',
        })}
        <button
          type="button"
          aria-label="save"
          data-count={count || undefined}
          title={`${byName.get('save')!.about} (${keyText('$mod+s')})`}
          onClick={() => byName.get('save')!.run()}
        >
          <Icon name="save" />
        </button>
      </div>
      <div class="cluster">
        {button('frame', 'frame')}
        {button('pause', stage.isPaused ? 'play' : 'pause', { pressed: stage.isPaused })}
        {button('step', 'step')}
        <select
          aria-label="speed"
          title="how fast the page goes"
          value={String(stage.rate)}
          onChange={(event) => {
            stage.rate = Number(event.currentTarget.value);
            editor.tell();
          }}
        >
          {RATES.map((rate) => (
            <option key={rate} value={String(rate)}>
              × {rate}
            </option>
          ))}
        </select>
      </div>
      <div class="cluster">
        <button
          type="button"
          aria-label="messages"
          data-count={editor.told.length || undefined}
          title={`${byName.get('messages')!.about} (W)`}
          aria-pressed={shownLists.has('messages')}
          onClick={() => byName.get('messages')!.run()}
        >
          <Icon name="messages" />
        </button>
        {button('frames', 'frames', { pressed: shownLists.has('frames') })}
        {button('shortcuts', 'shortcuts')}
      </div>
    </div>
  );
}

const MENU: readonly (readonly [title: string, names: readonly NewNode[]])[] = [
  ['Shapes', ['box', 'sphere', 'icosphere', 'cylinder', 'cone', 'capsule', 'torus', 'plane', 'disc']],
  [
    'Lights',
    ['point light', 'spot light', 'directional light', 'area light', 'ambient light', 'hemisphere light'],
  ],
  ['More', ['camera', 'empty node']],
];

function AddMenu({
  editor,
  isOpen,
  onOpen,
  title,
}: {
  editor: Editor;
  isOpen: boolean;
  onOpen(isOpen: boolean): void;
  title: string;
}): JSX.Element {
  const menu = useRef<HTMLDivElement>(null);
  const opener = useRef<HTMLButtonElement>(null);
  const [at, setAt] = useState(0);
  const names = MENU.flatMap(([, own]) => own);
  useEffect(() => {
    if (isOpen) menu.current?.querySelectorAll<HTMLElement>('[role=menuitem]')[at]?.focus();
  }, [isOpen, at]);
  const close = (): void => {
    onOpen(false);
    opener.current?.focus();
  };
  return (
    <div class="anchor">
      <button
        ref={opener}
        type="button"
        aria-label="add"
        title={title}
        aria-haspopup="menu"
        aria-expanded={isOpen}
        onClick={() => {
          setAt(0);
          onOpen(!isOpen);
        }}
      >
        <Icon name="add" />
      </button>
      {isOpen && (
        <div
          ref={menu}
          class="panel menu"
          role="menu"
          aria-label="add"
          onKeyDown={(event) => {
            const step: Record<string, number> = { ArrowDown: 2, ArrowUp: -2, ArrowRight: 1, ArrowLeft: -1 };
            const by = step[event.key];
            if (event.key === 'Escape') close();
            else if (by !== undefined) setAt((at + by + names.length) % names.length);
            else if (event.key.length === 1 && event.key !== ' ') {
              const next = names.findIndex((name, i) => i > at && name.startsWith(event.key));
              const found = next >= 0 ? next : names.findIndex((name) => name.startsWith(event.key));
              if (found >= 0) setAt(found);
            } else return;
            event.preventDefault();
            event.stopPropagation();
          }}
        >
          {MENU.map(([heading, own]) => (
            <Group key={heading} heading={heading}>
              {own.map((name) => (
                <button
                  key={name}
                  type="button"
                  role="menuitem"
                  tabIndex={names[at] === name ? 0 : -1}
                  onClick={() => {
                    close();
                    editor.add(name);
                  }}
                >
                  <Icon
                    name={
                      name.endsWith('light')
                        ? 'light'
                        : name === 'camera'
                          ? 'camera'
                          : name === 'empty node'
                            ? 'node'
                            : 'mesh'
                    }
                  />
                  {name}
                </button>
              ))}
            </Group>
          ))}
        </div>
      )}
    </div>
  );
}

function Group({ children, heading }: { children: JSX.Element[]; heading: string }): JSX.Element {
  return (
    <>
      <h3 role="none">{heading}</h3>
      {children}
    </>
  );
}
