import { NOT_NAMES } from '../wgsl/parse/scan.js';
import { BUILTINS } from '../wgsl/types/builtins.js';

/** What hooks are given, by hook: names that inputs know, and their types. */
export const HOOK_ARGUMENTS = {
  displace: { v: 'Vertex' },
  surface: { p: 'Fragment', defaults: 'Surface' },
  march: { ray: 'Ray' },
  light: { s: 'Surface', l: 'Light', p: 'Fragment' },
  outputColor: { litColor: 'vec4f', s: 'Surface', p: 'Fragment' },
  effect: { p: 'Pixel' },
} as const satisfies Readonly<Record<string, Readonly<Record<string, string>>>>;

/** What every hook is given. */
export const SHARED_ARGUMENTS = {
  settings: 'Settings',
  instance: 'InstanceSettings',
  attributes: 'Attributes',
} as const;

/** Names that nodes cannot have, since inputs know them as something else. */
export const TAKEN: ReadonlySet<string> = new Set([
  ...Object.values(HOOK_ARGUMENTS).flatMap((names) => Object.keys(names)),
  ...Object.keys(SHARED_ARGUMENTS),
  'frame',
]);

export const OPERATORS: ReadonlySet<string> = new Set([
  ...['+', '-', '*', '/', '%', '==', '!=', '<', '<=', '>', '>='],
  ...['&&', '||', '!', '&', '|', '^', '~', '<<', '>>', '[]'],
]);

/** Types that are called to make or convert a value. */
export const isType = (name: string): boolean =>
  /^(f32|i32|u32|bool|f16|vec[234][fiuh]?|mat[234]x[234][fh]?)(<.*>)?$/.test(name);

export const isBuiltin = (name: string): boolean => BUILTINS.has(name);

/** Whether WGSL takes a name as it is. */
export const isIdentifier = (name: string): boolean =>
  /^[\p{XID_Start}_][\p{XID_Continue}]*$/u.test(name) && !/^__|^_$/.test(name) && !NOT_NAMES.has(name);

/**
 * Names for values in WGSL, one for each of theirs: the same where that can be, else as near as can be.
 *
 * @param taken what other things are called there
 */
export function identifiersFor(names: Iterable<string>, taken: Iterable<string>): Map<string, string> {
  const used = new Set(taken);
  const found = new Map<string, string>();
  const later: string[] = [];
  for (const name of names)
    if (isIdentifier(name) && !used.has(name)) {
      found.set(name, name);
      used.add(name);
    } else later.push(name);
  for (const name of later) {
    const plain = name.normalize('NFC').replace(/[^\p{XID_Continue}]+/gu, '_');
    const stem = /^[\p{XID_Start}_]/u.test(plain) ? plain.replace(/^_+/, '') || 'value' : `value_${plain}`;
    let own = isIdentifier(stem) && !used.has(stem) ? stem : `${stem}_`;
    for (let i = 2; !isIdentifier(own) || used.has(own); i++) own = `${stem}${i}`;
    found.set(name, own);
    used.add(own);
  }
  return found;
}
