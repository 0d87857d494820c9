/** What a frame's time can go into. */
export type Dominant = 'script' | 'vertices' | 'pixels' | 'bandwidth' | 'stalls';

/** See `Ledger.report`. */
export interface FrameReport {
  dominant: Dominant;
  /** Milliseconds of a frame that each takes, by trial. */
  milliseconds: Record<Dominant, number>;
  /** One frame until the GPU is done. */
  frame: number;
  /** How it knows, a sentence each. */
  because: string[];
  /** What to do first, most useful first. */
  first: string[];
  /** All of it, in lines. */
  text: string;
}
