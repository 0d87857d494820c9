import type { MaterialShader } from 'umber-lens';

export interface Settings {
  /** how fast the edge falls off 0.5 to 6. */
  edge: number;
  /** color of the edge A color. */
  glow: [number, number, number];
  /** how far up the salt goes 0 to 1. */
  crust: number;
}

declare const shader: MaterialShader<Settings>;
export default shader;
