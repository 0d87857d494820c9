import type { ColorTable } from '../../effects/effect.js';
import { LensError } from '../../errors/lens-error.js';

/** Entries along each side of what a table of single channels becomes. */
const SIDES_OF_CURVES = 33;

/**
 * Reads a table of colors (`.cube`, Cube LUT Specification 1.0): in three dimensions, or of single channels.
 *
 *     lens.view.finish = [{ type: 'lut', table: readCube(await (await fetch('dusk.cube')).text()) }];
 *
 * @param file its name, for errors
 * @throws LensError `cube/line`, `cube/size`, `cube/count`, `cube/domain` with the line
 */
export function readCube(text: string, file = 'a .cube file'): ColorTable {
  const values: number[] = [];
  let [size, curve] = [0, 0];
  const refuse = (code: string, line: number, summary: string, hint: string): never => {
    throw new LensError(code, summary, { hint, where: { file, line } });
  };
  text.split(/\r\n|\r|\n/).forEach((given, i) => {
    const line = given.trim();
    if (line === '' || line.startsWith('#') || line.startsWith('TITLE')) return;
    const [word = '', ...rest] = line.split(/\s+/);
    const numbers = rest.map(Number);
    if (word === 'LUT_3D_SIZE' || word === 'LUT_1D_SIZE') {
      const [count = 0] = numbers;
      const most = word === 'LUT_3D_SIZE' ? 64 : 65536;
      if (!(Number.isInteger(count) && count >= 2 && count <= most))
        refuse('cube/size', i + 1, `${word} is ${rest.join(' ')}`, `It is a whole number from 2 to ${most}.`);
      if (word === 'LUT_3D_SIZE') size = count;
      else curve = count;
    } else if (word === 'DOMAIN_MIN' || word === 'DOMAIN_MAX') {
      const wanted = word === 'DOMAIN_MIN' ? 0 : 1;
      if (numbers.length !== 3 || numbers.some((part) => part !== wanted))
        refuse(
          'cube/domain',
          i + 1,
          `${word} is ${rest.join(' ')}`,
          'Tables of colors from 0 to 1 are read: export it so.',
        );
    } else {
      const row = [word, ...rest].map(Number);
      if (row.length !== 3 || row.some((part) => !Number.isFinite(part)))
        refuse('cube/line', i + 1, `"${line}" is no color`, 'A line has three numbers: red, green and blue.');
      values.push(...row);
    }
  });
  const wanted = size > 0 ? size ** 3 : curve;
  if (wanted === 0)
    throw new LensError('cube/size', `${file} says no LUT_3D_SIZE`, {
      hint: 'Is it a .cube file?',
      where: { file },
    });
  if (values.length !== wanted * 3)
    throw new LensError('cube/count', `${file} has ${values.length / 3} colors`, {
      hint: `Its size asks for ${wanted}.`,
      where: { file },
    });
  return size > 0 ? { size, colors: Float32Array.from(values) } : fromCurves(values, curve);
}

/** A table in three dimensions that does the same as one of single channels. */
function fromCurves(values: readonly number[], count: number): ColorTable {
  const size = SIDES_OF_CURVES;
  const along = (at: number, channel: number): number => {
    const place = (at / (size - 1)) * (count - 1);
    const low = Math.min(count - 2, Math.floor(place));
    const [a, b] = [values[low * 3 + channel]!, values[(low + 1) * 3 + channel]!]; // within
    return a + (b - a) * (place - low);
  };
  const colors = new Float32Array(size ** 3 * 3);
  let at = 0;
  for (let b = 0; b < size; b++)
    for (let g = 0; g < size; g++)
      for (let r = 0; r < size; r++) {
        colors[at++] = along(r, 0);
        colors[at++] = along(g, 1);
        colors[at++] = along(b, 2);
      }
  return { size, colors };
}
