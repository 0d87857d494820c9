import type { ImportedShader } from 'umber-lens';

declare const shader: ImportedShader;
export default shader;
