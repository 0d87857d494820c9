import { inWords, isNumbers } from '../errors/in-words.js';
import { nearest } from '../errors/near-names.js';
import type { Meant, Property, Table } from './property.js';

/** What is wrong with a member. */
export interface Fault {
  member: string;
  summary: string;
  hint: string;
}

/**
 * Everything that is wrong with a plain object.
 *
 * @param what it is, for messages: `the light of node "sun"`
 * @param meant names that are not ours, and what is ours
 */
export function faultsOf(value: object, table: Table, what: string, meant: Meant = {}): Fault[] {
  const faults: Fault[] = [];
  for (const [member, given] of Object.entries(value)) {
    const property = Object.hasOwn(table, member) ? table[member] : undefined;
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
    else if (isIdle(value, property))
      faults.push({
        member,
        summary: `"${member}" of ${what} does nothing, since its type is ${(value as Typed).type}`,
        hint: `It counts for ${property.only!.join(', ')}.`, // idle ones have it
      });
    else if (property.of && typeof given === 'object') {
      const { of } = property;
      const whole = `"${member}" of ${what}`;
      const each = (one: unknown, i: number): Fault[] =>
        typeof one === 'object' && one !== null ? faultsOf(one, of, `${i + 1} in ${whole}`) : [];
      faults.push(...(Array.isArray(given) ? given.flatMap(each) : faultsOf(given as object, of, whole)));
    }
  }
  return faults;
}

interface Typed {
  type?: unknown;
}

/** Whether a member counts for other types of its thing alone. */
const isIdle = (value: Typed, { only }: Property): boolean =>
  only !== undefined && typeof value.type === 'string' && !only.includes(value.type);

/** What is wrong with a value by its row: what it is, and what to do; undefined where nothing is. */
export function wrongIn(given: unknown, property: Property): [summary: string, hint: string] | undefined {
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
  const split = property.isWhole ? numbers.find((n) => !Number.isInteger(n)) : undefined;
  if (split !== undefined) return [`is ${inWords(given)}`, 'It takes whole numbers.'];
  // Colors of light may be brighter than white, but none is a whole number of 255.
  const isBytes =
    property.color !== undefined &&
    numbers.some((n) => n > 16) &&
    numbers.every((n) => Number.isInteger(n) && n <= 255);
  if (isBytes && property.type === 'numbers') return [`is ${inWords(given)}`, bytesHint(property)];
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

function wantedOf({ type, length, words, color }: Property, given: unknown): string {
  if (given instanceof Promise) return 'Wait for it: await what gives it.';
  if (type === 'texture') {
    if (typeof given === 'string') return 'Load it: { texture: await loadTexture(address) }.';
    return isTexture(given) ? 'Wrap it: { texture }.' : 'Give { texture }, of loadTexture or of a model.';
  }
  if (type === 'numbers' && color !== undefined)
    return `Give ${length ?? 3} numbers from 0 to 1, ${color === 'linear' ? 'linear' : 'sRGB-encoded'}: [1, 0.5, 0${length === 4 ? ', 1' : ''}]${typeof given === 'string' ? `, or ${length === 4 ? 'colorWithAlpha' : 'color'}('${given}')` : ''}.`;
  if (type === 'numbers') return `Give ${length === undefined ? '' : `${length} `}numbers in an array.`;
  if (type === 'word') return `It is one of ${words!.join(', ')}.`; // words have them
  if (type === 'object') return 'Give a plain object.';
  return `Give ${type === 'given' ? 'something else' : `a ${type}`}.`;
}

function rangeHint(property: Property, given: number): string {
  const { range, unit, isOpen, color } = property;
  const [min, max] = range!; // something is out of it
  const whole =
    max === Infinity
      ? isOpen
        ? `It is above ${min}.`
        : `It is ${min} or more.`
      : `It is ${isOpen ? 'between' : 'from'} ${Number(min.toPrecision(4))} ${isOpen ? 'and' : 'to'} ${Number(max.toPrecision(4))}.`;
  if (unit === 'radians' && given > max)
    return `${whole} Angles are radians: ${given} degrees are ${Number(((given * Math.PI) / 180).toPrecision(4))}.`;
  if (color !== undefined && given > 1 && given <= 255) return `${whole} ${bytesHint(property)}`;
  return whole;
}

const bytesHint = ({ color }: Property): string =>
  `Colors are 0 to 1, not 0 to 255, and ${color === 'linear' ? 'linear' : 'sRGB-encoded'}.`;
