import type { FullMaterial, MaterialShader } from '@umber-lens/core/engine';
import { compileGraphText, type CompileGraphOptions } from '@umber-lens/core/graphs';
import { compileFullHooks, compileHooks } from '@umber-lens/core/shading';
import { SHADER_FEEDS } from './shader-feeds.js';

/**
 * Compiles a shader graph (`*.graph.json`) into the shader of a material, or of an effect, while a page runs. Pages that import their graphs through
 * the plugin for Vite have this done when they are built, and carry no compiler.
 *
 *     const rim = compileGraphShader(await (await fetch('rim.graph.json')).text(), { file: 'rim.graph.json' });
 *     createMaterial(rim, { settings: { edge: 3 } });
 *
 * @throws LensError with line and column in the graph, and the node
 */
export function compileGraphShader<S = Record<string, unknown>>(
  text: string,
  options: CompileGraphOptions = {},
): MaterialShader<S> {
  const { file = 'shader.graph.json', sources = {} } = options;
  const { wgsl } = compileGraphText(text, { ...options, file });
  const more = { file, sources: { ...sources } };
  let full: Promise<FullMaterial> | undefined;
  return {
    ...compileHooks<S>(wgsl, more),
    source: { text, sources: more.sources },
    feeds: SHADER_FEEDS,
    full: () => (full ??= Promise.resolve().then(() => compileFullHooks(wgsl, more))),
  };
}
