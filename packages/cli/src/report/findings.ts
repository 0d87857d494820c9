import chalk from 'chalk';

/** Colours a finding's place, severity, caret and hint. */
export function paintFinding(text: string): string {
  return text
    .split('\n')
    .map((line, i) => {
      if (i === 0)
        return line.replace(
          /^(.*?:\d+:\d+): (error|warning): /,
          (_, place: string, severity: string) =>
            `${chalk.bold(place)}: ${severity === 'error' ? chalk.red(severity) : chalk.yellow(severity)}: `,
        );
      if (/^\s*\^+$/.test(line)) return chalk.red(line);
      return /^\s*hint: /.test(line) ? line.replace('hint:', chalk.cyan('hint:')) : line;
    })
    .join('\n');
}
