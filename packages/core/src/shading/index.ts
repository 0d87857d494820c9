/**
 * Compiles the hooks of shader materials: what a build, a command line and a page need of it, without a GPU or a DOM.
 *
 * @module @umber-lens/core/shading
 */
export { bareShader, type ShaderLanguage } from './bare-shader.js';
export { checkHooks, holdsHooks, linkHooks } from './check-hooks.js';
export { compileCompute, compileModule } from './compile-entry-points.js';
export { compileFullHooks, compileHooks, type CompileHooksOptions, PRELUDE } from './compile-hooks.js';
export { type HookName, HOOKS } from './hook-outline.js';
export { LIBRARY } from './library.js';
export { type ImportedShader, materialTypes, settingsOf, settingsTypes, typesPath } from './module-types.js';
export { packFullHooks, packHooks } from './pack-hooks.js';
export { standAlone } from './stand-alone.js';
