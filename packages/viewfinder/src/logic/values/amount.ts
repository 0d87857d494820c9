import { LensError, type Unit } from '@umber-lens/core/engine';

/** How numbers of a unit are shown and typed. */
export interface ShownUnit {
  /** Behind the number: `°`. Empty where it counts nothing. */
  sign: string;
  /** One of what is shown, in what is stored. */
  factor: number;
  /** What an arrow key adds, as shown. */
  step: number;
  /** Digits behind the point that are shown at most. */
  digits: number;
}

const PLAIN: ShownUnit = { sign: '', factor: 1, step: 0.1, digits: 4 };

const SHOWN: Partial<Record<Unit, ShownUnit>> = {
  radians: { sign: '°', factor: Math.PI / 180, step: 1, digits: 2 },
  metres: { sign: 'm', factor: 1, step: 0.1, digits: 4 },
  seconds: { sign: 's', factor: 1, step: 0.1, digits: 3 },
  milliseconds: { sign: 'ms', factor: 1, step: 1, digits: 2 },
  pixels: { sign: 'px', factor: 1, step: 1, digits: 2 },
  kelvin: { sign: 'K', factor: 1, step: 100, digits: 0 },
  lux: { sign: 'lx', factor: 1, step: 0.1, digits: 3 },
  candela: { sign: 'cd', factor: 1, step: 1, digits: 3 },
  'candela / metre²': { sign: 'cd/m²', factor: 1, step: 1, digits: 3 },
  stops: { sign: 'stops', factor: 1, step: 0.1, digits: 2 },
};

/** How a property of a unit is shown: angles in degrees, all else as it is stored. */
export const shownUnit = (unit: Unit | undefined): ShownUnit =>
  (unit === undefined ? undefined : SHOWN[unit]) ?? PLAIN;

/** Units that may be typed, in the unit that is stored. */
const TYPED: Readonly<Record<string, readonly [of: Unit, factor: number]>> = {
  deg: ['radians', Math.PI / 180],
  '°': ['radians', Math.PI / 180],
  rad: ['radians', 1],
  turn: ['radians', 2 * Math.PI],
  mm: ['metres', 0.001],
  cm: ['metres', 0.01],
  m: ['metres', 1],
  km: ['metres', 1000],
  ms: ['seconds', 0.001],
  s: ['seconds', 1],
  px: ['pixels', 1],
  K: ['kelvin', 1],
  lx: ['lux', 1],
  cd: ['candela', 1],
  stops: ['stops', 1],
};

/**
 * What somebody typed for a number: a sum (`2*1.5+1`, with brackets), numbers with units or without (`45deg`, `30cm`, `5600K`). A number
 * without a unit counts as it is shown.
 *
 * @param unit of the property
 * @returns in the unit that the property is stored in
 * @throws LensError `viewfinder/amount` saying what cannot be read, and from which place on
 */
export function readAmount(text: string, unit?: Unit): number {
  const { at, value } = new Sum(text, unit).read();
  if (at !== undefined || !Number.isFinite(value)) return refuse(text, at ?? 0, 'it is no number');
  return value;
}

function refuse(text: string, at: number, why: string): never {
  throw new LensError('viewfinder/amount', `"${text}" cannot be read: ${why}`, {
    hint: `See from the sign ${at + 1} on. Write a number or a sum, with a unit or without: 1.5, 2*1.5+1, 30cm, 45deg.`,
  });
}

/** A value on its way, with whether it has a unit already. */
interface Part {
  value: number;
  hasUnit: boolean;
}

class Sum {
  private at = 0;

  constructor(
    private readonly text: string,
    private readonly unit: Unit | undefined,
  ) {}

  read(): { value: number; at?: number } {
    const { hasUnit, value } = this.sum();
    this.skip();
    if (this.at < this.text.length) return { value: NaN, at: this.at };
    return { value: hasUnit ? value : value * shownUnit(this.unit).factor };
  }

  private skip(): void {
    while (this.text[this.at] === ' ') this.at++;
  }

  private takes(signs: string): string | undefined {
    this.skip();
    const sign = this.text[this.at];
    if (sign === undefined || !signs.includes(sign)) return undefined;
    this.at++;
    return sign;
  }

  private sum(): Part {
    let whole = this.product();
    for (let sign = this.takes('+-−'); sign; sign = this.takes('+-−')) {
      const [left, right] = this.alike(whole, this.product());
      whole = {
        value: sign === '+' ? left.value + right.value : left.value - right.value,
        hasUnit: left.hasUnit,
      };
    }
    return whole;
  }

  /** Both with a unit or both without: what has none counts as it is shown. */
  private alike(a: Part, b: Part): [Part, Part] {
    const { factor } = shownUnit(this.unit);
    const with_ = (part: Part): Part => (part.hasUnit ? part : { value: part.value * factor, hasUnit: true });
    return a.hasUnit === b.hasUnit ? [a, b] : [with_(a), with_(b)];
  }

  private product(): Part {
    let whole = this.signed();
    for (let sign = this.takes('*/×÷'); sign; sign = this.takes('*/×÷')) {
      const next = this.signed();
      if (whole.hasUnit && next.hasUnit) refuse(this.text, this.at - 1, 'two units are multiplied');
      const isProduct = sign === '*' || sign === '×';
      if (!isProduct && next.hasUnit)
        refuse(this.text, this.at - 1, 'it is divided by something with a unit');
      whole = {
        value: isProduct ? whole.value * next.value : whole.value / next.value,
        hasUnit: whole.hasUnit || next.hasUnit,
      };
    }
    return whole;
  }

  private signed(): Part {
    if (this.takes('-−')) {
      const { hasUnit, value } = this.signed();
      return { value: -value, hasUnit };
    }
    if (this.takes('+')) return this.signed();
    return this.withUnit(this.takes('(') ? this.bracket() : { value: this.number(), hasUnit: false });
  }

  private bracket(): Part {
    const inner = this.sum();
    if (!this.takes(')')) refuse(this.text, this.at, 'a bracket is not closed');
    return inner;
  }

  private number(): number {
    this.skip();
    const [found] = /^(\d+([.,]\d*)?|[.,]\d+)(e[+-]?\d+)?/i.exec(this.text.slice(this.at)) ?? [];
    if (found === undefined)
      return refuse(this.text, this.at, this.text.trim() ? 'a number is missing' : 'it is empty');
    this.at += found.length;
    return Number(found.replace(',', '.'));
  }

  private withUnit(part: Part): Part {
    this.skip();
    const [name] = /^([a-zA-Z]+|°|%)/.exec(this.text.slice(this.at)) ?? [];
    if (name === undefined) return part;
    const from = this.at;
    this.at += name.length;
    if (part.hasUnit) refuse(this.text, from, 'it has a unit already');
    if (name === '%') return { value: part.value / 100, hasUnit: true };
    const known = TYPED[name];
    const wanted = this.unit === 'milliseconds' ? 'seconds' : this.unit;
    if (!known || known[0] !== wanted) {
      const fitting = Object.keys(TYPED).filter((one) => TYPED[one]![0] === wanted); // its own keys
      refuse(
        this.text,
        from,
        fitting.length > 0 ? `"${name}" is none of ${fitting.join(', ')}` : 'it takes no unit',
      );
    }
    return { value: part.value * known[1] * (this.unit === 'milliseconds' ? 1000 : 1), hasUnit: true };
  }
}

/** A stored number as it is shown, without its unit: as short as it can be. */
export function shownAmount(value: number, unit?: Unit): string {
  const { digits, factor } = shownUnit(unit);
  const shown = value / factor;
  if (!Number.isFinite(shown)) return shown > 0 ? '∞' : '';
  // What is tiny keeps its first digits.
  const isTiny = shown !== 0 && Math.abs(shown) < 10 ** -digits;
  const rounded = Number(isTiny ? shown.toPrecision(3) : shown.toFixed(digits));
  if (rounded === 0) return '0';
  // Without an exponent, which nobody types.
  return Math.abs(rounded) < 1e-6
    ? rounded.toFixed(Math.min(20, 2 - Math.floor(Math.log10(Math.abs(rounded)))))
    : String(rounded);
}
