import { Presets, SingleBar } from 'cli-progress';

/** Runs work; on a terminal, work that takes longer than a second shows that it goes on. */
export async function withProgress<T>(text: string, work: () => Promise<T>): Promise<T> {
  if (!process.stderr.isTTY) return work();
  const { default: ora } = await import('ora');
  const spinner = ora({ text, stream: process.stderr, discardStdin: false });
  const timer = setTimeout(() => spinner.start(), 1000);
  try {
    return await work();
  } finally {
    clearTimeout(timer);
    spinner.stop();
  }
}

/** A bar on a terminal for so many steps; undefined elsewhere. */
export function progressBar(
  text: string,
  steps: number,
): { set(step: number): void; stop(): void } | undefined {
  if (!process.stderr.isTTY) return undefined;
  const options = {
    stream: process.stderr,
    clearOnComplete: true,
    format: `${text} {bar} {value} of {total}, {eta_formatted} left`,
  };
  const bar = new SingleBar(options, Presets.rect);
  bar.start(steps, 0);
  return { set: (step) => bar.update(step), stop: () => bar.stop() };
}
