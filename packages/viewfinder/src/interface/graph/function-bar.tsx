import type { JSX } from 'preact';
import { useState } from 'preact/hooks';
import { TAKEN_TYPES } from '../../logic/graph/board-graph.js';
import { TypedField } from './typed-field.js';

interface FunctionBarProps {
  name: string;
  /** Types by name. */
  takes: Readonly<Record<string, string>>;
  onRename(name: string): void;
  onTake(name: string, type: string): void;
  onLeave(): void;
}

/** The function whose nodes are shown: its name, what it takes, and the way out. */
export function FunctionBar({ name, onLeave, onRename, onTake, takes }: FunctionBarProps): JSX.Element {
  const [type, setType] = useState<string>('f32');
  return (
    <div class="graph-details function-bar" role="group" aria-label="function">
      <button type="button" onClick={onLeave} title="back to the graph that calls it">
        ← graph
      </button>
      <TypedField
        label="name of the function"
        value={name}
        title="renamed with all that call it"
        onTake={onRename}
      />
      <span>
        takes{' '}
        {Object.entries(takes)
          .map(([one, of]) => `${one}: ${of}`)
          .join(', ') || 'nothing'}
      </span>
      <span class="grow" />
      <select
        aria-label="type of what it takes besides"
        value={type}
        onChange={(event) => setType(event.currentTarget.value)}
      >
        {Object.keys(TAKEN_TYPES).map((one) => (
          <option key={one} value={one}>
            {one}
          </option>
        ))}
      </select>
      <TypedField
        label="takes besides"
        placeholder="takes besides …"
        value=""
        title="a name, and Enter: all that call it give 0 until something else is put in"
        onTake={(other) => onTake(other, type)}
      />
    </div>
  );
}
