import type { MaterialShader } from 'umber-lens';

export interface Settings {
  /** where the pointer touches, in the jar's own space */
  pointer: [number, number, number];
  /** how far from the pointer faces still move, metres 0.05 to 1. */
  reach: number;
  /** how far they fly, metres 0 to 1. */
  push: number;
}

declare const shader: MaterialShader<Settings>;
export default shader;
