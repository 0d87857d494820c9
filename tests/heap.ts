import v8 from 'node:v8';
import vm from 'node:vm';

/** Engines have long compiled all they will by then. */
const MOST_WINDOWS = 60;

/**
 * Bytes that work leaves on the heap. Engines compile while they learn, and let go of what they compiled, which shows in the
 * same number: windows are measured until two in a row change by less than the limit. Where an engine goes on compiling, on a machine
 * that is busy, the middle one of the last windows tells: what leaks shows in every one of them, what is compiled is let go of again.
 *
 * @param work a window of it: hundreds of frames
 * @param limit bytes
 * @returns the most of the last two windows, or the middle one of the last half
 */
export const keptBy = (work: () => void, limit: number): number => measured(work, limit, true);

/** The same for bytes that work makes, whether they stay or not. */
export const madeBy = (work: () => void, limit: number): number => measured(work, limit, false);

function measured(work: () => void, limit: number, isKept: boolean): number {
  v8.setFlagsFromString('--expose-gc');
  const collect = vm.runInNewContext('gc') as () => void;
  const windows: number[] = [];
  while (windows.length < MOST_WINDOWS) {
    collect();
    const start = process.memoryUsage().heapUsed;
    work();
    if (isKept) collect();
    const before = windows.at(-1) ?? Infinity;
    windows.push(process.memoryUsage().heapUsed - start);
    const most = Math.max(Math.abs(windows.at(-1)!), Math.abs(before)); // just pushed
    if (most < limit) return most;
  }
  const last = windows.slice(MOST_WINDOWS / 2).sort((a, b) => a - b);
  return Math.abs(last[last.length >> 1]!); // half of them
}
