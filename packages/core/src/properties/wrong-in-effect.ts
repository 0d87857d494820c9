import type { Effect } from '../effects/effect.js';
import { faultsOf } from './faults.js';
import { EFFECT_TABLE } from './tables/effect.js';

/** What is wrong with an effect, each with a hint. @param what it is, for messages */
export function wrongInEffect(effect: Effect, what: string): [summary: string, hint: string][] {
  if (typeof (effect as unknown) !== 'object' || (effect as unknown) === null)
    return [[`${what} is no effect`, "Give a plain object: { type: 'blur', stdDeviation: 4 }."]];
  const found = faultsOf(effect, EFFECT_TABLE, what).map(({ summary, hint }): [string, string] => [
    summary,
    hint,
  ]);
  if ((effect as { type?: unknown }).type === undefined)
    found.push([`${what} has no type`, `It is one of ${EFFECT_TABLE['type']!.words!.join(', ')}.`]);
  if (effect.type === 'blur' && (effect as { stdDeviation?: unknown }).stdDeviation === undefined)
    found.push([`${what} blurs nothing: it has no stdDeviation`, 'Give it in pixels: 4.']);
  if (effect.type === 'color-matrix' && (effect as { values?: unknown }).values === undefined)
    found.push([`${what} has no values, and leaves nothing`, 'Give 20 numbers, by rows.']);
  if (effect.type !== 'convolve') return found;
  const { kernelMatrix, order = 3 } = effect;
  const count = typeof order === 'number' ? order * order : order[0] * order[1];
  if (kernelMatrix?.length !== count)
    found.push([
      `the kernelMatrix of ${what} has ${kernelMatrix?.length ?? 'no'} numbers`,
      `Its order asks for ${count}.`,
    ]);
  return found;
}
