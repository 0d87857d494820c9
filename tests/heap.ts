import v8 from 'node:v8';
import vm from 'node:vm';

/** Engines have long compiled all they will by then. */
const MOST_WINDOWS = 60;

/**
 * Bytes that work leaves on the heap. Engines compile while they learn, and let go of what they compiled, which shows in the
 * same number: windows are measured until two in a row change by less than the limit. What leaks shows in every one of
 * them.
 *
 * @param work a window of it: hundreds of frames
 * @param limit bytes
 * @returns the most of the last two windows
 */
export const keptBy = (work: () => void, limit: number): number => measured(work, limit, true);

/** The same for bytes that work makes, whether they stay or not. */
export const madeBy = (work: () => void, limit: number): number => measured(work, limit, false);

function measured(work: () => void, limit: number, isKept: boolean): number {
  v8.setFlagsFromString('--expose-gc');
  const collect = vm.runInNewContext('gc') as () => void;
  let before = Infinity;
  for (let window = 1; ; window++) {
    collect();
    const start = process.memoryUsage().heapUsed;
    work();
    if (isKept) collect();
    const bytes = process.memoryUsage().heapUsed - start;
    const most = Math.max(Math.abs(bytes), before);
    if (most < limit || window === MOST_WINDOWS) return most;
    before = Math.abs(bytes);
  }
}
