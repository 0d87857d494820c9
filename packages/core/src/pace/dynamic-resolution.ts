/** Shares of the full width and height that pictures may have: steps that are not seen one by one. */
const STEPS = [1, 0.85, 0.72, 0.61, 0.52, 0.44, 0.37, 0.32, 0.27, 0.23, 0.2] as const;
/** Frames that a decision rests on. */
const FRAMES = 12;
/** Milliseconds from which on a frame is none, but a pause. */
const PAUSE = 20_000;
/** Share of the wished time above which frames are too slow. */
const SLOW = 1.15;
/** Milliseconds after which more pixels are tried at first, and at most. */
const PATIENCE = 1500;
const MOST_PATIENCE = 60_000;

export interface DynamicResolutionOptions {
  /** Milliseconds that a frame should take. Default 1000 / 60. */
  milliseconds?: number;
  /** Least share of the full width and height. 0.2 to 1, default 0.35. */
  minScale?: number;
}

/**
 * Finds how many pixels a picture may have for frames to take a wished time. It looks at the median of some frames, goes down
 * at once when they are slow, and up step by step when they are not; a step that was too much is tried again only after
 * twice as long each time, so that the picture does not flicker between two of them.
 */
export class DynamicResolution {
  /** Share of the full width and height that the next picture should have. */
  scale = 1;
  private readonly wished: number;
  private readonly last: number;
  private step = 0;
  private readonly times = new Float64Array(FRAMES);
  private readonly sorted = new Float64Array(FRAMES);
  private count = 0;
  private sum = 0;
  /** When the step was last changed, and how long it is to be left alone. */
  private since = 0;
  private patience = PATIENCE;
  private wasUp = false;
  private wasUneven = false;

  constructor({ milliseconds = 1000 / 60, minScale = 0.35 }: DynamicResolutionOptions = {}) {
    this.wished = milliseconds;
    let last = STEPS.length - 1;
    while (last > 0 && STEPS[last]! < minScale - 1e-9) last--; // last < length
    this.last = last;
  }

  /**
   * Takes note of a frame.
   *
   * @param milliseconds from the frame before to this one
   * @param now milliseconds on any clock
   * @returns whether `scale` is another one
   */
  frame(milliseconds: number, now: number): boolean {
    // After a pause of the page nothing is known.
    if (!(milliseconds > 0 && milliseconds < PAUSE)) {
      this.count = this.sum = 0;
      return false;
    }
    this.times[this.count++] = milliseconds;
    this.sum += milliseconds;
    // Frames that are very slow are not waited for as many times.
    if (this.count < FRAMES && !(this.count >= 3 && this.sum > 1000)) return false;
    const median = this.timeOf();
    this.count = this.sum = 0;
    if (median > this.wished * SLOW) {
      let next = Math.min(this.last, this.step + 1);
      if (this.wasUp) {
        // The step before was right: it is tried again later and later.
        this.patience = Math.min(MOST_PATIENCE, this.patience * 2);
      } else {
        // Pixels by the time they take: several steps at once where frames are much too slow.
        const wanted = this.scale * Math.sqrt(this.wished / median);
        while (next < this.last && STEPS[next]! > wanted) next++; // next < length
      }
      return this.goTo(next, now, false);
    }
    if (this.step > 0 && now - this.since >= this.patience) return this.goTo(this.step - 1, now, true);
    // What was tried has held for as long as it waited: it is no trial any more.
    if (now - this.since >= PATIENCE) this.wasUp = false;
    return false;
  }

  /**
   * Milliseconds of a frame: their median. Where work piles up unseen, frames are quick until one waits for all of it: when
   * that happens again and again, the mean counts.
   */
  private timeOf(): number {
    const { count, sorted, sum, times, wasUneven } = this;
    // Behind those of this time stand none.
    for (let i = 0; i < FRAMES; i++) sorted[i] = i < count ? times[i]! : Infinity; // i < FRAMES
    sorted.sort();
    const median = sorted[count >> 1]!; // within, as the last one
    const longest = sorted[count - 1]!;
    this.wasUneven = longest > 250 && longest > 10 * median;
    return wasUneven && this.wasUneven ? sum / count : median;
  }

  private goTo(step: number, now: number, isUp: boolean): boolean {
    if (step === this.step) return false;
    this.step = step;
    this.scale = STEPS[step]!; // one of them
    this.since = now;
    this.wasUp = isUp;
    return true;
  }
}
