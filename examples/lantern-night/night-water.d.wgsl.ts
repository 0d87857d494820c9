import type { MaterialShader } from 'umber-lens';

export interface Settings {
  /** how steep the waves are 0 to 1. */
  swell: number;
}

declare const shader: MaterialShader<Settings>;
export default shader;
