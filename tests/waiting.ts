/** So long a busy machine may take for what an idle one does at once, milliseconds. */
const MOST = 60_000;
const EVERY = 50;
/** Signs of what was seen that an error tells. */
const MOST_SIGNS = 300;

/**
 * Looks until it is as wanted.
 *
 * @returns what was seen then
 * @throws Error where that does not come within a minute, with what was seen last: a test that asked nothing of it would pass
 */
export async function seenOnce<T>(look: () => T | Promise<T>, isWanted: (seen: T) => boolean): Promise<T> {
  const end = performance.now() + MOST;
  for (;;) {
    const seen = await look();
    if (isWanted(seen)) return seen;
    if (performance.now() > end)
      throw new Error(
        `what is wanted did not come within a minute: ${String(isWanted)}; seen last: ${(JSON.stringify(seen) ?? 'undefined').slice(0, MOST_SIGNS)}`,
      );
    await new Promise((again) => setTimeout(again, EVERY));
  }
}
