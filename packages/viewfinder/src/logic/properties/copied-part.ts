import { copied, type Editing } from '../history/apply-edit.js';
import type { Change } from '../history/edit.js';
import { changeOf, type Field, MIXED, type Part, sharedValue } from './field.js';

/** Values of a part, to be given to another of its kind. */
export interface CopiedPart {
  /** First word of the part's name: `transform`, `light`, `material`. */
  kind: string;
  /** By the labels of its fields. */
  values: Readonly<Record<string, unknown>>;
}

const kindOf = ({ name }: Part): string => name.replace(/^\d+ (\w+?)s$/, '$1').split(' ')[0]!; // it has a word

/** What belongs to one thing alone. */
const isOwn = ({ label }: Field): boolean => label === 'name';

/** Takes a part's values; those that differ among things are left out. */
export function copyPart(part: Part): CopiedPart {
  const values: Record<string, unknown> = {};
  for (const field of [...part.fields, ...part.more]) {
    const value = sharedValue(field);
    if (isOwn(field) || value === MIXED) continue;
    // What is as usual is made so where it is pasted.
    values[field.label] = field.isDefault && field.label !== 'type' ? undefined : copied(value);
  }
  return { kind: kindOf(part), values };
}

/** Whether values fit a part. */
export const canPaste = (copy: CopiedPart | undefined, part: Part): copy is CopiedPart =>
  copy !== undefined && copy.kind === kindOf(part);

/** The change that gives a part the values; what it has no field for is left. */
export function pastePart(copy: CopiedPart, part: Part, editing: Editing): Change {
  const edits = [...part.fields, ...part.more].flatMap((field) =>
    isOwn(field) || !(field.label in copy.values)
      ? []
      : changeOf(field, copied(copy.values[field.label]), editing).edits,
  );
  return { name: `paste ${copy.kind}`, edits };
}

/** The values as text, for code: names and values by lines. */
export const copiedText = ({ values }: CopiedPart): string =>
  JSON.stringify(values, (_, value: unknown) => (isPicture(value) ? undefined : value), 2);

const isPicture = (value: unknown): boolean =>
  typeof value === 'object' && value !== null && 'texture' in value;
