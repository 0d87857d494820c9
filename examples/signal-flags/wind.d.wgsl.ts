import type { MaterialShader } from 'umber-lens';

export interface Settings {
  /** 0 to 1. */
  strength: number;
  phase: number;
}

declare const shader: MaterialShader<Settings>;
export default shader;
