/** What is kept of a frame, in this order. */
export const RING_COLUMNS = [
  'milliseconds',
  'interval',
  'gpuMilliseconds',
  'stalled',
  'draws',
  'triangles',
  'instances',
  'bytesUploaded',
] as const;

export type RingColumn = (typeof RING_COLUMNS)[number];

/** Frames that are remembered. */
export const RING_FRAMES = 600;

const WIDTH = RING_COLUMNS.length;

/** The last frames' figures, oldest first. Writing and reading one by one allocate nothing. */
export class FrameRing {
  /** Frames that were kept so far. */
  frames = 0;
  private readonly values = new Float64Array(RING_FRAMES * WIDTH);

  /** How many are remembered. */
  get length(): number {
    return Math.min(this.frames, RING_FRAMES);
  }

  /** @param index 0: the oldest that is remembered */
  at(index: number, column: RingColumn): number {
    const frame = (this.frames - this.length + index) % RING_FRAMES;
    return this.values[frame * WIDTH + RING_COLUMNS.indexOf(column)]!; // index < length
  }

  /** All remembered values of a column, oldest first. */
  list(column: RingColumn): number[] {
    return Array.from({ length: this.length }, (_, i) => this.at(i, column));
  }

  /** How many of the remembered frames are above a limit. */
  over(column: RingColumn, limit: number): number {
    let count = 0;
    for (let i = 0; i < this.length; i++) if (this.at(i, column) > limit) count++;
    return count;
  }

  /** @internal */
  write(column: number, value: number): void {
    this.values[(this.frames % RING_FRAMES) * WIDTH + column] = value;
  }
}
