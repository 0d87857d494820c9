import type { MaterialShader } from 'umber-lens';

export interface Settings {
  /** how many steps the light has 1 to 6. */
  bands: number;
  /** share of a step that is edge 0 to 1. */
  softness: number;
  /** how small the highlight is 0.8 to 0.999. */
  gloss: number;
  /** how bright it is 0 to 2. */
  shine: number;
  /** how fast the rim falls off 0.5 to 8. */
  edge: number;
  /** color of the rim A color. */
  glow: [number, number, number];
}

declare const shader: MaterialShader<Settings>;
export default shader;
