import type { JSX } from 'preact';
import { useEffect, useRef, useState } from 'preact/hooks';
import type { Graph } from '@umber-lens/core/graphs';
import { type Offer, offersOf } from '../../logic/graph/graph-offers.js';

interface AddBoxProps {
  graph: Graph;
  /** Type of what is dragged there; undefined where nothing is. */
  type: string | undefined;
  at: { x: number; y: number };
  onTake(offer: Offer): void;
  onClose(): void;
}

/** Nodes by typing: what is found is offered, best first. */
export function AddBox({ at, graph, onClose, onTake, type }: AddBoxProps): JSX.Element {
  const [typed, setTyped] = useState('');
  const [index, setIndex] = useState(0);
  const input = useRef<HTMLInputElement>(null);
  const list = useRef<HTMLUListElement>(null);
  const offers = offersOf(graph, typed, type);
  useEffect(() => input.current?.focus(), []);
  useEffect(() => {
    list.current?.children[index]?.scrollIntoView({ block: 'nearest' });
  }, [index, typed]);
  const active = offers[index];
  return (
    <div
      class="panel add-box"
      style={{ left: `${at.x}px`, top: `${at.y}px` }}
      onFocusOut={(event) => {
        if (!event.currentTarget.contains(event.relatedTarget as Node | null)) onClose();
      }}
      onPointerDown={(event) => event.stopPropagation()}
    >
      <input
        ref={input}
        type="text"
        role="combobox"
        aria-label="add a node"
        aria-expanded="true"
        aria-controls="graph-offers"
        {...(active ? { 'aria-activedescendant': `offer-${index}` } : {})}
        placeholder={type === undefined ? 'name, or what it does' : `what takes a ${type}`}
        value={typed}
        onInput={(event) => {
          setTyped(event.currentTarget.value);
          setIndex(0);
        }}
        onKeyDown={(event) => {
          event.stopPropagation();
          if (event.key === 'ArrowDown') setIndex(Math.min(offers.length - 1, index + 1));
          else if (event.key === 'ArrowUp') setIndex(Math.max(0, index - 1));
          else if (event.key === 'Enter' && active) onTake(active);
          else if (event.key === 'Escape') onClose();
          else return;
          event.preventDefault();
        }}
      />
      <ul ref={list} id="graph-offers" role="listbox" aria-label="nodes that can be added">
        {offers.slice(0, 60).map((offer, i) => (
          <li
            key={`${offer.group}/${offer.call}`}
            id={`offer-${i}`}
            role="option"
            aria-selected={i === index}
            onPointerDown={(event) => {
              event.preventDefault();
              onTake(offer);
            }}
          >
            <b>{offer.call}</b>
            <span>{offer.line}</span>
          </li>
        ))}
        {offers.length === 0 && <li class="none">Nothing is called so.</li>}
      </ul>
    </div>
  );
}
