import type { MaterialShader } from '@umber-lens/core';
import { compileHooks, type CompileMaterialOptions } from './compile-material.js';
import { LIBRARY } from './library.js';

export type { CompiledShader, MaterialShader, TextureSetting } from '@umber-lens/core';
export { type CompileMaterialOptions, compileModule, PRELUDE } from './compile-material.js';
export { LIBRARY } from './library.js';
export { type HookName, HOOKS } from './mesh-module.js';

/**
 * Compiles a module of hooks (`displace`, `surface`, `light`, `finalColor`) into the shader of a material, for
 * both GPU interfaces. Pages that import their `.wgsl` files through the Vite plugin have this done when they
 * are built, and carry no compiler.
 *
 * @throws LensError with the author's file, line and column; the message shows the line
 */
export function compileMaterial<S = Record<string, unknown>>(
  text: string,
  options: CompileMaterialOptions = {},
): MaterialShader<S> {
  return compileHooks<S>(text, LIBRARY, options);
}
