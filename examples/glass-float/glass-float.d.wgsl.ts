import type { MaterialShader } from 'umber-lens';

export interface Settings {
  /** how fast the rim falls off 0.5 to 6. */
  edge: number;
  /** light of the rim A color. */
  glow: [number, number, number];
  /** how far the picture behind is moved, pixels 0 to 80. */
  bend: number;
}

declare const shader: MaterialShader<Settings>;
export default shader;
