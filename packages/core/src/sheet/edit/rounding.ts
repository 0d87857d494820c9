import type { Form, Member, MembersForm } from '../../json/forms.js';
import { isObject } from '../../json/forms.js';
import { SHEET_FORM } from '../sheet-forms.js';

/** The form of what stands at a path of a sheet, with the member that it is; undefined where the table ends. */
export function formAt(
  path: readonly (string | number)[],
  values: readonly unknown[] = [],
): { form: Form; member?: Member } | undefined {
  let form: Form = SHEET_FORM;
  let member: Member | undefined;
  for (const [i, key] of path.entries()) {
    const next = step(form, key, values[i]);
    if (!next) return undefined;
    ({ form } = next);
    member = next.member;
  }
  return { form, ...(member ? { member } : {}) };
}

function step(form: Form, key: string | number, value: unknown): { form: Form; member?: Member } | undefined {
  switch (form.kind) {
    case 'list':
      return typeof key === 'number' ? { form: form.of } : undefined;
    case 'map':
      return { form: form.of };
    case 'members':
      return memberOf(form, key);
    case 'by': {
      const own = memberOf(isObject(value) ? form.choose(value) : form.forms[0]!, key); // one at least
      if (own) return own;
      for (const one of form.forms) {
        const found = memberOf(one, key);
        if (found) return found;
      }
      return undefined;
    }
    case 'either':
      for (const one of form.forms) {
        const found = step(one, key, value);
        if (found) return found;
      }
      return undefined;
    default:
      return undefined;
  }
}

function memberOf(form: MembersForm, key: string | number): { form: Form; member: Member } | undefined {
  const members = form.members();
  const found = Object.hasOwn(members, key) ? members[key] : undefined;
  return found && { form: found.form, member: found };
}

/**
 * How finely numbers are written that were set by eye: what is finer cannot be seen.
 *
 * - metres: a tenth of a millimetre, in scenes of up to 100 m; ten times that for each ten times larger;
 * - degrees: a hundredth; radians: a ten thousandth (0.006 degrees); quaternions and directions: a hundred thousandth;
 * - colors: a thousandth; light, factors and all else: five digits.
 *
 * @param size of the scene, metres
 */
export function roundingAt(path: readonly (string | number)[], size = 100): (value: number) => number {
  const key = path.findLast((part) => typeof part === 'string') as string | undefined;
  const to =
    (step: number) =>
    (value: number): number => {
      const steps = Math.round(value / step);
      // Through the inverse, so that 0.1 is 0.1.
      return Number((steps / Math.round(1 / step)).toFixed(6)) + 0;
    };
  const metres = 10 ** (Math.max(0, Math.ceil(Math.log10(Math.max(size, 1) / 100) - 1e-9)) - 4);
  if (key === 'degrees') return to(0.01);
  if (key === 'rotation' && typeof path.at(-1) === 'number') return to(1e-5);
  if (key === 'translation') return to(Math.min(metres, 1));
  const found = formAt(path);
  const property = found?.form.kind === 'value' ? found.form.property : undefined;
  const unit = property?.unit;
  if (property?.isWhole) return (value) => Math.round(value);
  if (unit === 'metres') return to(Math.min(metres, 1));
  if (unit === 'radians') return to(1e-4);
  if (property?.color !== undefined)
    return (value) => (Math.abs(value) > 1 ? digits(value) : to(1e-3)(value));
  return digits;
}

const digits = (value: number): number => Number(value.toPrecision(5)) + 0;

/** A value whose numbers are rounded, at a path. */
export function roundedAt(value: unknown, path: readonly (string | number)[], size?: number): unknown {
  if (typeof value === 'number') return roundingAt(path, size)(value);
  // Numbers of one member are rounded alike.
  if (Array.isArray(value))
    return value.map((one, i) =>
      typeof one === 'number'
        ? roundingAt(isVector(path) ? path : [...path, i], size)(one)
        : roundedAt(one, [...path, i], size),
    );
  if (!isObject(value)) return value;
  return Object.fromEntries(
    Object.entries(value).map(([key, one]) => [key, roundedAt(one, [...path, key], size)]),
  );
}

const isVector = (path: readonly (string | number)[]): boolean =>
  formAt(path)?.form.kind === 'value' && path.at(-1) !== 'rotation';
