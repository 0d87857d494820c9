import { Component, type ComponentChildren, type JSX } from 'preact';
import type { Card } from '../../logic/graph/graph-cards.js';
import { CARD, type CardPlace, heightOf, keyOf } from '../../logic/graph/graph-layout.js';
import { type Box, pathOf, type Place, routeOf } from '../../logic/graph/link-routes.js';

/** A link with the input at its end. */
export interface Link {
  from: string;
  to: Card;
  path: readonly (string | number)[];
  points: Place[];
}

export const outOf = ({ x, y }: CardPlace): CardPlace => ({ x: x + CARD.width, y: y + 22 });
const into = ({ x, y }: CardPlace, i: number): CardPlace => ({ x, y: y + CARD.head + (i + 0.5) * CARD.row });

/** All links of a graph, led around its cards. */
export function linksOf(cards: readonly Card[], placeOf: (key: string) => CardPlace): Link[] {
  const boxes: Box[] = cards.map((card) => ({
    ...placeOf(keyOf(card)),
    width: CARD.width,
    height: heightOf(card),
  }));
  return cards.flatMap((to) =>
    to.inputs.flatMap(({ from, path }, i) =>
      from.map((name) => ({
        from: name,
        to,
        path,
        points: routeOf(outOf(placeOf(name)), into(placeOf(keyOf(to)), i), boxes),
      })),
    ),
  );
}

interface LinkLineProps {
  link: Link;
  isNear: boolean;
  onInto(link: Link, event: MouseEvent): void;
}

/** A line that is drawn anew only where it goes another way: there may be thousands. */
export class LinkLine extends Component<LinkLineProps> {
  override shouldComponentUpdate(next: LinkLineProps): boolean {
    return next.link !== this.props.link || next.isNear !== this.props.isNear;
  }

  override render({ isNear, link, onInto }: LinkLineProps): JSX.Element {
    const d = pathOf(link.points);
    return (
      <g>
        <path class={isNear ? 'near' : ''} d={d} />
        <path class="reach" d={d} onDblClick={(event) => onInto(link, event)}>
          <title>double-click: puts a node into it</title>
        </path>
      </g>
    );
  }
}

/** Whether a link begins or ends at something chosen. */
export const isNear = ({ from, to }: Link, chosen: ReadonlySet<string>): boolean =>
  chosen.has(from) || (!to.isHook && chosen.has(to.name));

/** Lines; those that are moved are a layer of the page, so that others are not painted with them. */
export const Lines = ({
  children,
  isMoving = false,
}: {
  children: ComponentChildren;
  isMoving?: boolean;
}): JSX.Element => (
  <svg class={isMoving ? 'links moving' : 'links'} width="1" height="1" aria-hidden="true">
    {children}
  </svg>
);

/** A line that is being drawn by hand. */
export const PulledLink = ({ from, to }: { from: Place; to: Place }): JSX.Element => (
  <Lines>
    <path class="near" d={pathOf([from, to])} />
  </Lines>
);
