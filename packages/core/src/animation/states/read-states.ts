import { LensError } from '../../errors/lens-error.js';
import { nearest } from '../../errors/near-names.js';
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

const PLAYED = {
  playbackRate: 'number',
  iterations: 'number',
  direction: { oneOf: ['normal', 'reverse', 'alternate'] },
} as const;
const CONDITION: Form = {
  members: { parameter: 'string', is: { either: ['boolean', 'number'] }, above: 'number', below: 'number' },
  needs: ['parameter'],
};
const TRANSITION: Form = {
  members: {
    from: 'string',
    to: 'string',
    when: { list: CONDITION },
    after: 'number',
    fade: 'number',
    priority: 'number',
    interruptible: 'boolean',
  },
  needs: ['from', 'to'],
};
const mixed = (by: Form, at: Form): Form => ({
  members: {
    by,
    animations: { list: { members: { animation: 'string', at }, needs: ['animation', 'at'] }, least: 1 },
    ...PLAYED,
  },
  needs: ['by', 'animations'],
});
const ANIMATION_STATE: Form = { members: { animation: 'string', ...PLAYED }, needs: ['animation'] };
const LINE_STATE = mixed('string', 'number');
const PLANE_STATE = mixed({ list: 'string', length: 2 }, { list: 'number', length: 2 });
const LAYER: Members = {
  members: {
    name: 'string',
    weight: 'number',
    additive: 'boolean',
    mask: { list: 'string' },
    start: 'string',
    states: { map: 'any' },
    transitions: { list: TRANSITION },
  },
  needs: ['name', 'start', 'states'],
};
const GROUP: Members = {
  members: { start: 'string', states: { map: 'any' }, transitions: { list: TRANSITION } },
  needs: ['start', 'states'],
};
const STATES: Form = {
  members: {
    $schema: 'string',
    parameters: {
      map: {
        members: {
          type: { oneOf: ['number', 'boolean', 'trigger'] },
          default: { either: ['number', 'boolean'] },
        },
        needs: ['type'],
      },
    },
    layers: { list: LAYER, least: 1 },
  },
  needs: ['layers'],
};

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
        `is ${worded(state)}`,
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
      refuse(file, at, `is ${worded(value)}`, `Give a ${form}.`);
  } else if ('either' in form) {
    if (!form.either.includes(typeof value as Form))
      refuse(file, at, `is ${worded(value)}`, `Give a ${form.either.join(' or a ')}.`);
  } else if ('oneOf' in form) {
    if (!form.oneOf.includes(value as string)) {
      const near = typeof value === 'string' ? nearest(value, form.oneOf) : undefined;
      refuse(
        file,
        at,
        `is ${worded(value)}`,
        `${near === undefined ? '' : `Did you mean "${near}"? `}It is one of ${form.oneOf.join(', ')}.`,
      );
    }
  } else if ('list' in form) {
    if (!Array.isArray(value)) refuse(file, at, `is ${worded(value)}`, 'Give a list: [...].');
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
      refuse(file, at, `is ${worded(value)}`, 'Give an object: { ... }.');
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

const worded = (value: unknown): string =>
  value === null
    ? 'null'
    : Array.isArray(value)
      ? 'a list'
      : typeof value === 'object'
        ? 'an object'
        : (JSON.stringify(value) ?? 'nothing');

function refuse(file: string, at: string, what: string, hint: string): never {
  throw new LensError('states/form', `${at || 'the state machine'} ${what}`, {
    hint,
    where: { file, pointer: at },
  });
}
