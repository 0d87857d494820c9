/**
 * Imports WGSL files and sheets in projects of Vite, and saves what is tuned in the running page.
 *
 * @module @umber-lens/vite
 */
export { type ImportedShader, wgsl, type WgslPluginOptions } from './wgsl.js';
export {
  type CodeChange,
  codeEdit,
  type CodeEdit,
  type CodeEditOptions,
  type CodeRefusal,
} from './code/code-edit.js';
export { sheets, type SheetsPluginOptions } from './sheets.js';
export { viewfinder, type ViewfinderPluginOptions } from './viewfinder.js';
export { saving, type SavingPluginOptions } from './saving.js';
