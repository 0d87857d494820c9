import type { MaterialShader } from 'umber-lens';

export interface Settings {
  /** how far the top moves, metres 0 to 0.5. */
  sway: number;
}

declare const shader: MaterialShader<Settings>;
export default shader;
