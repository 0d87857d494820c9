import type { JSX } from 'preact';
import type { Card } from '../../logic/graph/graph-cards.js';
import { keyOf } from '../../logic/graph/graph-layout.js';
import type { GraphSession } from '../../logic/graph/graph-session.js';
import { InputField } from './graph-card.js';

interface GraphListProps {
  cards: readonly Card[];
  session: GraphSession;
  values: ReadonlyMap<string, string>;
  onFault(text: string): void;
}

/** The graph as a table: for those who read it line by line, with all that can be typed in cards. */
export function GraphList({ cards, onFault, session, values }: GraphListProps): JSX.Element {
  return (
    <div class="graph-list" tabIndex={0} role="region" aria-label="list of the graph">
      <table>
        <thead>
          <tr>
            <th scope="col">node</th>
            <th scope="col">calls</th>
            <th scope="col">gives</th>
            <th scope="col">at the probe</th>
            <th scope="col">takes</th>
          </tr>
        </thead>
        <tbody>
          {cards.map((card) => {
            const { call, inputs, isHook, isMuted, name, type } = card;
            const isChosen = !isHook && session.chosen.has(name);
            const gravity = isHook ? undefined : session.gravityOf(name);
            return (
              <tr key={keyOf(card)} class={isChosen ? 'chosen' : ''}>
                <th scope="row">
                  {isHook ? (
                    <b>{name}</b>
                  ) : (
                    <button
                      type="button"
                      class="plain"
                      aria-pressed={isChosen}
                      onClick={(event) => session.choose([name], event.shiftKey)}
                    >
                      {name}
                    </button>
                  )}
                  {gravity && <span class={gravity}> {gravity}</span>}
                </th>
                <td>{isMuted ? `${call}, muted` : call}</td>
                <td>{type}</td>
                <td>
                  <code>{isHook ? '' : (values.get(name) ?? '')}</code>
                </td>
                <td>
                  {inputs.map((input) => (
                    <label key={input.path.join('/')}>
                      <span>{input.label}</span>
                      <InputField owner={name} input={input} session={session} onFault={onFault} />
                    </label>
                  ))}
                </td>
              </tr>
            );
          })}
        </tbody>
      </table>
    </div>
  );
}
