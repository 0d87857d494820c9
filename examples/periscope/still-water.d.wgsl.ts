import type { MaterialShader, Texture, TextureUse } from 'umber-lens';

export interface Settings {
  /** how much waves break the picture 0 to 1. */
  ripple: number;
  /** light to one of the picture */
  gain: number;
  /** through a camera that is reflected at the water */
  reflection?: Texture | TextureUse;
}

declare const shader: MaterialShader<Settings>;
export default shader;
