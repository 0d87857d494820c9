import { inWords } from '../errors/in-words.js';
import { LensError } from '../errors/lens-error.js';
import { nearest } from '../errors/near-names.js';
import { faultsOf } from './faults.js';
import { noteMade } from './made-of.js';
import type { Meant, Table } from './property.js';
import { PLAY_TABLE } from './tables/animation.js';
import { LIGHT_TABLE } from './tables/light.js';
import { CAMERA_TABLE, NODE_MEANT, NODE_TABLE } from './tables/node.js';
import { SHAPE_TABLES, SWARM_LEVEL_TABLE, SWARM_TABLE } from './tables/shapes.js';

/** What functions take as options, by their names. */
const OPTIONS: Readonly<Record<string, Table>> = {
  ...SHAPE_TABLES,
  play: PLAY_TABLE,
  'a swarm': SWARM_TABLE,
  'a level of a swarm': SWARM_LEVEL_TABLE,
};

/**
 * Looks at the names of options while developing; builds for production have the silent twin of this in its place. What they
 * hold is checked by those who take them, in production too.
 *
 * @param what takes them: `box`
 * @throws LensError `options/unknown` for names that are not in its table
 */
export function watchOptions(what: string, given: object): void {
  const names = Object.keys(OPTIONS[what]!); // whoever asks has one
  for (const name of Object.keys(given)) {
    if (names.includes(name)) continue;
    const near = nearest(name, names);
    throw new LensError('options/unknown', `${what} takes no option "${name}"`, {
      hint: `${near === undefined ? '' : `Did you mean "${near}"? `}It takes ${names.join(', ') || 'none'}.`,
    });
  }
}

/** Notes what something is made of: see `madeOf`. */
export function watchMade<T extends object>(made: T, what: string, options: object): T {
  noteMade(made, what, options);
  return made;
}

/** @throws LensError `options/wrong` for the first member that is wrong */
export function watchTable(given: object, table: Table, what: string, meant?: Meant): void {
  const [first] = faultsOf(given, table, what, meant);
  if (first) throw new LensError('options/wrong', first.summary, { hint: first.hint });
}

/** @throws LensError `geometry/index` for one that names no vertex */
export function watchIndices(indices: ArrayLike<number>, count: number, name: string | undefined): void {
  for (let i = 0; i < indices.length; i++) {
    const index = indices[i]!; // i < length
    if (index >= 0 && index < count && index === Math.floor(index)) continue;
    throw new LensError(
      'geometry/index',
      `index ${i} of ${name ? `geometry "${name}"` : 'a geometry'} is ${index}`,
      { hint: `Indices are whole numbers from 0 to ${count - 1}: it has ${count} vertices.` },
    );
  }
}

/** What a node is made from: no more than a look at each member, since there may be very many. @throws LensError `options/unknown`, `options/wrong` */
export function watchNode(given: Readonly<Record<string, unknown>>): void {
  for (const name in given) {
    if (!(name in NODE_TABLE)) watchTable({ [name]: undefined }, NODE_TABLE, 'a node', NODE_MEANT);
    const value = given[name];
    const kind = KINDS[name];
    if (kind === undefined || value === undefined || typeof value === kind.type) continue;
    throw new LensError('options/wrong', `"${name}" of ${nodeOf(given)} is ${inWords(value)}`, {
      hint: kind.hint,
    });
  }
  for (const part of ['light', 'camera'] as const) {
    const value = given[part] as { type?: unknown } | null | undefined;
    if (value && value.type === undefined)
      throw new LensError('options/wrong', `the ${part} of ${nodeOf(given)} has no type`, {
        hint: `Give one of ${[...(part === 'light' ? LIGHT_TABLE : CAMERA_TABLE)['type']!.words!].join(', ')}.`, // both have it
      });
  }
}

const nodeOf = ({ name }: Readonly<Record<string, unknown>>): string =>
  typeof name === 'string' ? `node "${name}"` : 'a node';
/** What members of a node are, where a wrong one would be told by nobody else. */
const KINDS: Readonly<Record<string, { type: string; hint: string }>> = {
  name: { type: 'string', hint: 'Give a text.' },
  parent: { type: 'object', hint: 'Give the node itself: scene.find(name).' },
  light: { type: 'object', hint: "Write { type: 'point', intensity: 100 }, or another type of light." },
  camera: { type: 'object', hint: "Write { type: 'perspective', yfov: 0.8, znear: 0.1 }." },
  mesh: { type: 'object', hint: 'Write { geometry, material }.' },
  visible: { type: 'boolean', hint: 'Give true or false.' },
};
