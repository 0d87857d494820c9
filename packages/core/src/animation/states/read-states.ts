import { inWords } from '../../errors/in-words.js';
import { LensError } from '../../errors/lens-error.js';
import { nearest } from '../../errors/near-names.js';
import type { Property, Table } from '../../properties/property.js';
import {
  CONDITION_TABLE,
  PARAMETER_TABLE,
  STATE_LAYER_TABLE,
  STATE_TABLE,
  STATES_TABLE,
  TRANSITION_TABLE,
} from '../../properties/tables/animation.js';
import type { StatesDefinition } from './definition.js';

/** What a member holds: a type, a list of something, or an object by its own members. */
type Form =
  | 'string'
  | 'number'
  | 'boolean'
  | 'any'
  | { list: Form; least?: number; length?: number }
  | { map: Form }
  | { oneOf: readonly string[] }
  | { either: readonly Form[] }
  | Members;
interface Members {
  members: Readonly<Record<string, Form>>;
  /** Those that must be there. */
  needs: readonly string[];
}

/** What a row of a table asks of JSON. Lists and objects are given by whoever asks. */
function formOf({ or = [], type, words }: Property): Form {
  const types = [type, ...or].map((one): Form => (one === 'word' ? { oneOf: words ?? [] } : (one as Form)));
  return types.length === 1 ? types[0]! : { either: types }; // one at least
}

/** An object by a table, with what the table leaves open. */
const by = (table: Table, needs: readonly string[], more: Members['members'] = {}): Members => ({
  members: {
    ...Object.fromEntries(Object.entries(table).map(([name, property]) => [name, formOf(property)])),
    ...more,
  },
  needs,
});

const TRANSITION = by(TRANSITION_TABLE, ['from', 'to'], {
  when: { list: by(CONDITION_TABLE, ['parameter']) },
});
const GROUP: Members = {
  members: { start: 'string', states: { map: 'any' }, transitions: { list: TRANSITION } },
  needs: ['start', 'states'],
};
const LAYER = by(STATE_LAYER_TABLE, ['name', 'start', 'states'], {
  ...GROUP.members,
  mask: { list: 'string' },
});
const ANIMATION_STATE = by(STATE_TABLE, ['animation']);
function mixed(parameters: Form, at: Form): Form {
  const { animation, ...played } = ANIMATION_STATE.members;
  const animations: Form = {
    list: { members: { animation: animation!, at }, needs: ['animation', 'at'] }, // it is in the table
    least: 1,
  };
  return { members: { by: parameters, animations, ...played }, needs: ['by', 'animations'] };
}
const LINE_STATE = mixed('string', 'number');
const PLANE_STATE = mixed({ list: 'string', length: 2 }, { list: 'number', length: 2 });
const STATES = by(STATES_TABLE, ['layers'], {
  $schema: 'string',
  parameters: { map: by(PARAMETER_TABLE, ['type']) },
  layers: { list: LAYER, least: 1 },
});

/**
 * A state machine out of JSON that was read from a file: its form is checked, member by member. What names mean (states,
 * animations, parameters) is checked by `StateMachine`.
 *
 *     const machine = new StateMachine(motion, readStates(await (await fetch('gull.states.json')).json()));
 *
 * @param file for messages
 * @throws LensError `states/form` with the place in the file and the member that may be meant
 */
export function readStates(json: unknown, file = 'states'): StatesDefinition {
  check(json, STATES, '', file);
  for (const [i, layer] of (json as StatesDefinition).layers.entries())
    checkGroup(layer as unknown as { states: Record<string, unknown> }, `/layers/${i}`, file);
  return json as StatesDefinition;
}

function checkGroup(group: { states: Record<string, unknown> }, at: string, file: string): void {
  for (const [name, state] of Object.entries(group.states)) {
    const place = `${at}/states/${name}`;
    if (typeof state !== 'object' || state === null || Array.isArray(state)) {
      refuse(
        file,
        place,
        `is ${inWords(state)}`,
        'Give { "animation": ... }, a mix with "by", or a group with "states".',
      );
    }
    const isGroup = 'states' in state;
    const isMix = 'by' in state || 'animations' in state;
    const isPlane = isMix && Array.isArray((state as { by?: unknown }).by);
    check(state, isGroup ? GROUP : isPlane ? PLANE_STATE : isMix ? LINE_STATE : ANIMATION_STATE, place, file);
    if (isGroup) checkGroup(state as { states: Record<string, unknown> }, place, file);
  }
}

function check(value: unknown, form: Form, at: string, file: string): void {
  if (form === 'any') return;
  if (typeof form === 'string') {
    if (typeof value !== form || (form === 'number' && !Number.isFinite(value)))
      refuse(file, at, `is ${inWords(value)}`, `Give a ${form}.`);
  } else if ('either' in form) {
    if (!form.either.includes(typeof value as Form))
      refuse(file, at, `is ${inWords(value)}`, `Give a ${form.either.join(' or a ')}.`);
  } else if ('oneOf' in form) {
    if (!form.oneOf.includes(value as string)) {
      const near = typeof value === 'string' ? nearest(value, form.oneOf) : undefined;
      refuse(
        file,
        at,
        `is ${inWords(value)}`,
        `${near === undefined ? '' : `Did you mean "${near}"? `}It is one of ${form.oneOf.join(', ')}.`,
      );
    }
  } else if ('list' in form) {
    if (!Array.isArray(value)) refuse(file, at, `is ${inWords(value)}`, 'Give a list: [...].');
    const { least = 0, length } = form;
    if (value.length < least || (length !== undefined && value.length !== length))
      refuse(
        file,
        at,
        `has ${value.length} entries`,
        length === undefined ? `It takes ${least} or more.` : `It takes ${length}.`,
      );
    value.forEach((one, i) => check(one, form.list, `${at}/${i}`, file));
  } else {
    if (typeof value !== 'object' || value === null || Array.isArray(value))
      refuse(file, at, `is ${inWords(value)}`, 'Give an object: { ... }.');
    if ('map' in form) {
      for (const [name, one] of Object.entries(value)) check(one, form.map, `${at}/${name}`, file);
      return;
    }
    for (const [name, one] of Object.entries(value)) {
      const member = form.members[name];
      if (member === undefined) {
        const near = nearest(name, Object.keys(form.members));
        refuse(
          file,
          at,
          `has a member "${name}"`,
          `${near === undefined ? '' : `Did you mean "${near}"? `}It takes ${Object.keys(form.members).join(', ')}.`,
        );
      }
      check(one, member, `${at}/${name}`, file);
    }
    const missing = form.needs.find((name) => !(name in value));
    if (missing !== undefined) refuse(file, at, `lacks "${missing}"`, `It needs ${form.needs.join(', ')}.`);
  }
}

function refuse(file: string, at: string, what: string, hint: string): never {
  throw new LensError('states/form', `${at || 'the state machine'} ${what}`, {
    hint,
    where: { file, pointer: at },
  });
}
