import type { JSX } from 'preact';
import { useState } from 'preact/hooks';

interface TypedFieldProps {
  label: string;
  value: string;
  placeholder?: string;
  title?: string;
  isWide?: boolean;
  /** Hears what was typed, when it is done. */
  onTake(value: string): void;
}

/** A field of text that counts when Enter is pressed or it is left; Escape takes back what was typed. */
export function TypedField({
  isWide = false,
  label,
  onTake,
  placeholder = '',
  title = '',
  value,
}: TypedFieldProps): JSX.Element {
  const [typed, setTyped] = useState<string | undefined>(undefined);
  const commit = (): void => {
    if (typed !== undefined && typed !== value) onTake(typed);
    setTyped(undefined);
  };
  return (
    <input
      type="text"
      class={isWide ? 'wide' : ''}
      aria-label={label}
      value={typed ?? value}
      placeholder={placeholder}
      title={title}
      spellcheck={false}
      onInput={(event) => setTyped(event.currentTarget.value)}
      onBlur={commit}
      onKeyDown={(event) => {
        // Keys of text are the field's; saving is the graph's.
        if (!((event.ctrlKey || event.metaKey) && event.key.toLowerCase() === 's')) event.stopPropagation();
        if (event.key === 'Enter') commit();
        if (event.key === 'Escape') setTyped(undefined);
      }}
    />
  );
}
