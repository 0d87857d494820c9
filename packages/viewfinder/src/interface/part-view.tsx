import type { Property } from '@umber-lens/core/engine';
import type { JSX } from 'preact';
import { useRef, useState } from 'preact/hooks';
import type { Editor } from '../logic/editor.js';
import { graphSource } from '../logic/graph/open-graph.js';
import type { Shaded } from '../logic/graph/shaded.js';
import { changeOf, type Field, MIXED, type Part, sharedValue } from '../logic/properties/field.js';
import { canPaste, copiedText, copyPart, pastePart } from '../logic/properties/copied-part.js';
import { cssOf, readColor } from '../logic/values/shown-color.js';
import { shownUnit } from '../logic/values/amount.js';
import { Icon } from './icon.js';
import { NumberField, unitOf } from './number-field.js';
import { TextureField } from './texture-field.js';

interface PartProps {
  editor: Editor;
  part: Part;
  /** Opens the graph that a shader came of. */
  onGraph?(shaded: Shaded): void;
}

/** A part of what is chosen: its members, each with a way to edit it. */
export function PartView({ editor, onGraph, part }: PartProps): JSX.Element {
  const { shaded } = part;
  const id = `part-${part.name.replace(/\W+/g, '-')}`;
  return (
    <fieldset aria-labelledby={id}>
      <legend>
        <span id={id}>{part.name}</span>
        {part.acts?.map(({ act, name }) => (
          <button
            key={name}
            type="button"
            class="plain"
            aria-label={`${name} ${part.name}`}
            onClick={() => editor.make(act())}
          >
            {name}
          </button>
        ))}
        {onGraph && shaded && graphSource(shaded) && (
          <button
            type="button"
            class="plain"
            title={graphSource(shaded) === 'graph' ? 'opens it' : 'makes one of its WGSL, and opens it'}
            aria-label={`graph of ${part.name}`}
            onClick={() => onGraph(shaded)}
          >
            graph
          </button>
        )}
        {part.fields.length > 0 && (
          <span class="pass">
            <button
              type="button"
              class="plain"
              aria-label={`copy ${part.name}`}
              title="copies these values"
              onClick={() => copy(editor, part)}
            >
              copy
            </button>
            {canPaste(editor.copied, part) && (
              <button
                type="button"
                class="plain"
                aria-label={`paste ${part.name}`}
                title="gives them the values that were copied"
                onClick={() => paste(editor, part)}
              >
                paste
              </button>
            )}
          </span>
        )}
        {part.adds && (
          <select
            aria-label={part.adds.name}
            value=""
            onChange={(event) => {
              const { value } = event.currentTarget;
              event.currentTarget.value = '';
              if (value !== '') editor.make(part.adds!.act(value)); // it is shown
            }}
          >
            <option value="">add …</option>
            {part.adds.options.map((option) => (
              <option key={option} value={option}>
                {option}
              </option>
            ))}
          </select>
        )}
      </legend>
      {part.fields.map((field) => (
        <FieldView key={field.path.join('/')} editor={editor} field={field} />
      ))}
      {part.more.length > 0 && (
        <details>
          <summary>more of {part.name}</summary>
          {part.more.map((field) => (
            <FieldView key={field.path.join('/')} editor={editor} field={field} />
          ))}
        </details>
      )}
    </fieldset>
  );
}

/** For other parts, and as text for code. */
function copy(editor: Editor, part: Part): void {
  editor.copied = copyPart(part);
  // A page that may not write there keeps it to itself.
  navigator.clipboard?.writeText(copiedText(editor.copied)).catch(() => undefined);
  editor.say(`copied ${part.name}`);
}

function paste(editor: Editor, part: Part): void {
  if (!canPaste(editor.copied, part)) return;
  // A type first: it decides which values there are.
  const type = part.fields.find(({ label }) => label === 'type');
  const { name } = part;
  const isRetyped =
    type && editor.make(changeOf(type, editor.copied.values['type'], editor.editing), 'paste');
  const now = isRetyped ? editor.parts().find((one) => one.name === name) : part;
  if (now) editor.make(pastePart(editor.copied, now, editor.editing), isRetyped ? 'paste' : undefined);
}

function FieldView({ editor, field }: { editor: Editor; field: Field }): JSX.Element {
  const { isDefault, label, property } = field;
  const drag = useScrub(editor, field);
  const classes = ['field', isDefault ? '' : 'other', editor.isUnsaved(field) ? 'unsaved' : ''].join(' ');
  const line = `${property.line}${unitOf(property) ? ` (${unitOf(property)})` : ''}`;
  return (
    <div class={classes}>
      <span class={`label${drag ? ' drag' : ''}`} title={line} {...drag}>
        {label}
      </span>
      <Value editor={editor} field={field} />
      {isDefault || label === 'name' || label === 'type' ? (
        <span />
      ) : (
        <button
          type="button"
          class="plain reset"
          aria-label={`reset ${label}`}
          title="back to the default"
          onClick={() => editor.make(changeOf(field, undefined, editor.editing))}
        >
          <Icon name="reset" />
        </button>
      )}
    </div>
  );
}

const AXES = ['x', 'y', 'z', 'w'];

function Value({ editor, field }: { editor: Editor; field: Field }): JSX.Element {
  const { label, property } = field;
  const set = (value: unknown, merge?: string, k?: number): void =>
    void editor.make(changeOf(field, value, editor.editing, k), merge && `${merge} ${keyOf(editor, field)}`);
  const shared = sharedValue(field);
  switch (property.type) {
    case 'boolean':
      return (
        <span>
          <input
            type="checkbox"
            aria-label={label}
            checked={shared === true}
            indeterminate={shared === MIXED}
            onChange={(event) => set(event.currentTarget.checked)}
          />
        </span>
      );
    case 'word':
      return (
        <select
          aria-label={label}
          value={shared === MIXED ? '' : String(shared ?? '')}
          onChange={(event) => set(event.currentTarget.value)}
        >
          {(shared === MIXED || shared === undefined) && (
            <option value="">{shared === MIXED ? 'differ' : 'as usual'}</option>
          )}
          {property.words!.map((word) => (
            <option key={word} value={word}>
              {word}
            </option>
          ))}
        </select>
      );
    case 'string':
      return (
        <TextField
          label={label}
          value={shared === MIXED ? '' : String(shared ?? '')}
          onText={(text) => set(text)}
        />
      );
    case 'texture':
      return <TextureField editor={editor} field={field} />;
    case 'number':
      return (
        <OneNumber field={field} label={label} value={shared} onValue={(value, merge) => set(value, merge)} />
      );
    default:
      return property.color ? (
        <ColorField editor={editor} field={field} set={set} />
      ) : (
        <div class="three">
          {Array.from({ length: property.length ?? (Array.isArray(shared) ? shared.length : 3) }, (_, k) => {
            const one = sharedValue(field, k);
            const own = { ...property, type: 'number' } as Property;
            return (
              <NumberField
                key={k}
                label={`${label} ${AXES[k] ?? k}`}
                property={own}
                value={one === MIXED ? undefined : (one as number | undefined)}
                isMixed={one === MIXED}
                onValue={(value, merge) => set(value ?? 0, merge, k)}
              />
            );
          })}
        </div>
      );
  }
}

/** Which members of which things: a step goes on with one of the same. */
const keyOf = (editor: Editor, { path, things }: Field): string =>
  `${path.join('/')} ${things.map((thing) => ('of' in thing ? editor.editing.nodeOf(thing.of)?.row : thing.kind)).join()}`;

interface OneNumberProps {
  field: Field;
  label: string;
  value: unknown;
  onValue(value: number | undefined, merge?: string): void;
}

/** A number; with a slider where it has two ends. */
function OneNumber({ field: { property }, label, onValue, value }: OneNumberProps): JSX.Element {
  const number = (
    <NumberField
      label={label}
      property={property}
      value={value === MIXED ? undefined : (value as number | undefined)}
      isMixed={value === MIXED}
      placeholder={property.default === undefined ? 'none' : undefined}
      onValue={onValue}
    />
  );
  const [min, max] = property.range ?? [-Infinity, Infinity];
  if (!(max - min < 1e5) || property.isWhole) return number;
  const { factor } = shownUnit(unitOf(property));
  const span = (max - min) / factor;
  return (
    <div class="with">
      <input
        type="range"
        aria-label={label}
        min={min / factor}
        max={max / factor}
        step={span > 20 ? 0.1 : 0.01}
        value={value === MIXED || value === undefined ? min / factor : (value as number) / factor}
        onInput={(event) => onValue(Number(event.currentTarget.value) * factor, 'slide')}
      />
      {number}
    </div>
  );
}

function TextField({
  label,
  onText,
  value,
}: {
  label: string;
  value: string;
  onText(text: string): void;
}): JSX.Element {
  const [typed, setTyped] = useState<string | undefined>(undefined);
  const commit = (): void => {
    if (typed !== undefined && typed !== value) onText(typed);
    setTyped(undefined);
  };
  return (
    <input
      type="text"
      aria-label={label}
      autocomplete="off"
      spellcheck={false}
      value={typed ?? value}
      onInput={(event) => setTyped(event.currentTarget.value)}
      onBlur={commit}
      onKeyDown={(event) => {
        if (event.key === 'Enter') commit();
        else if (event.key === 'Escape') setTyped(undefined);
        else return;
        event.stopPropagation();
      }}
    />
  );
}

interface ColorProps {
  editor: Editor;
  field: Field;
  set(value: unknown, merge?: string, k?: number): void;
}

function ColorField({ editor, field, set }: ColorProps): JSX.Element {
  const [isOpen, setOpen] = useState(false);
  const { label, property } = field;
  const kind = property.color!; // it is a color
  const shared = sharedValue(field);
  const word = typeof shared === 'string' ? shared : undefined;
  const given = shared === MIXED || shared === undefined ? field.values[0] : shared;
  const values = (typeof given === 'object' && given !== null ? given : [1, 1, 1]) as number[];
  const css = cssOf(values, kind);
  const write = (text: string, merge?: string): void => {
    if (property.or?.includes('string') && text === 'sky') return set(text);
    try {
      set(readColor(text, values, kind), merge);
    } catch (error) {
      editor.say((error as Error).message);
    }
  };
  return (
    <>
      <div class="color">
        <button
          type="button"
          class="swatch"
          style={{ background: css }}
          aria-label={`pick ${label}`}
          aria-expanded={isOpen}
          onClick={() => setOpen(!isOpen)}
        />
        <TextField
          label={label}
          value={shared === MIXED ? 'differ' : (word ?? css)}
          onText={(text) => write(text)}
        />
        {property.length === 4 && (
          <NumberField
            label={`${label} alpha`}
            property={{ line: 'Opacity.', type: 'number', range: [0, 1] }}
            value={values[3]}
            onValue={(value, merge) => set(value ?? 1, merge, 3)}
          />
        )}
      </div>
      {isOpen && (
        <div class="picker">
          <Picker css={css} label={label} onColor={(picked) => write(picked, 'pick')} />
        </div>
      )}
    </>
  );
}

function Picker({
  css,
  label,
  onColor,
}: {
  css: string;
  label: string;
  onColor(css: string): void;
}): JSX.Element {
  const held = useRef(onColor);
  held.current = onColor;
  const Element = 'hex-color-picker' as unknown as (props: Record<string, unknown>) => JSX.Element;
  return (
    <Element
      color={css}
      aria-label={label}
      ref={(element: HTMLElement | null) => {
        if (!element || 'isHeard' in element.dataset) return;
        element.dataset['isHeard'] = '';
        element.addEventListener('color-changed', (event) =>
          held.current((event as CustomEvent<{ value: string }>).detail.value),
        );
      }}
    />
  );
}

type Scrubbed = Partial<
  Record<`onPointer${'Down' | 'Move' | 'Up' | 'Cancel'}`, (event: PointerEvent) => void>
>;

/** Numbers are dragged by their label: a way of a hundred pixels is ten steps. */
function useScrub(editor: Editor, field: Field): Scrubbed | undefined {
  const from = useRef<{ x: number; value: number } | undefined>(undefined);
  const { property } = field;
  if (property.type !== 'number') return undefined;
  const { factor, step } = shownUnit(unitOf(property));
  return {
    onPointerDown: (event: PointerEvent) => {
      const value = sharedValue(field);
      if (value === MIXED) return;
      from.current = { x: event.clientX, value: (value as number | undefined) ?? 0 };
      (event.currentTarget as HTMLElement).setPointerCapture(event.pointerId);
    },
    onPointerMove: (event: PointerEvent) => {
      if (!from.current) return;
      const [min, max] = property.range ?? [-Infinity, Infinity];
      const moved = (event.clientX - from.current.x) * 0.1 * step * factor * (event.shiftKey ? 10 : 1);
      const value = from.current.value + moved;
      const whole = property.isWhole ? Math.round(value) : Number(value.toPrecision(6));
      editor.make(
        changeOf(field, Math.min(max, Math.max(min, whole)), editor.editing),
        `drag ${keyOf(editor, field)}`,
      );
    },
    onPointerUp: () => void (from.current = undefined),
    onPointerCancel: () => void (from.current = undefined),
  };
}
