import type { MaterialShader } from 'umber-lens';

export interface Settings {
  /** metres a second 0 to 3. */
  speed: number;
}

declare const shader: MaterialShader<Settings>;
export default shader;
