import type { MaterialShader } from 'umber-lens';

export interface Settings {
  /** how steep they are 0 to 1.5. */
  waves: number;
  /** A color. */
  zenith: [number, number, number];
  /** A color. */
  horizon: [number, number, number];
}

declare const shader: MaterialShader<Settings>;
export default shader;
