import type { Effect } from '../effects/effect.js';
import { LensError } from '../errors/lens-error.js';
import { inWords } from '../errors/in-words.js';
import { wrongInFinish } from './wrong-in-finish.js';

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
  const finish = json as Effect[];
  const [wrong] = wrongInFinish(finish, file);
  if (!wrong) return finish;
  const { effect, summary, hint } = wrong;
  throw new LensError('finish/effect', summary, { hint, where: { file, pointer: `/${effect}` } });
}
