import { formatPlace, LensError } from '@umber-lens/core/engine';
import { chalkStderr as chalk } from 'chalk';

/** Message, place and hint on standard error; the stack only when asked for. */
export function reportFailure(error: unknown, verbose: boolean): void {
  const lines: string[] = [];
  if (error instanceof LensError) {
    lines.push(`${chalk.red.bold('error')} ${error.summary} ${chalk.dim(`(${error.code})`)}`);
    const place = formatPlace(error.where);
    if (place) lines.push(`  ${chalk.dim('at')} ${place}`);
    if (error.hint) lines.push(`  ${chalk.cyan('hint')} ${error.hint}`);
  } else {
    lines.push(`${chalk.red.bold('error')} ${error instanceof Error ? error.message : String(error)}`);
  }
  if (verbose && error instanceof Error) {
    lines.push(chalk.dim(error.stack ?? ''));
    if (error.cause instanceof Error) lines.push(chalk.dim(`caused by ${error.cause.stack ?? ''}`));
  }
  process.stderr.write(`${lines.join('\n')}\n`);
}
