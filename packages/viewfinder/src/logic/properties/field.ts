import type { Property } from '@umber-lens/core/engine';
import type { Shaded } from '../graph/shaded.js';
import { copied, type Editing } from '../history/apply-edit.js';
import type { Change, Edit, MemberPath, Thing } from '../history/edit.js';

/** A member of one thing or of several, as it is shown and edited. */
export interface Field {
  /** What it is called: by the table. Of a number among several: `translation x`. */
  label: string;
  property: Property;
  things: readonly Thing[];
  path: MemberPath;
  /** By thing: what counts now; a default where it is left out. */
  values: readonly unknown[];
  /** Whether it is left out, or as its default, everywhere. */
  isDefault: boolean;
  /** Takes the place of reading the member: of what is shown in other words. */
  now?: (thing: Thing) => unknown;
  /** Takes the place of writing to the member: of what cannot be written to in place. */
  instead?: (value: unknown, thing: Thing, editing: Editing) => Edit[];
}

/** Members that belong together: those of a light, of a material. */
export interface Part {
  /** `light`, `material red paint`. */
  name: string;
  fields: Field[];
  /** Those that are seldom wanted: shown when they are asked for. */
  more: Field[];
  /** What may have a graph. */
  shaded?: Shaded | undefined;
  /** What can be done with it besides. */
  acts?: { name: string; act: () => Change | undefined }[];
  /** What can be added to it, one of several. */
  adds?: { name: string; options: readonly string[]; act: (option: string) => Change | undefined };
}

/** One value for several things that differ. */
export const MIXED: unique symbol = Symbol('mixed');

/** What all have, or that they differ. @param k of a list of numbers, which of them */
export function sharedValue({ values }: Field, k?: number): unknown {
  const at = (value: unknown): unknown =>
    k === undefined ? value : (value as ArrayLike<number> | undefined)?.[k];
  const first = at(values[0]);
  return values.every((value) => sameValue(at(value), first)) ? first : MIXED;
}

export function sameValue(a: unknown, b: unknown): boolean {
  if (Object.is(a, b)) return true;
  if (typeof a === 'number' && typeof b === 'number') return Math.fround(a) === Math.fround(b);
  if (isList(a) && isList(b))
    return a.length === b.length && Array.from(a).every((one, i) => sameValue(one, b[i]));
  return false;
}

const isList = (value: unknown): value is ArrayLike<unknown> =>
  Array.isArray(value) || (ArrayBuffer.isView(value) && !(value instanceof DataView));

/**
 * The change that gives a field a value, for all its things.
 *
 * @param k of a list of numbers, which of them; left out: all
 * @param value undefined: back to the default
 */
export function changeOf(field: Field, value: unknown, editing: Editing, k?: number): Change {
  const { instead, label, path, property, things } = field;
  const edits = things.flatMap((thing): Edit[] => {
    let after = value;
    if (k !== undefined && value !== undefined) {
      // As it is by now: others may have written to it since it was shown.
      const now = field.now ? field.now(thing) : editing.read(thing, path);
      const whole = Array.from((now ?? property.default ?? []) as ArrayLike<number>);
      whole[k] = value as number;
      after = whole;
    }
    if (instead) return instead(after, thing, editing);
    const before = editing.read(thing, path);
    if (sameValue(before, after)) return [];
    return [{ type: 'set', thing, path, before: copied(before), after }];
  });
  const what = things.length > 1 ? ` of ${things.length}` : '';
  return { name: value === undefined ? `reset ${label}${what}` : `change ${label}${what}`, edits };
}
