import {
  LensError,
  type Spread,
  spreadOf,
  type Verdict,
  type VerdictOptions,
  verdictOn,
} from '@umber-lens/core/engine';
import type { Lens } from '../lens.js';
import { finished } from './finished.js';

/** A way of drawing: sets what is to be set and calls `lens.draw`. */
export type ComparedDraw = () => void;

export interface CompareOptions extends VerdictOptions {
  /** Turns that each way gets. Default 40. */
  turns?: number;
  /** Frames of a turn: the middle one of their times counts; one more before them is not timed. Default 3. */
  frames?: number;
  /**
   * What the verdict is on: `frame` is the whole of a frame until the GPU is done, `script` what the page's own thread
   * spends, `gpu` what the passes take by the GPU's clock. Default `frame`.
   */
  on?: 'frame' | 'script' | 'gpu';
  /** Told after each turn, 0..1. */
  onProgress?: (fraction: number) => void;
}

/** One way's times, milliseconds, and what its last frame was made of. */
export interface ComparedWay {
  frame: Spread;
  script: Spread;
  /** Undefined where the GPU cannot tell. */
  gpu: Spread | undefined;
  draws: number;
  instances: number;
  triangles: number;
  bytesUploaded: number;
  /** Pixels of the picture, and samples of each. */
  width: number;
  height: number;
  samples: number;
}

export interface Comparison {
  a: ComparedWay;
  b: ComparedWay;
  on: 'frame' | 'script' | 'gpu';
  /** Of b against a, on what was asked for. */
  verdict: Verdict;
  /** In what the two differ besides time: sizes, samples. */
  notes: string[];
}

/** See `Lens.compare`. */
export async function compare(
  lens: Lens,
  ways: { a: ComparedDraw; b: ComparedDraw },
  options: CompareOptions = {},
): Promise<Comparison> {
  for (const name of ['a', 'b'] as const)
    if (typeof (ways as Partial<typeof ways> | undefined)?.[name] !== 'function')
      throw new LensError('compare/ways', `lens.compare takes two functions, and "${name}" is none`, {
        hint: 'Write { a: () => lens.draw(scene, camera), b: () => { ...; lens.draw(scene, camera); } }.',
      });
  const { turns = 40, frames = 3, on = 'frame', onProgress } = options;
  if (!(turns >= 1 && frames >= 1))
    throw new LensError('compare/turns', `${turns} turns of ${frames} frames tell nothing`, {
      hint: 'Give 1 or more of each.',
    });
  const { device } = lens;
  const hadClock = lens.timesPasses;
  await lens.timePasses(true);
  const { clock } = lens.renderer;
  const times = { a: emptyTimes(), b: emptyTimes() };
  try {
    if (on === 'gpu' && !clock)
      throw new LensError('compare/no-clock', 'this GPU has no clock that passes could be timed by', {
        hint: 'Compare whole frames, or the script alone.',
      });
    // What is made when it is first drawn counts for neither.
    for (const way of [ways.a, ways.b, ways.a, ways.b]) await timeOf(way);
    await lens.whenReady();
    for (const way of [ways.a, ways.b]) await timeOf(way);
    for (let turn = 0; turn < turns; turn++) {
      // ABBA: what slowly changes meanwhile is the same for both.
      for (const name of turn % 2 === 0 ? (['a', 'b'] as const) : (['b', 'a'] as const)) {
        const way = ways[name];
        await timeOf(way);
        const list = [];
        for (let i = 0; i < frames; i++) list.push(await timeOf(way));
        for (const key of ['frame', 'script', 'gpu'] as const)
          times[name][key].push(spreadOf(list.map((time) => time[key])).median);
        times[name].last = figuresOf();
      }
      onProgress?.((turn + 1) / turns);
    }
  } finally {
    if (!hadClock) await lens.timePasses(false);
  }
  const [a, b] = [summed('a'), summed('b')];
  return { a, b, on, verdict: verdictOn(times.a[on], times.b[on], options), notes: notesOn(a, b) };

  async function timeOf(way: ComparedDraw): Promise<{ frame: number; script: number; gpu: number }> {
    await finished(device);
    const start = performance.now();
    way();
    const script = performance.now() - start;
    await finished(device);
    const frame = performance.now() - start;
    return { frame, script, gpu: clock ? await clock.settled() : 0 };
  }

  function figuresOf(): DrawnFigures {
    const { draws, instances, triangles, bytesUploaded } = lens.ledger;
    const { last, pictureSamples: samples } = lens.renderer;
    const { width = 0, height = 0 } = last?.target ?? {};
    return { draws, instances, triangles, bytesUploaded, width, height, samples };
  }

  function summed(name: 'a' | 'b'): ComparedWay {
    const { frame, script, gpu, last } = times[name];
    return {
      frame: spreadOf(frame),
      script: spreadOf(script),
      gpu: clock ? spreadOf(gpu) : undefined,
      ...last,
    };
  }
}

function emptyTimes(): {
  frame: number[];
  script: number[];
  gpu: number[];
  last: ReturnType<typeof nothing>;
} {
  return { frame: [], script: [], gpu: [], last: nothing() };
}

type DrawnFigures = Omit<ComparedWay, 'frame' | 'script' | 'gpu'>;

/** What else differs, which may be the whole difference. */
function notesOn(a: DrawnFigures, b: DrawnFigures): string[] {
  const size = ({ height, width }: DrawnFigures): string => `${width} x ${height}`;
  const notes = size(a) === size(b) ? [] : [`a is ${size(a)} pixels, and b ${size(b)}`];
  if (a.samples !== b.samples)
    notes.push(
      `a has ${a.samples} samples a pixel, and b ${b.samples}: ${a.samples < b.samples ? 'a' : 'b'} gives up smooth edges`,
    );
  return notes;
}

const nothing = (): DrawnFigures => ({
  width: 0,
  height: 0,
  samples: 0,
  draws: 0,
  instances: 0,
  triangles: 0,
  bytesUploaded: 0,
});

/** A verdict in words: `b is faster: 12% less time (9% to 14%, 99% sure), by 40 pairs`. */
export function verdictText(
  { kind, ratio, low, high, confidence, pairs, more }: Verdict,
  [a, b]: readonly [a: string, b: string] = ['a', 'b'],
): string {
  const share = (value: number): string =>
    `${Math.abs((value - 1) * 100).toFixed(Math.abs(value - 1) < 0.0995 ? 1 : 0)}%`;
  const sure = `${+(confidence * 100).toFixed(2)}% sure`;
  if (kind === 'cannot tell') {
    const bounds =
      Number.isFinite(high) && low > 0
        ? `: ${b} takes ${low.toFixed(3)} to ${high.toFixed(3)} of the time of ${a} (${sure})`
        : '';
    const advice = more ? `; some ${more} more pairs would tell` : '; they are as good as equal';
    return `cannot tell by ${pairs} pairs${bounds}${advice}`;
  }
  const [from, to] = kind === 'faster' ? [high, low] : [low, high];
  return `${b} is ${kind} than ${a}: ${share(ratio)} ${kind === 'faster' ? 'less' : 'more'} time (${share(from)} to ${share(to)}, ${sure}), by ${pairs} pairs`;
}
