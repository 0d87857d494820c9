import type { JSX } from 'preact';
import { useState } from 'preact/hooks';
import { type ShownQuantity, SHOWS } from 'umber-lens';
import { SIDES } from '../logic/camera/own-view.js';
import type { Editor } from '../logic/editor.js';
import type { Edit } from '../logic/history/edit.js';
import type { Stage } from '../stage/stage.js';
import { AIDS } from '../stage/overlay.js';
import { Icon } from './icon.js';

interface WaysProps {
  editor: Editor;
  stage: Stage;
  onTheme(): void;
  onClose(): void;
}

/** Through what the picture is seen, and what of it. */
export function WaysBar({ editor, onClose, onTheme, stage }: WaysProps): JSX.Element {
  const [isOpen, setOpen] = useState(false);
  const cameras = [...editor.scene.cameras.keys()].filter((node) => node !== stage.pageCamera);
  const { through } = stage;
  const value = typeof through === 'string' ? through : String(cameras.indexOf(through));
  return (
    <div class="panel ways" role="group" aria-label="view">
      <select
        aria-label="look through"
        title="through what the picture is seen"
        value={value}
        onChange={(event) => {
          const { value: chosen } = event.currentTarget;
          stage.look(chosen === 'own' || chosen === 'page' ? chosen : (cameras[Number(chosen)] ?? 'own'));
        }}
      >
        <option value="own">own view</option>
        <option value="page">live: the page's</option>
        {cameras.map((camera, i) => (
          <option key={i} value={String(i)}>
            {camera.name || `camera ${i + 1}`}
          </option>
        ))}
      </select>
      <select
        aria-label="from"
        title="a straight view"
        value=""
        onChange={(event) => {
          const { value: side } = event.currentTarget;
          if (stage.through !== 'own') stage.look('own');
          if (side === 'flat') editor.own.isFlat = !editor.own.isFlat;
          else if (side !== '') editor.own.lookFrom(side as (typeof SIDES)[number]);
          stage.touch();
          editor.tell();
        }}
      >
        <option value="">from …</option>
        {SIDES.map((side) => (
          <option key={side} value={side}>
            {side}
          </option>
        ))}
        <option value="flat">{editor.own.isFlat ? 'with perspective' : 'without perspective'}</option>
      </select>
      <select
        aria-label="show"
        title="a single quantity of the surfaces"
        value={stage.show ?? ''}
        onChange={(event) => {
          stage.show = (event.currentTarget.value || undefined) as ShownQuantity | undefined;
          stage.touch();
          editor.tell();
        }}
      >
        <option value="">as the page</option>
        {SHOWS.map((show) => (
          <option key={show} value={show}>
            {show}
          </option>
        ))}
      </select>
      <div class="anchor">
        <button
          type="button"
          aria-label="aids"
          aria-haspopup="true"
          aria-expanded={isOpen}
          title="what is drawn over the picture"
          onClick={() => setOpen(!isOpen)}
        >
          <Icon name="aids" />
        </button>
        {isOpen && (
          <div
            class="panel menu down"
            role="group"
            aria-label="aids"
            onKeyDown={(event) => event.key === 'Escape' && setOpen(false)}
          >
            {AIDS.map((aid) => (
              <label
                key={aid}
                style={{ display: 'flex', gap: '8px', padding: '3px 6px', alignItems: 'center' }}
              >
                <input
                  type="checkbox"
                  checked={stage.aids.has(aid)}
                  onChange={(event) => {
                    if (event.currentTarget.checked) stage.aids.add(aid);
                    else stage.aids.delete(aid);
                    stage.touch();
                    editor.tell();
                  }}
                />
                {aid}
              </label>
            ))}
            <label style={{ display: 'flex', gap: '8px', padding: '3px 6px', alignItems: 'center' }}>
              <input
                type="checkbox"
                checked={stage.hasInset}
                onChange={(event) => {
                  stage.hasInset = event.currentTarget.checked;
                  stage.touch();
                  editor.tell();
                }}
              />
              live picture
            </label>
          </div>
        )}
      </div>
      <button
        type="button"
        title="has the chosen camera stand where this view is"
        disabled={!editor.selection.primary?.camera}
        onClick={() => handOver(editor, stage)}
      >
        camera here
      </button>
      <button type="button" aria-label="theme" title="dark or light" onClick={onTheme}>
        <Icon name="theme" />
      </button>
      <button type="button" aria-label="close the viewfinder" title="close the viewfinder" onClick={onClose}>
        <Icon name="close" />
      </button>
    </div>
  );
}

/** Has a camera of the scene stand where the editor's view is. */
function handOver(editor: Editor, stage: Stage): void {
  const node = editor.selection.primary;
  if (!node?.camera || !node.parent) return;
  const of = editor.editing.refOf(node);
  const before = { translation: node.readTranslation([0, 0, 0]), rotation: node.readRotation([0, 0, 0, 1]) };
  const { position, rotation } = editor.own.standing;
  const parent = node.parent;
  // In the world first, then in its parent.
  node.setParent(editor.scene.root);
  node.setTranslation(...(position as [number, number, number]));
  node.setRotation(...(rotation as [number, number, number, number]));
  node.setParent(parent, { keepWorld: true });
  const edits = (['translation', 'rotation'] as const).map((name): Edit => ({
    type: 'set',
    thing: { kind: 'node', of },
    path: [name],
    before: before[name],
    after: name === 'translation' ? node.readTranslation([0, 0, 0]) : node.readRotation([0, 0, 0, 1]),
  }));
  editor.history.note({ name: `${node.name} to this view`, edits });
  editor.say(editor.history.undoes ?? '');
  stage.touch();
}
