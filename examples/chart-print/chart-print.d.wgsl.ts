import type { MaterialShader } from 'umber-lens';

export interface Settings {
  /** steps of the light 2 to 6. */
  levels: number;
  /** cosine at which the highlight begins 0.8 to 1. */
  highlight: number;
  /** pixels from one line of the hatching to the next 3 to 16. */
  spacing: number;
  /** A color. */
  paper: [number, number, number];
  /** A color. */
  ink: [number, number, number];
}

declare const shader: MaterialShader<Settings>;
export default shader;
