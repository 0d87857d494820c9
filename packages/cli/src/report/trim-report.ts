import type { TrimStep } from '@umber-lens/core/trim';
import chalk from 'chalk';
import type { LookDifference } from '../survey/look-difference.js';
import type { TrimmedFigures } from '../survey/trimmed-figures.js';
import { bytes, grid } from './survey-report.js';

const ROWS: [name: string, key: keyof TrimmedFigures, text: (value: number) => string][] = [
  ['file', 'bytes', bytes],
  ['draw calls', 'draws', whole],
  ['nodes', 'nodes', whole],
  ['meshes', 'meshes', whole],
  ['triangles', 'triangles', whole],
  ['vertices', 'vertices', whole],
  ['textures', 'textures', whole],
  ['GPU memory', 'gpuBytes', bytes],
  ['time to read', 'loadMilliseconds', (value) => `${value.toFixed(2)} ms`],
];

/** What trimming did, as a person reads it. */
export function trimReport({
  file,
  steps,
  before,
  after,
  look,
  tolerance,
}: {
  file: string;
  steps: readonly TrimStep[];
  before: TrimmedFigures;
  after: TrimmedFigures;
  look: LookDifference | undefined;
  tolerance: number;
}): string {
  const table = grid(['', 'before', 'after', ''], [1, 2, 3]);
  for (const [name, key, text] of ROWS) {
    const [a, b] = [before[key], after[key]];
    const share = a > 0 ? Math.round((b / a - 1) * 100) : 0;
    const change =
      share === 0 ? chalk.dim('same') : share < 0 ? chalk.green(`${share}%`) : chalk.yellow(`+${share}%`);
    table.push([name, text(a), text(b), change]);
  }
  const width = Math.max(...steps.map(({ name }) => name.length));
  const lines = steps.map(
    ({ name, done, changed }) => `  ${name.padEnd(width)}  ${changed ? done : chalk.dim(done)}`,
  );
  const proof = look
    ? `${look.mean <= tolerance ? chalk.green('the look held') : chalk.red('the look did not hold')}: mean difference ${look.mean.toFixed(3)} of 255 where it is largest, largest ${look.largest}; ${look.sides.length} sides, ${tolerance} allowed`
    : chalk.yellow('not held against pictures (--no-proof)');
  return `${chalk.bold(file)}\n${lines.join('\n')}\n\n${table.toString()}\n\n${proof}\n`;
}

function whole(value: number): string {
  return value.toLocaleString('en-US');
}
