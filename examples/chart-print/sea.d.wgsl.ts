import type { MaterialShader } from 'umber-lens';

export interface Settings {
  /** A color. */
  paper: [number, number, number];
  /** A color. */
  ink: [number, number, number];
}

declare const shader: MaterialShader<Settings>;
export default shader;
