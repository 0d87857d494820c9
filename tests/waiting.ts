/** So long a busy machine may take for what an idle one does at once, milliseconds. */
const MOST = 60_000;
const EVERY = 50;

/** Looks until it is as wanted: what was seen last, also where that never comes, so that a test says what it was instead. */
export async function seenOnce<T>(look: () => T | Promise<T>, isWanted: (seen: T) => boolean): Promise<T> {
  const end = performance.now() + MOST;
  for (;;) {
    const seen = await look();
    if (isWanted(seen) || performance.now() > end) return seen;
    await new Promise((again) => setTimeout(again, EVERY));
  }
}
