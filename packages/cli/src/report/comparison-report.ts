import type { Spread } from '@umber-lens/core/engine';
import chalk from 'chalk';
import { type ComparedWay, verdictText } from 'umber-lens/figures';
import { type Comparison } from 'umber-lens';
import { grid } from './survey-report.js';

/** A comparison as a person reads it: a table, and the verdict in words. */
export function comparisonReport(
  { a, b, notes, on, verdict }: Comparison,
  names: readonly [string, string],
): string {
  const table = grid(['', ...names], [1, 2]);
  const time = (spread: Spread | undefined): string =>
    spread
      ? `${spread.median.toFixed(2)} ms ${chalk.dim(`${spread.low.toFixed(2)}..${spread.high.toFixed(2)}`)}`
      : chalk.dim('no clock');
  const row = (name: string, of: (way: ComparedWay) => string): void => void table.push([name, of(a), of(b)]);
  row(`frame${on === 'frame' ? ' *' : ''}`, ({ frame }) => time(frame));
  row(`script${on === 'script' ? ' *' : ''}`, ({ script }) => time(script));
  row(`GPU passes${on === 'gpu' ? ' *' : ''}`, ({ gpu }) => time(gpu));
  for (const key of ['draws', 'instances', 'triangles'] as const)
    row(key, (way) => way[key].toLocaleString('en-US'));
  row(
    'picture',
    ({ height, samples, width }) => `${width} x ${height}, ${samples} sample${samples === 1 ? '' : 's'}`,
  );
  row('uploaded', ({ bytesUploaded }) => `${(bytesUploaded / 1000).toFixed(1)} kB`);
  const paint = { faster: chalk.green, slower: chalk.red, 'cannot tell': chalk.yellow }[verdict.kind];
  return `${table.toString()}\n\n${[paint(verdictText(verdict, names)), ...notes.map((note) => chalk.yellow(note))].join('\n')}\n`;
}
