import type { Effect } from '../effects/effect.js';
import { nearest } from '../errors/near-names.js';
import { faultsOf } from './faults.js';
import { EFFECT_TABLE } from './tables/effect.js';

/**
 * What is wrong with a list of effects, each with a hint and the number of the effect.
 *
 * @param what the list is, for messages
 */
export function wrongInFinish(
  finish: readonly Effect[],
  what: string,
): { effect: number; summary: string; hint: string }[] {
  const names = ['SourceGraphic'];
  return finish.flatMap((effect, i) => {
    const own = `effect ${i + 1} of ${what}`;
    const found = wrongInEffect(effect, own);
    for (const name of found.length > 0 ? [] : inputsOf(effect)) {
      if (names.includes(name)) continue;
      const near = nearest(name, names);
      found.push([
        `nothing before ${own} is called "${name}"`,
        near === undefined ? 'Name what an effect makes with `result`.' : `Did you mean "${near}"?`,
      ]);
    }
    const { result } = (effect ?? {}) as { result?: unknown };
    if (typeof result === 'string') names.push(result);
    return found.map(([summary, hint]) => ({ effect: i, summary, hint }));
  });
}

const inputsOf = (effect: Effect): string[] =>
  [effect.in, (effect as { in2?: string }).in2, (effect as { map?: unknown }).map].filter(
    (name): name is string => typeof name === 'string',
  );

/** What is wrong with an effect, each with a hint. @param what it is, for messages */
function wrongInEffect(effect: Effect, what: string): [summary: string, hint: string][] {
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
  if (effect.type === 'displacement') {
    const { map } = effect as { map?: unknown };
    if (typeof map !== 'string' && !(typeof map === 'object' && map !== null && 'image' in map))
      found.push([
        `${what} has no map`,
        'Give what loadTexture gives, or the `result` of an effect before it.',
      ]);
  }
  if (effect.type === 'color-matrix' && (effect as { values?: unknown }).values === undefined)
    found.push([`${what} has no values, and leaves nothing`, 'Give 20 numbers, by rows.']);
  const { operator } = effect as { operator?: string };
  if (operator !== undefined && effect.type === 'morphology' && !['erode', 'dilate'].includes(operator))
    found.push([`"operator" of ${what} cannot be "${operator}"`, 'It is erode or dilate.']);
  if (operator === 'erode' || operator === 'dilate') {
    if (effect.type === 'composite')
      found.push([
        `"operator" of ${what} cannot be "${operator}"`,
        'It is over, in, out, atop, xor, lighter or arithmetic.',
      ]);
  }
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
