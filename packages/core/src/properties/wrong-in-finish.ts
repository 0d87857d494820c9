import {
  COMPOSITE_OPERATORS,
  type ConvolveEffect,
  type Effect,
  LIGHT_EFFECTS,
  PICTURE_EFFECTS,
} from '../effects/effect.js';
import { nearest } from '../errors/near-names.js';
import { faultsOf } from './faults.js';
import { EFFECT_TABLE } from './tables/effect.js';

/**
 * What is wrong with a list of effects, each with a hint and the number of the effect.
 *
 * @param what the list is, for messages
 * @param isOfNode whether it is a node's
 */
export function wrongInFinish(
  finish: readonly Effect[],
  what: string,
  isOfNode = false,
): { effect: number; summary: string; hint: string }[] {
  const names = ['SourceGraphic'];
  return finish.flatMap((effect, i) => {
    const own = `effect ${i + 1} of ${what}`;
    const found = wrongInEffect(effect, own);
    const before = finish.slice(0, i).find((one) => isEffect(one) && !LIGHT_EFFECTS.includes(one.type));
    if (before && isEffect(effect) && LIGHT_EFFECTS.includes(effect.type))
      found.push([
        `${own}, ${effect.type}, stands on light, before ${before.type}, which is an effect on what is shown`,
        `Put it before: it is drawn so whatever the list says.`,
      ]);
    if (isOfNode && isEffect(effect) && PICTURE_EFFECTS.includes(effect.type))
      found.push([
        `${own}, ${effect.type}, is of a whole picture, and does nothing here`,
        'Put it into lens.view.finish.',
      ]);
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

const isEffect = (effect: unknown): effect is Effect =>
  typeof effect === 'object' && effect !== null && 'type' in effect;

const inputsOf = (effect: Effect): string[] =>
  [effect.in, (effect as { in2?: string }).in2, (effect as { map?: unknown }).map].filter(
    (name): name is string => typeof name === 'string',
  );

/** What an effect of a type does nothing without: the member, what is wrong then, and what to do. */
const NEEDED: Readonly<Record<string, readonly [member: string, summary: string, hint: string]>> = {
  blur: ['stdDeviation', 'blurs nothing: it has no stdDeviation', 'Give it in pixels: 4.'],
  'color-matrix': ['values', 'has no values, and leaves nothing', 'Give 20 numbers, by rows.'],
  convolve: ['kernelMatrix', 'has no kernelMatrix', 'Give its weights, by rows.'],
  shader: ['shader', 'has no shader', 'Import a .wgsl file with the hook `effect`.'],
  'depth-of-field': ['focus', 'has no focus', 'Give metres from the camera, or a node.'],
  'light-shafts': ['from', 'comes from nowhere', 'Give a node with a light, or a place in the world.'],
  lut: ['table', 'has no table', 'Give what readCube makes of a .cube file.'],
  displacement: ['map', 'has no map', 'Give what loadTexture gives, or the `result` of an effect before it.'],
};

/** Words that count for one of the types that have the member. */
const OPERATORS: Readonly<Record<string, readonly string[]>> = {
  morphology: ['erode', 'dilate'],
  composite: COMPOSITE_OPERATORS,
};

/** What is wrong with an effect, each with a hint. @param what it is, for messages */
function wrongInEffect(given: unknown, what: string): [summary: string, hint: string][] {
  if (typeof given !== 'object' || given === null)
    return [[`${what} is no effect`, "Give a plain object: { type: 'blur', stdDeviation: 4 }."]];
  const found = faultsOf(given, EFFECT_TABLE, what).map(({ summary, hint }): [string, string] => [
    summary,
    hint,
  ]);
  // What follows takes members for what they are to be.
  if (found.length > 0) return found;
  const effect = given as Partial<Record<string, unknown>> & { type?: string };
  const { type } = effect;
  if (type === undefined)
    return [[`${what} has no type`, `It is one of ${EFFECT_TABLE['type']!.words!.join(', ')}.`]];
  const needed = NEEDED[type];
  if (needed && effect[needed[0]] === undefined) return [[`${what} ${needed[1]}`, needed[2]]];
  const operators = OPERATORS[type];
  if (operators && effect['operator'] !== undefined && !operators.includes(effect['operator'] as string))
    return [
      [
        `"operator" of ${what} cannot be "${effect['operator'] as string}"`,
        `It is one of ${operators.join(', ')}.`,
      ],
    ];
  if (type === 'shader' && !(effect['shader'] as { effect?: object }).effect)
    return [
      [`the shader of ${what} has no hook "effect"`, 'Write fn effect(p: Pixel) -> vec4f in its file.'],
    ];
  if (type === 'displacement' && typeof effect['map'] === 'object' && !('image' in effect['map']!))
    return [[`the map of ${what} is no texture`, NEEDED['displacement']![2]]];
  if (type === 'component-transfer')
    return ['red', 'green', 'blue', 'alpha'].flatMap((channel): [string, string][] => {
      const fn = effect[channel] as Partial<{ type: string; tableValues: unknown }> | undefined;
      const isTable = fn?.type === 'table' || fn?.type === 'discrete';
      return isTable && fn.tableValues === undefined
        ? [[`"${channel}" of ${what} has no tableValues`, 'Give numbers from 0 to 1: [0, 0.5, 1].']]
        : [];
    });
  if (type !== 'convolve') return [];
  const { kernelMatrix, order = 3 } = given as ConvolveEffect;
  const count = typeof order === 'number' ? order * order : order[0] * order[1];
  if (kernelMatrix.length === count) return [];
  return [[`the kernelMatrix of ${what} has ${kernelMatrix.length} numbers`, `Its order asks for ${count}.`]];
}
