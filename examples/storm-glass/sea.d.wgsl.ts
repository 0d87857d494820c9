import type { MaterialShader } from 'umber-lens';

export type Settings = Record<string, never>;

declare const shader: MaterialShader<Settings>;
export default shader;
