import { type Effect, readFinish } from 'umber-lens';
import { parseJson, readInput } from './read-input.js';

/**
 * A list of effects: JSON as it stands, or the name of a file with some.
 *
 * @throws LensError `finish/json`, those of `readInput` and of `readFinish`
 */
export async function openFinish(given: string): Promise<Effect[]> {
  const isJson = /^\s*\[/.test(given);
  const file = isJson ? '--finish' : given;
  const text = isJson ? given : new TextDecoder().decode(await readInput(given));
  return readFinish(parseJson(text, file, 'finish/json'), file);
}
