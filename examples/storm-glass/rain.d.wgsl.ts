import type { MaterialShader } from 'umber-lens';

export interface Settings {
  /** how much of the glass is wet 0 to 1. */
  amount: number;
}

declare const shader: MaterialShader<Settings>;
export default shader;
