import type { ImportedShader } from 'umber-lens';

export interface Settings {
  /** how fast the rim falls off 0.5 to 6. */
  edge: number;
  /** colour of the rim A color. */
  glow: [number, number, number];
}

declare const shader: ImportedShader<Settings>;
export default shader;
