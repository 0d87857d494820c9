import { inWords, isNumbers } from '../errors/in-words.js';
import { nearest } from '../errors/near-names.js';

/** What a member of a plain object may hold. */
export interface Property {
  /** `object`: by a table of its own, in `of`. `given`: something of the library's or the user's that is not looked into. */
  type: 'number' | 'numbers' | 'boolean' | 'string' | 'word' | 'texture' | 'object' | 'given' | 'function';
  /** Of `numbers`: how many. */
  length?: number;
  /** Least and greatest of each number. */
  range?: readonly [min: number, max: number];
  /** Whether the range's ends are left out. */
  isOpen?: boolean;
  /** Of `word`: all that there are. */
  words?: readonly string[];
  of?: Table;
  /** Types that it may be as well. */
  or?: readonly Property['type'][];
  /** How numbers are meant, for hints: what is given in degrees or bytes is told as that. */
  unit?: 'radians' | 'linear color' | 'metres';
}

/** What a plain object may hold, by name. */
export type Table = Readonly<Record<string, Property>>;

/** What is wrong with a member. */
export interface Fault {
  member: string;
  summary: string;
  hint: string;
}

/** Names that other trades and formats have for ours. */
export type Meant = Readonly<Record<string, string>>;

/**
 * Everything that is wrong with a plain object.
 *
 * @param what it is, for messages: `the light of node "sun"`
 * @param meant names that are not ours, and what is ours
 */
export function faultsOf(value: object, table: Table, what: string, meant: Meant = {}): Fault[] {
  const faults: Fault[] = [];
  for (const [member, given] of Object.entries(value)) {
    const property = table[member];
    if (!property) {
      const near = meant[member] ?? nearest(member, Object.keys(table));
      const all = Object.keys(table);
      const list = all.length > 14 ? `${all.slice(0, 14).join(', ')} ...` : all.join(', ');
      faults.push({
        member,
        summary: `${what} has no "${member}"`,
        hint: near === undefined ? `It has ${list}.` : `Did you mean ${near}?`,
      });
      continue;
    }
    if (given === undefined) continue;
    const wrong = wrongIn(given, property);
    if (wrong) faults.push({ member, summary: `"${member}" of ${what} ${wrong[0]}`, hint: wrong[1] });
    else if (property.of && typeof given === 'object')
      faults.push(...faultsOf(given as object, property.of, `"${member}" of ${what}`));
  }
  return faults;
}

function wrongIn(given: unknown, property: Property): [summary: string, hint: string] | undefined {
  const types = [property.type, ...(property.or ?? [])];
  if (!types.some((type) => isOfType(given, type)))
    return [`is ${inWords(given)}`, wantedOf(property, given)];
  if (property.type === 'word' && typeof given === 'string' && !property.words!.includes(given)) {
    const near = nearest(given, property.words!); // words have them
    return [
      `cannot be "${given}"`,
      `${near === undefined ? '' : `Did you mean '${near}'? `}It is one of ${property.words!.join(', ')}.`,
    ];
  }
  const numbers = typeof given === 'number' ? [given] : isNumbers(given) ? [...given] : [];
  if (isNumbers(given) && property.length !== undefined && numbers.length !== property.length)
    return [`has ${numbers.length} numbers`, `It takes ${property.length}.`];
  if (numbers.some(Number.isNaN))
    return ['is not a number (NaN)', 'See where it is computed: 0 / 0, or a property that is undefined.'];
  // Colors of light may be brighter than white, but none is a whole number of 255.
  const isBytes =
    property.unit === 'linear color' &&
    numbers.some((n) => n > 16) &&
    numbers.every((n) => Number.isInteger(n) && n <= 255);
  if (isBytes && property.type === 'numbers')
    return [`is ${inWords(given)}`, 'Colors are 0 to 1, not 0 to 255, and linear.'];
  const [min, max] = property.range ?? [-Infinity, Infinity];
  const isIn = (n: number): boolean => (property.isOpen ? n > min && n < max : n >= min && n <= max);
  const out = numbers.find((n) => !isIn(n));
  return out === undefined ? undefined : [`is ${inWords(given)}`, rangeHint(property, out)];
}

function isOfType(given: unknown, type: Property['type']): boolean {
  switch (type) {
    case 'numbers':
      return isNumbers(given);
    case 'word':
    case 'string':
      return typeof given === 'string';
    case 'texture':
      return isTextureUse(given);
    case 'object':
      return typeof given === 'object' && given !== null && !isNumbers(given);
    case 'given':
      return given !== null;
    default:
      return typeof given === type;
  }
}

const isTextureUse = (given: unknown): boolean =>
  typeof given === 'object' && given !== null && 'texture' in given && isTexture(given.texture);

const isTexture = (given: unknown): boolean =>
  typeof given === 'object' && given !== null && 'image' in given;

function wantedOf({ type, length, words, unit }: Property, given: unknown): string {
  if (given instanceof Promise) return 'Wait for it: await what gives it.';
  if (type === 'texture') {
    if (typeof given === 'string') return 'Load it: { texture: await loadTexture(address) }.';
    return isTexture(given) ? 'Wrap it: { texture }.' : 'Give { texture }, of loadTexture or of a model.';
  }
  if (type === 'numbers' && unit === 'linear color')
    return `Give ${length ?? 3} numbers from 0 to 1, linear: [1, 0.5, 0${length === 4 ? ', 1' : ''}]${typeof given === 'string' ? `, or ${length === 4 ? 'colorWithAlpha' : 'color'}('${given}')` : ''}.`;
  if (type === 'numbers') return `Give ${length === undefined ? '' : `${length} `}numbers in an array.`;
  if (type === 'word') return `It is one of ${words!.join(', ')}.`; // words have them
  if (type === 'object') return 'Give a plain object.';
  return `Give ${type === 'given' ? 'something else' : `a ${type}`}.`;
}

function rangeHint({ range, unit, isOpen }: Property, given: number): string {
  const [min, max] = range!; // something is out of it
  const whole =
    max === Infinity
      ? isOpen
        ? `It is above ${min}.`
        : `It is ${min} or more.`
      : `It is ${isOpen ? 'between' : 'from'} ${Number(min.toPrecision(4))} ${isOpen ? 'and' : 'to'} ${Number(max.toPrecision(4))}.`;
  if (unit === 'radians' && given > max)
    return `${whole} Angles are radians: ${given} degrees are ${Number(((given * Math.PI) / 180).toPrecision(4))}.`;
  if (unit === 'linear color' && given > 1 && given <= 255)
    return `${whole} Colors are 0 to 1, not 0 to 255, and linear.`;
  return whole;
}
