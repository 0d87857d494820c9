/** Whether a value is an array, or a typed array, of numbers. */
export const isNumbers = (given: unknown): given is ArrayLike<number> & Iterable<number> =>
  (Array.isArray(given) || (ArrayBuffer.isView(given) && !(given instanceof DataView))) &&
  Array.from(given as unknown as ArrayLike<unknown>).every((part) => typeof part === 'number');

/** A value that was given in place of another, as a person would say it. */
export function inWords(given: unknown): string {
  if (given === null) return 'null';
  if (given === '') return 'an empty text';
  if (typeof given === 'string')
    return `the text "${given.length > 40 ? `${given.slice(0, 40)}...` : given}"`;
  if (typeof given === 'function') return 'a function';
  if (given instanceof Promise) return 'a promise (await what gives it)';
  if (isNumbers(given)) return `[${[...given].slice(0, 6).join(', ')}${given.length > 6 ? ', ...' : ''}]`;
  return typeof given === 'object' ? 'an object of another kind' : String(given as number);
}
