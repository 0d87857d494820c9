import type { Property } from '@umber-lens/core/engine';
import type { JSX } from 'preact';
import { useRef, useState } from 'preact/hooks';
import { readAmount, shownAmount, shownUnit } from '../logic/values/amount.js';

/** What a number field tells: a value that is final, or one on its way. */
export interface NumberEvents {
  /** @param merge what it goes on with, as one step of undoing */
  onValue(value: number | undefined, merge?: string): void;
}

interface NumberFieldProps extends NumberEvents {
  /** What screen readers and tests call it: `translation x`. */
  label: string;
  property: Property;
  /** Undefined: left out. */
  value: number | undefined;
  isMixed?: boolean;
  placeholder?: string | undefined;
}

/** A number that is typed as a sum, with units, or stepped by arrow keys: with shift ten steps, with alt a tenth. */
export function NumberField({
  isMixed = false,
  label,
  onValue,
  placeholder,
  property,
  value,
}: NumberFieldProps): JSX.Element {
  const [typed, setTyped] = useState<string | undefined>(undefined);
  const [wrong, setWrong] = useState('');
  const input = useRef<HTMLInputElement>(null);
  const unit = unitOf(property);
  const { factor, sign, step } = shownUnit(unit);
  const [min, max] = property.range ?? [-Infinity, Infinity];
  const shown = value === undefined || isMixed ? '' : shownAmount(value, unit);
  const commit = (text: string): boolean => {
    if (text.trim() === '') {
      onValue(undefined);
      setTyped(undefined);
      return true;
    }
    try {
      onValue(readAmount(text, unit));
      setTyped(undefined);
      setWrong('');
      return true;
    } catch (error) {
      setWrong((error as Error).message);
      return false;
    }
  };
  const stepBy = (by: number): void => {
    const from = value ?? 0;
    const size = property.isWhole ? Math.max(1, Math.round(step)) : stepOf(property, step) * factor;
    const next = Number(
      (
        from +
        by * (property.isWhole ? Math.sign(by) * Math.max(1, Math.abs(Math.round(by))) * Math.sign(by) : size)
      ).toPrecision(9),
    );
    onValue(Math.min(max, Math.max(min, next)), label);
    setTyped(undefined);
  };
  const limits: Record<`aria-value${'min' | 'max' | 'now'}`, number> = {} as never;
  if (Number.isFinite(min)) limits['aria-valuemin'] = min / factor;
  if (Number.isFinite(max)) limits['aria-valuemax'] = max / factor;
  if (value !== undefined && !isMixed && Number.isFinite(value))
    limits['aria-valuenow'] = Number(shown) || value / factor;
  return (
    <div class={`number${sign ? ' unit' : ''}${wrong ? ' wrong' : ''}`} title={wrong || undefined}>
      <input
        ref={input}
        type="text"
        role="spinbutton"
        inputMode="decimal"
        autocomplete="off"
        spellcheck={false}
        aria-label={label}
        aria-invalid={wrong !== ''}
        aria-valuetext={isMixed ? 'differ' : `${shown} ${sign}`.trim() || 'none'}
        {...limits}
        placeholder={isMixed ? 'differ' : placeholder}
        value={typed ?? shown}
        onInput={(event) => setTyped(event.currentTarget.value)}
        onFocus={(event) => event.currentTarget.select()}
        onBlur={() => {
          if (typed !== undefined && typed !== shown && !commit(typed)) setTyped(undefined);
          setTyped(undefined);
          setWrong('');
        }}
        onKeyDown={(event) => {
          if (event.key === 'Enter') {
            if (typed === undefined || commit(typed)) input.current?.select();
          } else if (event.key === 'Escape') {
            if (typed === undefined) return;
            setTyped(undefined);
            setWrong('');
          } else if (event.key === 'ArrowUp' || event.key === 'ArrowDown') {
            const size = event.shiftKey ? 10 : event.altKey ? 0.1 : 1;
            stepBy(event.key === 'ArrowUp' ? size : -size);
          } else return;
          event.preventDefault();
          event.stopPropagation();
        }}
      />
      {sign && <span class="sign">{sign}</span>}
    </div>
  );
}

/** The unit of a property; those that differ by type are left to the label. */
export const unitOf = ({ unit }: Property): Exclude<Property['unit'], object | undefined> | undefined =>
  typeof unit === 'string' ? unit : undefined;

/** What has a range of its own is stepped by a hundredth of it. */
function stepOf({ range, unit }: Property, step: number): number {
  const span = range ? range[1] - range[0] : Infinity;
  return span <= 10 && unit === undefined ? Number((span / 100).toPrecision(1)) : step;
}
