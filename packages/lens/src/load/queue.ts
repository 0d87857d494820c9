import { LensError, wholeOf } from '@umber-lens/core/engine';
import { download, type Take } from './download.js';

/** How files are fetched. */
export interface FetchOptions {
  /** Stops the load. */
  signal?: AbortSignal;
  /** Seconds without a single byte after which the load is given up. Default 30; Infinity waits for ever. */
  timeout?: number;
  /**
   * How often a file is asked for again when the connection fails, nothing comes, or the server is overburdened (429, 500 and
   * above): after 0.25 s, then twice as long each time. Default 2.
   */
  retries?: number;
  /** Among files that wait, those of greater numbers are fetched first. Default 0. */
  priority?: number;
}

interface Waiting {
  priority: number;
  begin: () => void;
}

/** Files that are fetched at once. */
const AT_ONCE = 8;
const FIRST_PAUSE = 250;

const waiting: Waiting[] = [];
let running = 0;

/** Waits for its turn: files of one priority come in the order in which they were asked for. */
async function turn(priority: number, signal: AbortSignal): Promise<void> {
  if (running < AT_ONCE) {
    running++;
    return;
  }
  await new Promise<void>((resolve, reject) => {
    const one: Waiting = {
      priority,
      begin: () => {
        signal.removeEventListener('abort', leave);
        resolve();
      },
    };
    const leave = (): void => {
      waiting.splice(waiting.indexOf(one), 1);
      reject(signal.reason as Error);
    };
    signal.addEventListener('abort', leave, { once: true });
    const at = waiting.findIndex((other) => other.priority < priority);
    waiting.splice(at < 0 ? waiting.length : at, 0, one);
  });
}

function next(): void {
  const one = waiting.shift();
  if (one) one.begin();
  else running--;
}

/** Fetches a whole file: see `fetchAs`. */
export const fetchFile = (
  address: URL,
  options: FetchOptions,
  onBytes: (arrived: number, expected: number) => void,
  isPart = false,
): Promise<Uint8Array> => fetchAs(address, options, onBytes, wholeOf, isPart);

/**
 * Fetches a file when its turn comes, and again where that may help.
 *
 * @param onBytes hears of bytes that arrived, and of those that are announced; of fewer than before when it begins anew
 * @param take makes something of it while it comes; begins anew where the file does
 * @param isPart whether it belongs to a file that is being fetched, and does not wait for a turn of its own
 * @throws LensError those of `download` and of `take`; what `signal` was aborted with
 */
export async function fetchAs<Value>(
  address: URL,
  { priority = 0, retries = 2, signal = new AbortController().signal, timeout = 30 }: FetchOptions,
  onBytes: (arrived: number, expected: number) => void,
  take: Take<Value>,
  isPart = false,
): Promise<Value> {
  signal.throwIfAborted();
  if (!isPart) await turn(priority, signal);
  try {
    for (let tries = 0; ; tries++) {
      let [arrived, expected] = [0, 0];
      try {
        const hear = (more: number, announced: number): void => {
          arrived += more;
          expected += announced;
          onBytes(more, announced);
        };
        return await download(address, signal, timeout, hear, take);
      } catch (error) {
        if (tries >= retries || signal.aborted || !mayHelp(error)) throw error;
        onBytes(-arrived, -expected);
        await pause(FIRST_PAUSE * 2 ** tries, signal);
      }
    }
  } finally {
    if (!isPart) next();
  }
}

/** Whether a file may come if it is asked for again. */
function mayHelp(error: unknown): boolean {
  if (!(error instanceof LensError)) return false;
  const status = Number(/answered (\d+)/.exec(error.message)?.[1] ?? 0);
  return error.code === 'load/http' ? status === 429 || status >= 500 : error.code.startsWith('load/');
}

function pause(milliseconds: number, signal: AbortSignal): Promise<void> {
  return new Promise((resolve, reject) => {
    const timer = setTimeout(resolve, milliseconds);
    signal.addEventListener(
      'abort',
      () => {
        clearTimeout(timer);
        reject(signal.reason as Error);
      },
      { once: true },
    );
  });
}
