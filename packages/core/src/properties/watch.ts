import { LensError } from '../errors/lens-error.js';
import { nearest } from '../errors/near-names.js';
import { faultsOf, type Meant, type Table } from './property.js';
import { NODE_MEANT, NODE_TABLE } from './tables.js';

/**
 * Looks at options while developing; builds for production have the silent twin of this in its place.
 *
 * @param what they are of: `box`
 * @param names of the options that there are
 * @throws LensError `options/unknown` for names that are not among them
 */
export function watchOptions(what: string, given: object, names: readonly string[]): void {
  for (const name of Object.keys(given)) {
    if (names.includes(name)) continue;
    const near = nearest(name, names);
    throw new LensError('options/unknown', `${what} takes no option "${name}"`, {
      hint: `${near === undefined ? '' : `Did you mean "${near}"? `}It takes ${names.join(', ') || 'none'}.`,
    });
  }
}

/** @throws LensError `options/wrong` for the first member that is wrong */
export function watchTable(given: object, table: Table, what: string, meant?: Meant): void {
  const [first] = faultsOf(given, table, what, meant);
  if (first) throw new LensError('options/wrong', first.summary, { hint: first.hint });
}

/** What a node is made from: names alone, since there may be very many. @throws LensError `options/unknown` */
export function watchNode(given: object): void {
  for (const name in given) {
    if (name in NODE_TABLE) continue;
    watchTable({ [name]: undefined }, NODE_TABLE, 'a node', NODE_MEANT);
  }
}
