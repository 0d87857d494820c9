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
