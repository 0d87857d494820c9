import type { ImportedShader } from '@umber-lens/vite';

declare const shader: ImportedShader;
export default shader;
