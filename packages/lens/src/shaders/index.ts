/**
 * Compiles hooks and modules of WGSL while a page runs.
 *
 * @module umber-lens/shaders
 */
import { type FullMaterial, LensError, type MaterialShader } from '@umber-lens/core/engine';
import { compileFullHooks, compileHooks, type CompileHooksOptions } from '@umber-lens/core/shading';
import { SHADER_FEEDS } from './shader-feeds.js';

export { compileGraphShader } from './compile-graph-shader.js';
export type { CompiledShader, MaterialShader, TextureSetting } from '@umber-lens/core/engine';
export {
  checkHooks,
  compileCompute,
  compileModule,
  type CompileHooksOptions,
  type HookName,
  HOOKS,
  LIBRARY,
  linkHooks,
  PRELUDE,
} from '@umber-lens/core/shading';

/**
 * Compiles a module with the hook `effect` into the shader of an effect on pictures: `{ type: 'shader', shader, settings }`.
 *
 * @throws LensError with the author's file, line and column; `effect/no-hook`
 */
export function compileEffect<S = Record<string, unknown>>(
  text: string,
  options: CompileHooksOptions = {},
): MaterialShader<S> {
  const shader = compileHooks<S>(text, { file: 'effect.wgsl', ...options });
  if (shader.effect) return { ...shader, source: { text, sources: { ...options.sources } } };
  throw new LensError('effect/no-hook', `${shader.file} has no hook "effect"`, {
    hint: 'Write fn effect(p: Pixel, s: Settings) -> vec4f.',
    where: { file: shader.file },
  });
}

/**
 * Compiles a module of hooks (`displace`, `surface`, `light`, `outputColor`) into the shader of a material, for
 * both GPU interfaces. Pages that import their `.wgsl` files through the Vite plugin have this done when they
 * are built, and carry no compiler.
 *
 * @throws LensError with the author's file, line and column; the message shows the line
 */
export function compileMaterialShader<S = Record<string, unknown>>(
  text: string,
  options: CompileHooksOptions = {},
): MaterialShader<S> {
  let full: Promise<FullMaterial> | undefined;
  return {
    ...compileHooks<S>(text, options),
    source: { text, sources: { ...options.sources } },
    feeds: SHADER_FEEDS,
    full: () => (full ??= Promise.resolve().then(() => compileFullHooks(text, options))),
  };
}
