import { Component, type JSX } from 'preact';
import type { Card } from '../../logic/graph/graph-cards.js';
import { CARD, type CardPlace, heightOf } from '../../logic/graph/graph-layout.js';
import type { GraphSession } from '../../logic/graph/graph-session.js';

interface FarCardProps {
  card: Card;
  isChosen: boolean;
  place: CardPlace;
  session: GraphSession;
  picture: ImageData | undefined;
  onGrab(event: PointerEvent): void;
}

/** Where a card's picture stands on it, and its side. */
const PICTURE = { x: 7, y: 7, side: 54 };

/**
 * A card that is seen from far off, where nothing on it can be read: two boxes, of which the one has the color of its picture. They are shapes of one picture,
 * since a page paints a thousand of those faster than a thousand boxes of its own.
 */
export class FarCard extends Component<FarCardProps> {
  override shouldComponentUpdate(next: FarCardProps): boolean {
    const { card, isChosen, picture, place } = this.props;
    return (
      next.card !== card ||
      next.isChosen !== isChosen ||
      next.picture !== picture ||
      next.place.x !== place.x ||
      next.place.y !== place.y
    );
  }

  override render({ card, isChosen, onGrab, picture, place, session }: FarCardProps): JSX.Element {
    const { isHook, isMuted, name } = card;
    const gravity = isHook ? undefined : session.gravityOf(name);
    const classes = ['far-card', isHook && 'hook', isChosen && 'chosen', isMuted && 'muted', gravity];
    return (
      <g
        class={classes.filter(Boolean).join(' ')}
        transform={`translate(${place.x} ${place.y})`}
        role="group"
        aria-label={isHook ? `gives ${name}` : `node ${name}`}
        tabindex={0}
        data-card={isHook ? `hook ${name}` : name}
        onPointerDown={onGrab}
        onFocus={() => {
          if (!isHook && !session.chosen.has(name)) session.choose([name]);
        }}
      >
        <rect width={CARD.width} height={heightOf(card)} rx="5" />
        {!isHook && (
          <rect
            class="far-picture"
            x={PICTURE.x}
            y={PICTURE.y}
            width={PICTURE.side}
            height={PICTURE.side}
            {...(picture ? { style: { fill: meanColor(picture) } } : {})}
          />
        )}
      </g>
    );
  }
}

const means = new WeakMap<ImageData, string>();
/** The color that a picture has from far off. */
function meanColor(picture: ImageData): string {
  const known = means.get(picture);
  if (known !== undefined) return known;
  const { data } = picture;
  const sums: [number, number, number] = [0, 0, 0];
  for (let i = 0; i + 2 < data.length; i += 4) {
    sums[0] += data[i]!; // in range, as below
    sums[1] += data[i + 1]!;
    sums[2] += data[i + 2]!;
  }
  const mean = `rgb(${sums.map((sum) => Math.round((sum * 4) / data.length)).join(' ')})`;
  means.set(picture, mean);
  return mean;
}
