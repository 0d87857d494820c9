import type { Table } from '../../properties/property.js';
import { same } from '../same.js';

export type Members = Record<string, unknown>;

/** Members in the order of what was given, then of a list, then of their own. */
export function ordered(own: Members, given: object, order: readonly string[]): Members {
  const keys = [...Object.keys(given), ...order, ...Object.keys(own)];
  return Object.fromEntries(
    [...new Set(keys)].filter((key) => own[key] !== undefined).map((key) => [key, own[key]]),
  );
}
export const reordered = (given: object | undefined, own: Members): Members => ordered(own, given ?? {}, []);

/** Members of a plain thing that are not at their default, or were given. */
export function plain(thing: object, table: Table, given: object | undefined): Members {
  const before = (given ?? {}) as Members;
  const own: Members = {};
  for (const [key, value] of Object.entries(thing) as [string, unknown][]) {
    if (value === undefined || typeof value === 'function') continue;
    const json = asJson(value);
    const isUsual = same(json, table[key]?.default);
    if (isUsual && !(key in before)) continue;
    own[key] = kept(before[key], json);
  }
  return ordered(own, before, Object.keys(table));
}

export function rest(thing: object, given: object | undefined): Members {
  const { panorama: _panorama, ...members } = thing as { panorama?: unknown };
  return plain(members, {}, given);
}

/** Members that are other than those of something. */
export const changedMembers = (now: Members, usual: Members): Members =>
  Object.fromEntries(
    Object.entries(now).filter(([key, value]) => key !== 'type' && !same(value, asJson(usual[key]))),
  );

/** As it was given, where that is the same. */
export const kept = (given: unknown, now: unknown): unknown =>
  given !== undefined && (same(given, now) || near(now, given)) ? given : now;

/** JSON of what a scene holds: typed arrays become lists. */
export function asJson(value: unknown): unknown {
  if (ArrayBuffer.isView(value) && !(value instanceof DataView))
    return Array.from(value as Float32Array, rounded);
  if (Array.isArray(value)) return value.map(asJson);
  if (typeof value !== 'object' || value === null) return value;
  return Object.fromEntries(
    Object.entries(value)
      .filter(([, one]) => one !== undefined && typeof one !== 'function')
      .map(([key, one]) => [key, asJson(one)]),
  );
}

/** A number of 32 bits in as few digits as tell it apart. */
export function rounded(value: number): number {
  for (let digits = 6; digits < 9; digits++) {
    const short = Number(value.toPrecision(digits));
    if (Math.fround(short) === Math.fround(value)) return short === 0 ? 0 : short;
  }
  return value;
}

export function near(now: unknown, given: unknown): boolean {
  if (typeof now === 'number' && typeof given === 'number')
    return Math.abs(now - given) <= 1e-6 * Math.max(1, Math.abs(given));
  if (!Array.isArray(now) || !Array.isArray(given) || now.length !== given.length) return false;
  return now.every((one, i) => near(one, given[i]));
}

/** A turn and its opposite in sign are the same. */
export const nearTurn = (now: readonly number[], given: ArrayLike<number>): boolean => {
  const length = Math.hypot(...Array.from(given)) || 1;
  const dot = now.reduce((sum, one, i) => sum + (one * given[i]!) / length, 0); // four each
  return (
    Math.abs(dot) > 1 - 1e-7 &&
    now.every((one, i) => Math.abs(one * Math.sign(dot) - given[i]! / length) < 2e-6)
  );
};
