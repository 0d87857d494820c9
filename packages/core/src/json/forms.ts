import { inWords, isNumbers } from '../errors/in-words.js';
import { nearest } from '../errors/near-names.js';
import { wrongIn } from '../properties/faults.js';
import type { Meant, Property, Table } from '../properties/property.js';

/** What a place in a file of JSON may hold. Checks, schema and docs are made from it. */
export type Form =
  /** A number, numbers, a word, a text or a truth, as a row of a table has it. */
  | { kind: 'value'; property: Property }
  /** The name of something else in the file. */
  | { kind: 'name'; of: NamedKind }
  /** The address of another file, relative to this one. */
  | { kind: 'address'; of: AddressKind }
  | { kind: 'list'; of: Form; length?: number; least?: number; most?: number }
  /** An object whose members have names of the user's own. */
  | { kind: 'map'; of: Form; holds: string }
  | MembersForm
  /** An object whose members depend on what stands in it. */
  | {
      kind: 'by';
      forms: readonly MembersForm[];
      choose: (value: Readonly<Record<string, unknown>>) => MembersForm;
    }
  /** Whichever takes a value of that type. */
  | { kind: 'either'; forms: readonly Form[] }
  /** null alone. */
  | { kind: 'nothing' }
  | { kind: 'any' };

export type NamedKind = 'texture' | 'material' | 'model' | 'node';
export type AddressKind = 'model' | 'image' | 'panorama' | 'shader' | 'effect' | 'sheet' | 'table';

/** An object with known members. */
export interface MembersForm {
  kind: 'members';
  /** What it is, for messages: `a light`. */
  what: string;
  line: string;
  /** Its members by name. A function where members hold what they stand in. */
  members: () => Readonly<Record<string, Member>>;
  /** Those that must be there. */
  needs?: readonly string[];
  /** Of which one must be there. */
  needsOne?: readonly string[];
  /** Names that others have for its members. */
  meant?: Meant;
  /** Of which no two go together, each with the word for all of them. */
  apart?: readonly (readonly string[])[];
}

export interface Member {
  line: string;
  form: Form;
  /** What counts where it is left out. */
  default?: Property['default'];
  /** Values of `type`, of the object that has it, for which it counts. */
  only?: readonly string[];
}

export const list = (of: Form, more: { length?: number; least?: number; most?: number } = {}): Form => ({
  kind: 'list',
  of,
  ...more,
});
export const either = (...forms: Form[]): Form => ({ kind: 'either', forms });
export const ANY: Form = { kind: 'any' };
export const NOTHING: Form = { kind: 'nothing' };

/** A member of a form of its own. */
export const member = (line: string, form: Form, more: Omit<Member, 'line' | 'form'> = {}): Member => ({
  line,
  form,
  ...more,
});

/**
 * Members by the rows of a table. What a row leaves open (`given`, textures) is told by `special`; what nobody tells is not in files.
 *
 * @param special forms by name; undefined leaves a row out
 */
export function membersOf(
  table: Table,
  special: Readonly<Record<string, Form | undefined>> = {},
): Record<string, Member> {
  const found: Record<string, Member> = {};
  for (const [name, property] of Object.entries(table)) {
    const form = name in special ? special[name] : formOf(property, name);
    if (!form) continue;
    found[name] = {
      line: property.line,
      form,
      ...(property.default === undefined ? {} : { default: property.default }),
      ...(property.only ? { only: property.only } : {}),
    };
  }
  return found;
}

function formOf(property: Property, name: string): Form | undefined {
  const { of, or = [], type } = property;
  if (type === 'function' || type === 'given' || type === 'texture') return undefined;
  if (type !== 'object') return { kind: 'value', property };
  if (!of) return undefined;
  const whole: Form = {
    kind: 'members',
    what: `the ${name}`,
    line: property.line,
    members: () => membersOf(of),
  };
  return or.includes('boolean')
    ? either({ kind: 'value', property: { ...property, type: 'boolean', or: [] } }, whole)
    : whole;
}

/** How many objects and lists may lie within each other. */
export const DEEPEST = 1000;

/** What is wrong at a place of a file. */
export interface Found {
  code: string;
  /** Names and numbers on the way down. */
  path: readonly (string | number)[];
  /** Whether the last of them is what is wrong, and not what stands there. */
  isKey?: boolean;
  /** Where it stands in the text, if that is known. */
  offset?: number;
  summary: string;
  hint: string;
}

/** A place on the way down: written out only where something is wrong. */
interface At {
  up: At | undefined;
  key: string | number;
  /** What the object is that has it, where it is a member. */
  of: string | undefined;
  depth: number;
}

const below = (up: At | undefined, key: string | number, of?: string): At => ({
  up,
  key,
  of,
  depth: (up?.depth ?? 0) + 1,
});

function pathOf(at: At | undefined): (string | number)[] {
  const path: (string | number)[] = [];
  for (let part = at; part; part = part.up) path.unshift(part.key);
  return path;
}

/** What stands at a place, for messages. */
function whatIs(at: At | undefined): string {
  if (!at) return 'the file';
  if (typeof at.key === 'number') return `entry ${at.key + 1} of ${whatIs(at.up)}`;
  return at.of === undefined ? `"${at.key}"` : `"${at.key}" of ${at.of}`;
}

/** An address that stands in a file. */
export interface NamedFile {
  of: AddressKind;
  address: string;
  path: readonly (string | number)[];
}

/** What `check` finds. */
export interface Checked {
  faults: Found[];
  files: NamedFile[];
}

/** Everything that is wrong with a file's value, by its form, and the other files that it names. */
export function check(value: unknown, form: Form): Checked {
  const out: Checked = { faults: [], files: [] };
  checkAt(value, form, undefined, out);
  return out;
}

function checkAt(value: unknown, form: Form, at: At | undefined, out: Checked): void {
  const wrong = (summary: string, hint: string, what = whatIs(at)): void => {
    out.faults.push({ code: 'sheet/value', path: pathOf(at), summary: `${what} ${summary}`, hint });
  };
  if (at && at.depth > DEEPEST) {
    wrong(
      'is nested too deeply',
      `${DEEPEST} objects and lists within each other are as many as there may be.`,
    );
    return;
  }
  switch (form.kind) {
    case 'any':
      return;
    case 'nothing':
      if (value !== null) wrong(`is ${inWords(value)}`, 'Give null, or leave it out.');
      return;
    case 'value': {
      const found = isRight(value, form.property) ? undefined : wrongIn(value, form.property);
      if (found) wrong(found[0], found[1]);
      return;
    }
    case 'name':
    case 'address':
      if (typeof value === 'string' && value !== '') {
        if (form.kind === 'address') out.files.push({ of: form.of, address: value, path: pathOf(at) });
      } else
        wrong(
          `is ${inWords(value)}`,
          form.kind === 'name' ? `Give the name of a ${form.of}.` : 'Give an address, relative to this file.',
        );
      return;
    case 'either': {
      const fitting = form.forms.find((one) => accepts(value, one));
      if (fitting) checkAt(value, fitting, at, out);
      else wrong(`is ${inWords(value)}`, `It may be ${form.forms.map(inShort).join(', or ')}.`);
      return;
    }
    case 'list': {
      if (!Array.isArray(value)) {
        wrong(`is ${inWords(value)}`, 'Give a list: [...].');
        return;
      }
      const { length, least = 0, most = Infinity } = form;
      if (value.length < least || value.length > most || (length !== undefined && value.length !== length))
        wrong(
          `has ${value.length} entries`,
          length === undefined
            ? `It takes ${least}${most === Infinity ? ' or more' : ` to ${most}`}.`
            : `It takes ${length}.`,
        );
      for (let i = 0; i < value.length; i++) checkAt(value[i], form.of, below(at, i), out);
      return;
    }
    case 'map': {
      if (!isObject(value)) {
        wrong(`is ${inWords(value)}`, `Give ${form.holds} by name: { "name": ... }.`);
        return;
      }
      for (const name of Object.keys(value)) checkAt(value[name], form.of, below(at, name), out);
      return;
    }
    case 'by':
    case 'members':
      if (isObject(value)) checkMembers(value, form.kind === 'by' ? form.choose(value) : form, at, out);
      else wrong(`is ${inWords(value)}`, `Give an object: { ... }.`);
  }
}

function checkMembers(
  value: Readonly<Record<string, unknown>>,
  { apart = [], meant = {}, members: membersOfForm, needs = [], needsOne, what }: MembersForm,
  at: At | undefined,
  out: Checked,
): void {
  const members = membersOfForm();
  const { type } = value;
  for (const name in value) {
    const found = Object.hasOwn(members, name) ? members[name] : undefined;
    if (!found) {
      const names = Object.keys(members);
      const near = meant[name] ?? nearest(name, names);
      const all = names.length > 14 ? `${names.slice(0, 14).join(', ')} ...` : names.join(', ');
      out.faults.push({
        code: 'sheet/unknown',
        path: [...pathOf(at), name],
        isKey: true,
        summary: `${what} has no "${name}"`,
        hint: near === undefined ? `It has ${all}.` : `Did you mean ${near}?`,
      });
      continue;
    }
    const { form, only } = found;
    if (only && typeof type === 'string' && !only.includes(type))
      out.faults.push({
        code: 'sheet/idle',
        path: [...pathOf(at), name],
        isKey: true,
        summary: `"${name}" of ${what} does nothing, since its type is ${type}`,
        hint: `It counts for ${only.join(', ')}.`,
      });
    // Numbers and texts by the thousand: nothing is made where nothing is wrong.
    else if (form.kind !== 'value' || !isRight(value[name], form.property))
      checkAt(value[name], form, below(at, name, what), out);
  }
  for (const name of needs)
    if (!(name in value))
      out.faults.push({
        code: 'sheet/missing',
        path: pathOf(at),
        summary: `${what} has no "${name}", which it needs`,
        hint: members[name]?.line ?? '',
      });
  if (needsOne && !needsOne.some((name) => name in value))
    out.faults.push({
      code: 'sheet/missing',
      path: pathOf(at),
      summary: `${what} has no ${needsOne.map((name) => `"${name}"`).join(', and no ')}`,
      hint: 'Give one of them.',
    });
  for (const names of apart) {
    let one: string | undefined;
    for (const name of names) {
      if (!(name in value)) continue;
      if (one !== undefined)
        out.faults.push({
          code: 'sheet/both',
          path: [...pathOf(at), name],
          isKey: true,
          summary: `${what} has "${one}" and "${name}"`,
          hint: 'One of them counts: take the other away.',
        });
      one = name;
    }
  }
}

/** Whether a value is clearly what a row asks for: what is not is looked at more closely. */
function isRight(value: unknown, property: Property): boolean {
  const { color, isOpen = false, isWhole = false, length, range, type, words } = property;
  if (isWhole) return Number.isInteger(value) && isWithin(value as number, range, isOpen);
  switch (type) {
    case 'number':
      return typeof value === 'number' && isWithin(value, range, isOpen);
    case 'numbers': {
      // Colors may be bytes by mistake.
      if (color !== undefined || !Array.isArray(value) || (length !== undefined && value.length !== length))
        return false;
      for (let i = 0; i < value.length; i++)
        if (typeof value[i] !== 'number' || !isWithin(value[i] as number, range, isOpen)) return false;
      return true;
    }
    case 'boolean':
    case 'string':
      return typeof value === type;
    case 'word':
      return words!.includes(value as string); // words have them
    default:
      return false;
  }
}

const isWithin = (value: number, range: Property['range'], isOpen: boolean): boolean =>
  !range || (isOpen ? value > range[0] && value < range[1] : value >= range[0] && value <= range[1]);

/** Whether a value is of a form's type, whatever else is wrong with it. */
function accepts(value: unknown, form: Form): boolean {
  switch (form.kind) {
    case 'any':
      return true;
    case 'nothing':
      return value === null;
    case 'name':
    case 'address':
      return typeof value === 'string';
    case 'list':
      return Array.isArray(value);
    case 'by':
    case 'map':
    case 'members':
      return isObject(value);
    case 'either':
      return form.forms.some((one) => accepts(value, one));
    case 'value':
      return [form.property.type, ...(form.property.or ?? [])].some((type) =>
        type === 'numbers'
          ? isNumbers(value)
          : type === 'word' || type === 'string'
            ? typeof value === 'string'
            : typeof value === type,
      );
  }
}

function inShort(form: Form): string {
  switch (form.kind) {
    case 'any':
      return 'anything';
    case 'nothing':
      return 'null';
    case 'name':
      return `the name of a ${form.of}`;
    case 'address':
      return 'an address';
    case 'list':
      return 'a list';
    case 'by':
    case 'map':
    case 'members':
      return 'an object';
    case 'either':
      return form.forms.map(inShort).join(', or ');
    case 'value':
      return (
        { number: 'a number', numbers: 'numbers', boolean: 'true or false' }[form.property.type as string] ??
        'a text'
      );
  }
}

export const isObject = (value: unknown): value is Record<string, unknown> =>
  typeof value === 'object' && value !== null && !Array.isArray(value);
