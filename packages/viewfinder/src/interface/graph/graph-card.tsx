import { Component, type JSX } from 'preact';
import { useEffect, useRef } from 'preact/hooks';
import { type GraphSession } from '../../logic/graph/graph-session.js';
import { type Card, type CardInput, typedInput } from '../../logic/graph/graph-cards.js';
import { CARD, type CardPlace, heightOf } from '../../logic/graph/graph-layout.js';
import { PICTURE } from '../../stage/graph-pictures.js';
import { TypedField } from './typed-field.js';

interface GraphCardProps {
  card: Card;
  place: CardPlace;
  /** Else it is a place that can be taken and has the focus: what is out of sight, or too far off to be read. */
  isFull: boolean;
  session: GraphSession;
  picture: ImageData | undefined;
  /** What it is at the probe, in words. */
  value: string;
  onGrab(event: PointerEvent): void;
  onPull(event: PointerEvent): void;
  /** Takes hold of a link at its end. */
  onUnplug(path: CardInput['path'], from: string, event: PointerEvent): void;
  onFault(text: string): void;
}

/** A card that is drawn anew only where it shows something else: there may be a thousand. */
export class CardSlot extends Component<GraphCardProps & { isChosen: boolean }> {
  override shouldComponentUpdate(next: GraphCardProps & { isChosen: boolean }): boolean {
    const { card, isChosen, isFull, picture, place, value } = this.props;
    return (
      next.card !== card ||
      next.isChosen !== isChosen ||
      next.isFull !== isFull ||
      next.picture !== picture ||
      next.value !== value ||
      next.place.x !== place.x ||
      next.place.y !== place.y
    );
  }

  override render(): JSX.Element {
    return <GraphCard {...this.props} />;
  }
}

/** A node with its inputs, as a group of fields. */
function GraphCard({
  card,
  isFull,
  onFault,
  onGrab,
  onPull,
  onUnplug,
  picture,
  place,
  session,
  value,
}: GraphCardProps): JSX.Element {
  const { call, inputs, isHook, isMuted, line, name, note, type } = card;
  const gravity = isHook ? undefined : session.gravityOf(name);
  const isChosen = !isHook && session.chosen.has(name);
  const classes = ['card-node', isHook && 'hook', isChosen && 'chosen', isMuted && 'muted', gravity].filter(
    Boolean,
  );
  // One element for both: it keeps the focus.
  const spot = {
    style: {
      left: `${place.x}px`,
      top: `${place.y}px`,
      width: `${CARD.width}px`,
      height: isFull ? '' : `${heightOf(card)}px`,
    },
    role: 'group',
    'aria-label': isHook ? `gives ${name}` : `node ${name}`,
    tabIndex: 0,
    'data-card': isHook ? `hook ${name}` : name,
    title: note || line,
    onFocus: (event: FocusEvent): void => {
      if (!isHook && event.target === event.currentTarget && !session.chosen.has(name))
        session.choose([name]);
    },
  } as const;
  if (!isFull) return <div class="card-spot" {...spot} onPointerDown={onGrab} />;
  return (
    <div class={classes.join(' ')} {...spot}>
      <div class="card-head" onPointerDown={onGrab}>
        {!isHook && <Picture data={picture} />}
        <div class="card-title">
          <b>{name}</b>
          <span>
            {isMuted ? 'muted' : call}
            {type && ` → ${type}`}
          </span>
          {value && <code title="its value under the probe">{value}</code>}
        </div>
        {!isHook && (
          <span
            class="port out"
            data-out={name}
            title={`drag it to an input: ${name}`}
            onPointerDown={onPull}
          />
        )}
      </div>
      {inputs.map((input) => (
        <InputRow
          key={input.path.join('/')}
          owner={name}
          input={input}
          session={session}
          onFault={onFault}
          onUnplug={onUnplug}
        />
      ))}
    </div>
  );
}

function Picture({ data }: { data: ImageData | undefined }): JSX.Element {
  const canvas = useRef<HTMLCanvasElement>(null);
  useEffect(() => {
    // Not by the GPU: each canvas of its own would be a layer of the page.
    if (data) canvas.current?.getContext('2d', { willReadFrequently: true })?.putImageData(data, 0, 0);
  }, [data]);
  if (!data) return <span class="card-picture" />;
  return <canvas ref={canvas} width={PICTURE} height={PICTURE} class="card-picture" aria-hidden="true" />;
}

interface InputFieldProps {
  owner: string;
  input: CardInput;
  session: GraphSession;
  onFault(text: string): void;
}

function InputRow({
  onUnplug,
  ...field
}: InputFieldProps & { onUnplug: GraphCardProps['onUnplug'] }): JSX.Element {
  const { from, isNested, label, path } = field.input;
  const [source] = from;
  return (
    <label class={`card-input${source === undefined ? '' : ' linked'}`} data-input={JSON.stringify(path)}>
      <span
        class="port"
        title={source === undefined || isNested ? '' : 'drag the link away'}
        onPointerDown={(event) => {
          if (source !== undefined && !isNested) onUnplug(path, source, event);
        }}
      />
      <span class="card-label">{label}</span>
      <InputField {...field} />
    </label>
  );
}

/** What stands at an input, to be typed. */
export function InputField({ input, onFault, owner, session }: InputFieldProps): JSX.Element {
  const { isNested, label, path, placeholder, text } = input;
  const take = (typed: string): void => {
    try {
      const { nodes, takes } = session.board;
      const value = typedInput(typed, Object.keys({ ...takes, ...nodes }));
      session.editBoard(`${label} of ${owner}`, [{ type: 'set', at: path, value: value ?? null }]);
    } catch (error) {
      onFault((error as Error).message);
    }
  };
  return (
    <TypedField
      label={`${owner}: ${label}`}
      value={text}
      placeholder={placeholder || 'default'}
      title={isNested ? 'a formula: type a value, @name, or JSON to put another in its place' : ''}
      onTake={take}
    />
  );
}
