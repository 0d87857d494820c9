import type { Effect } from '../effects/effect.js';
import { LensError } from '../errors/lens-error.js';
import { inWords } from '../errors/in-words.js';
import { wrongInEffect } from './wrong-in-effect.js';

/**
 * A list of effects out of a file, checked.
 *
 * @param json what the file holds, parsed
 * @param file its name, for errors
 * @throws LensError `finish/list`, `finish/effect` with the place of the effect that is wrong
 */
export function readFinish(json: unknown, file = 'finish'): Effect[] {
  if (!Array.isArray(json))
    throw new LensError('finish/list', `${file} is ${inWords(json)}, and no list of effects`, {
      hint: 'Give an array: [{ "type": "blur", "stdDeviation": 4 }].',
      where: { file },
    });
  return json.map((effect: unknown, i) => {
    const [wrong] = wrongInEffect(effect as Effect, `effect ${i + 1} of ${file}`);
    if (!wrong) return effect as Effect;
    throw new LensError('finish/effect', wrong[0], { hint: wrong[1], where: { file, pointer: `/${i}` } });
  });
}
