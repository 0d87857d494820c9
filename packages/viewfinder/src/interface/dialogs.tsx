import type { ComponentChildren, JSX } from 'preact';
import { useEffect, useLayoutEffect, useRef, useState } from 'preact/hooks';
import { offerNode } from '@umber-lens/core/engine';
import type { Command } from '../logic/commands.js';
import type { Editor } from '../logic/editor.js';
import { gather } from '../logic/saving/gather.js';
import { planFiles, type PlannedFile, writeFiles } from '../logic/saving/plan-files.js';
import type { SaveClient } from '../logic/saving/save-client.js';
import { copySheet, downloadModel, downloadPicture, downloadSheet, linkOfSheet } from './outlets.js';
import { Icon } from './icon.js';
import type { Lens } from 'umber-lens';

interface DialogProps {
  title: string;
  onClose(): void;
  children: ComponentChildren;
  footer?: ComponentChildren;
}

/** The browser's own dialog: it keeps the focus within, and closes by Escape. */
export function Dialog({ children, footer, onClose, title }: DialogProps): JSX.Element {
  const dialog = useRef<HTMLDialogElement>(null);
  useLayoutEffect(() => {
    const element = dialog.current!; // it is drawn
    const before = (element.getRootNode() as ShadowRoot).activeElement as HTMLElement | null;
    element.showModal();
    return () => before?.focus();
  }, []);
  return (
    <dialog
      ref={dialog}
      aria-label={title}
      onClose={onClose}
      onKeyDown={(event) => event.stopPropagation()}
      onClick={(event) => event.target === dialog.current && onClose()}
    >
      <div class="head">
        <h2>{title}</h2>
        <button type="button" aria-label="close" onClick={onClose}>
          <Icon name="close" />
        </button>
      </div>
      <div class="body" tabIndex={0} role="region" aria-label={title}>
        {children}
      </div>
      {footer && <div class="foot">{footer}</div>}
    </dialog>
  );
}

/** A file as it is and as it would be, side by side. */
export function BothTexts({ theirs, yours }: { theirs: string; yours: string }): JSX.Element {
  return (
    <div class="two">
      <section>
        <h3>on the disk</h3>
        <pre tabIndex={0}>{theirs}</pre>
      </section>
      <section>
        <h3>yours</h3>
        <pre tabIndex={0}>{yours}</pre>
      </section>
    </div>
  );
}

const GROUPS = { tools: 'Handles', edit: 'Changes', view: 'The view', page: 'The page' } as const;

export function Shortcuts({
  commands,
  onClose,
}: {
  commands: readonly Command[];
  onClose(): void;
}): JSX.Element {
  return (
    <Dialog title="shortcuts" onClose={onClose}>
      <div class="columns">
        {Object.entries(GROUPS).map(([group, title]) => (
          <section key={group}>
            <h3>{title}</h3>
            <table>
              <tbody>
                {commands
                  .filter((command) => command.group === group)
                  .map(({ about, keys, name }) => (
                    <tr key={name}>
                      <td>
                        <kbd>{keyText(keys[0]!)}</kbd>
                      </td>
                      <td>
                        {name}: {about}
                      </td>
                    </tr>
                  ))}
              </tbody>
            </table>
          </section>
        ))}
        <section>
          <h3>In the picture</h3>
          <table>
            <tbody>
              {HANDS.map(([hand, what]) => (
                <tr key={hand}>
                  <td>
                    <kbd>{hand}</kbd>
                  </td>
                  <td>{what}</td>
                </tr>
              ))}
            </tbody>
          </table>
        </section>
      </div>
    </Dialog>
  );
}

const HANDS = [
  ['click', 'chooses what is seen; again what lies behind'],
  ['drag', 'a rectangle that chooses'],
  ['right drag', 'turns the view; with shift pans, with alt looks around'],
  ['middle drag', 'pans the view'],
  ['wheel', 'goes near and far'],
  ['arrow keys', 'fly; page up and page down rise and sink'],
  ['a number', 'while handles are held: that far'],
  ['Ctrl', 'while handles are held: snaps, or does not'],
] as const;

/** `$mod+Shift+Z` as keys are labelled. */
export const keyText = (keys: string): string =>
  keys
    .replace('$mod', /Mac/.test(navigator.platform) ? '⌘' : 'Ctrl')
    .split('+')
    .map((key) => (key.length === 1 ? key.toUpperCase() : key))
    .join(' ');

interface SaveProps {
  editor: Editor;
  lens: Lens;
  client: SaveClient;
  adjustments: string;
  onClose(): void;
}

/** What files do not have yet, file by file, as a diff; then it is written. */
export function SaveDialog({ adjustments, client, editor, lens, onClose }: SaveProps): JSX.Element {
  const [files, setFiles] = useState<PlannedFile[] | undefined>(undefined);
  const [left, setLeft] = useState<{ what: string; reason: string }[]>([]);
  const [out, setOut] = useState(new Set<string>());
  const [isBusy, setBusy] = useState(false);
  const look = async (): Promise<void> => {
    const found = gather(editor.history.unsaved, editor.editing, adjustments, location.origin);
    const size = sceneSize(editor);
    const plan = client.isThere
      ? await planFiles(client, found.files, adjustments, size)
      : { files: [], left: [] };
    setLeft([...found.left, ...plan.left]);
    setFiles(plan.files);
  };
  useEffect(() => void look(), []);
  const wanted = (files ?? []).filter(
    (file) => !out.has(file.wanted.file) && !file.refused && file.diff !== '',
  );
  const write = async (): Promise<void> => {
    setBusy(true);
    const found = gather(editor.history.unsaved, editor.editing, adjustments, location.origin);
    // The sheet brings them from now on.
    if (wanted.some(({ kind }) => kind === 'sheet')) found.added.forEach(offerNode);
    // Servers load the page anew when a source is another: by then it has to be known that this is saved.
    const before = editor.history.saved;
    if (out.size === 0) editor.history.markSaved();
    const done = await writeFiles(client, wanted);
    setBusy(false);
    setFiles((files ?? []).map((file) => done.find((one) => one.wanted.file === file.wanted.file) ?? file));
    if (done.some(({ refused }) => refused)) {
      editor.history.markSaved(before);
      return editor.say('not everything was written');
    }
    editor.say(`saved: ${done.map(({ wanted: { file } }) => file).join(', ')}`);
    onClose();
  };
  const isEmpty = files !== undefined && files.length === 0 && left.length === 0;
  return (
    <Dialog
      title="changes to save"
      onClose={onClose}
      footer={
        <>
          <button type="button" onClick={() => void copySheet(editor, lens)}>
            copy as a sheet
          </button>
          <button type="button" onClick={() => downloadSheet(editor, lens)}>
            download sheet
          </button>
          <button type="button" onClick={() => void linkOfSheet(editor, lens)}>
            copy link
          </button>
          <button type="button" onClick={() => void downloadModel(editor)}>
            GLB
          </button>
          <button type="button" onClick={() => void downloadPicture(editor, lens)}>
            PNG
          </button>
          {client.isThere && (
            <button
              type="button"
              class="main"
              autofocus
              disabled={isBusy || wanted.length === 0}
              onClick={() => void write()}
            >
              write {wanted.length} {wanted.length === 1 ? 'file' : 'files'}
            </button>
          )}
        </>
      }
    >
      {files === undefined && <p class="note">Looking at what is to be written …</p>}
      {!client.isThere && (
        <p class="note">
          This page's server saves nothing: take the scene along by one of the buttons below. Vite's plugin{' '}
          <code>saving()</code> and <code>umber serve</code> write into the sources.
        </p>
      )}
      {isEmpty && client.isThere && <p class="note">Nothing was changed: files have all of it.</p>}
      {files?.map((file) => (
        <FileView
          key={`${file.kind} ${file.wanted.file}`}
          file={file}
          isIn={!out.has(file.wanted.file)}
          onIn={(isIn) => {
            const next = new Set(out);
            if (isIn) next.delete(file.wanted.file);
            else next.add(file.wanted.file);
            setOut(next);
          }}
          onAgain={() => void look()}
        />
      ))}
      {left.length > 0 && (
        <>
          <p class="note">What no file can say:</p>
          <ul>
            {left.map(({ reason, what }) => (
              <li key={what}>
                {what}: {reason}
              </li>
            ))}
          </ul>
        </>
      )}
    </Dialog>
  );
}

interface FileProps {
  file: PlannedFile;
  isIn: boolean;
  onIn(isIn: boolean): void;
  onAgain(): void;
}

function FileView({
  file: { about, diff, kind, refused, wanted },
  isIn,
  onAgain,
  onIn,
}: FileProps): JSX.Element {
  return (
    <div class="file">
      <label>
        <input
          type="checkbox"
          checked={isIn && !refused}
          disabled={refused !== undefined}
          onChange={(event) => onIn(event.currentTarget.checked)}
        />
        {wanted.file}
        {wanted.version === null ? ' (new)' : ''}
      </label>
      {refused ? (
        <>
          <p class="note wrong">
            {refused.reason}. {refused.hint ?? ''}
          </p>
          {refused.theirs && (
            <BothTexts theirs={refused.theirs.text} yours={refused.yours?.text ?? about.join('\n')} />
          )}
          <p class="note">
            <button type="button" class="main" onClick={onAgain}>
              make the changes in what is on the disk
            </button>
          </p>
        </>
      ) : diff === '' ? (
        <p class="note">It says so already.</p>
      ) : (
        <Diff text={diff} />
      )}
      {kind === 'adjustments' && wanted.version === null && (
        <p class="note">
          The page has to apply it:{' '}
          <code>applySheet(scene, await loadSheet('{wanted.file.replace(/^public\//, '')}'))</code>
        </p>
      )}
    </div>
  );
}

function Diff({ text }: { text: string }): JSX.Element {
  const lines = text.split('\n').filter((line) => !/^(===|---|\+\+\+|Index)/.test(line) && line !== '');
  return (
    <pre tabIndex={0} aria-label="diff">
      {lines.map((line, i) => {
        const kind = line.startsWith('+')
          ? 'new'
          : line.startsWith('-')
            ? 'gone'
            : line.startsWith('@')
              ? 'at'
              : '';
        return (
          <span key={i} class={kind}>
            {line}
            {'\n'}
          </span>
        );
      })}
    </pre>
  );
}

/** How large the scene is: that finely places are written. */
function sceneSize(editor: Editor): number {
  const { max, min } = editor.scene.root.worldBounds();
  const size = Math.hypot(max[0] - min[0], max[1] - min[1], max[2] - min[2]);
  return Number.isFinite(size) && size > 0 ? Math.max(1, size) : 100;
}
