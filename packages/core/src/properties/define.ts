import type { Property, PropertyType, Table } from './property.js';

// Short hands for the rows of tables: the line first, then what is special.

type More = Omit<Partial<Property>, 'line' | 'type'>;

const typed =
  (type: PropertyType) =>
  (line: string, more: More = {}): Property => ({ line, type, ...more });

export const boolean = typed('boolean');
export const string = typed('string');
export const given = typed('given');
export const callback = typed('function');
export const texture = typed('texture');
export const number = typed('number');
export const vector = (line: string, length: number, more: More = {}): Property => ({
  line,
  type: 'numbers',
  length,
  ...more,
});

/** Without a fraction. */
export const whole = (line: string, more: More = {}): Property => number(line, { isWhole: true, ...more });
/** 0 or more. */
export const positive = (line: string, more: More = {}): Property =>
  number(line, { range: [0, Infinity], ...more });
/** More than 0. */
export const aboveZero = (line: string, more: More = {}): Property =>
  number(line, { range: [0, Infinity], isOpen: true, ...more });
/** 0 to 1. */
export const share = (line: string, more: More = {}): Property => number(line, { range: [0, 1], ...more });
export const angle = (line: string, range: Property['range'], more: More = {}): Property =>
  number(line, { unit: 'radians', ...(range ? { range } : {}), ...more });
/** What is a color of a surface, 0 to 1. */
export const surfaceColor = (line: string, more: More = {}): Property =>
  vector(line, 3, { range: [0, 1], color: 'linear', ...more });
/** Light may be brighter than white. */
export const radiance = (line: string, more: More = {}): Property =>
  vector(line, 3, { range: [0, Infinity], color: 'linear', ...more });
export const word = (line: string, words: readonly string[], more: More = {}): Property => ({
  line,
  type: 'word',
  words,
  ...more,
});
export const object = (line: string, of?: Table, more: More = {}): Property => ({
  line,
  type: 'object',
  ...(of ? { of } : {}),
  ...more,
});

export const NAME = string('Its name.', { names: 'itself' });
export const EXTRAS = given("Data of the user's own; kept in files.", { file: 'extras' });
