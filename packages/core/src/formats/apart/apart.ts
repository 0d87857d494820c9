import { LensError } from '../../errors/lens-error.js';
import type { JobAnswer, JobName, JobRequest, Jobs } from './jobs.js';

/** A thread as pages and Node have it, as far as both are alike. */
interface Thread {
  postMessage(message: unknown): void;
  terminate(): unknown;
}
interface PageThread extends Thread {
  onmessage: ((event: { data: JobAnswer }) => void) | null;
  onerror: ((event: { preventDefault?(): void }) => void) | null;
}
interface NodeThread extends Thread {
  on(event: 'message', listener: (answer: JobAnswer) => void): void;
  on(event: 'error' | 'exit', listener: () => void): void;
  ref(): void;
  unref(): void;
}
declare const Worker: (new (address: Address, options: { type: 'module' }) => PageThread) | undefined;
declare const URL: new (path: string, base: string) => Address;
interface Address {
  readonly href: string;
}
declare const process:
  { getBuiltinModule?(name: string): { Worker: new (address: Address) => NodeThread } } | undefined;
declare const navigator: { hardwareConcurrency?: number } | undefined;
declare function setTimeout(run: () => void, milliseconds: number): unknown;
declare function clearTimeout(timer: unknown): void;

interface Asked {
  request: JobRequest;
  onProgress: ((done: number) => void) | undefined;
  resolve: (result: unknown) => void;
  reject: (error: unknown) => void;
}

interface Hand {
  thread: Thread;
  /** What it works on; undefined while it waits. */
  asked: Asked | undefined;
  /** Keeps a process alive while there is work. */
  hold(isHeld: boolean): void;
}

/** Threads at most. */
const MOST = 4;
/** Time without work after which a thread is given up. */
const IDLE_MILLISECONDS = 5000;

const hands: Hand[] = [];
const waiting: Asked[] = [];
let isImpossible = false;
/** Whether a thread has ever answered: one that dies then died of its work. */
let hasAnswered = false;
let idle: unknown;

/**
 * Does work on a thread of its own, where threads can be had; else at once. Threads are started when first needed, and
 * given up when there is nothing to do.
 *
 * @throws what the work throws: a LensError, or an Error with its message
 */
export function apart<Name extends JobName>(
  name: Name,
  ...args: Parameters<Jobs[Name]>
): ReturnType<Jobs[Name]> {
  return run(name, args, undefined) as ReturnType<Jobs[Name]>;
}

/** The same for work that says how much of it is done, 0 to 1, as its last argument hears. */
export function apartReporting<Name extends 'scatter' | 'swarm'>(
  onProgress: ((done: number) => void) | undefined,
  name: Name,
  arg: Parameters<Jobs[Name]>[0],
): ReturnType<Jobs[Name]> {
  return run(name, [arg], onProgress) as ReturnType<Jobs[Name]>;
}

async function run(name: JobName, args: unknown[], onProgress: Asked['onProgress']): Promise<unknown> {
  const reports = onProgress !== undefined;
  if (isImpossible) {
    const { JOBS } = await import('./jobs.js');
    const job = JOBS[name] as (...args: unknown[]) => Promise<unknown>;
    return job(...args, ...(reports ? [onProgress] : []));
  }
  return new Promise((resolve, reject) => {
    const request: JobRequest = { name, args, ...(reports ? { reports } : {}) };
    waiting.push({ request, onProgress, resolve, reject });
    share();
  });
}

/** Gives what waits to hands that are free. */
function share(): void {
  clearTimeout(idle);
  while (waiting.length > 0 && !isImpossible) {
    const hand = hands.find(({ asked }) => !asked) ?? another();
    if (!hand) break;
    hand.asked = waiting.shift()!; // there is one
    hand.hold(true);
    hand.thread.postMessage(hand.asked.request);
  }
  if (isImpossible) return doAll(waiting.splice(0));
  if (hands.some(({ asked }) => asked)) return;
  for (const hand of hands) hand.hold(false);
  idle = setTimeout(() => hands.splice(0).forEach(({ thread }) => thread.terminate()), IDLE_MILLISECONDS);
  (idle as { unref?(): void }).unref?.();
}

function another(): Hand | undefined {
  const cores = typeof navigator === 'undefined' ? MOST : (navigator.hardwareConcurrency ?? MOST);
  if (hands.length >= Math.max(1, Math.min(MOST, cores))) return undefined;
  try {
    const hand = start();
    hands.push(hand);
    return hand;
  } catch {
    // Pages may forbid workers.
    isImpossible = true;
    return undefined;
  }
}

function start(): Hand {
  const builtin =
    typeof process === 'undefined' ? undefined : process.getBuiltinModule?.('node:worker_threads');
  if (builtin) {
    const thread = new builtin.Worker(
      new URL('./apart-worker.js', (import.meta as unknown as { url: string }).url),
    );
    const hand: Hand = {
      thread,
      asked: undefined,
      hold: (isHeld) => (isHeld ? thread.ref() : thread.unref()),
    };
    thread.on('message', (answer) => done(hand, answer));
    thread.on('error', () => lost(hand));
    thread.on('exit', () => lost(hand));
    return hand;
  }
  if (typeof Worker === 'undefined') throw new Error('no threads here');
  const thread = new Worker(new URL('./apart-worker.js', (import.meta as unknown as { url: string }).url), {
    type: 'module',
  });
  const hand: Hand = { thread, asked: undefined, hold: () => undefined };
  thread.onmessage = ({ data }) => done(hand, data);
  thread.onerror = (event) => {
    event.preventDefault?.();
    lost(hand);
  };
  return hand;
}

function done(hand: Hand, answer: JobAnswer): void {
  const { asked } = hand;
  hasAnswered = true;
  if ('progress' in answer) {
    asked?.onProgress?.(answer.progress);
    return;
  }
  hand.asked = undefined;
  if (asked) {
    if ('result' in answer) asked.resolve(answer.result);
    else {
      const { code, hint, message, where } = answer.error;
      asked.reject(
        code === undefined
          ? new Error(message)
          : new LensError(code, message, { ...(hint ? { hint } : {}), ...(where ? { where } : {}) }),
      );
    }
  }
  share();
}

/**
 * A thread that could not be started: what it had is done here, and so is all that comes. One that died of its work takes that
 * work along: here it might do worse.
 */
function lost(hand: Hand): void {
  const at = hands.indexOf(hand);
  if (at < 0) return;
  hands.splice(at, 1);
  const { asked } = hand;
  hand.asked = undefined;
  if (hasAnswered) {
    asked?.reject(new Error('the thread that worked on it came to its end'));
    return share();
  }
  isImpossible = true;
  doAll(asked ? [asked, ...waiting.splice(0)] : waiting.splice(0));
}

function doAll(all: readonly Asked[]): void {
  for (const { onProgress, reject, request, resolve } of all)
    run(request.name, request.args, onProgress).then(resolve, reject);
}
