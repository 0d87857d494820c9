import type { MaterialShader } from 'umber-lens';

export interface Settings {
  /** 0 to 2. */
  drift: number;
}

declare const shader: MaterialShader<Settings>;
export default shader;
