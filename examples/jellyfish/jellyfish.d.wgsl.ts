import type { MaterialShader } from 'umber-lens';

export interface Settings {
  /** colour of the bell A color. */
  bell: [number, number, number];
  /** light from within A color. */
  glow: [number, number, number];
  /** how softly the parts flow together 0.01 to 0.2. */
  blend: number;
}

declare const shader: MaterialShader<Settings>;
export default shader;
