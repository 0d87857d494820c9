import { LensError } from '../errors/lens-error.js';
import { doubtsIn } from '../wgsl/bound/doubts.js';
import { type Shader, tryCompileWgsl } from '../wgsl/compile.js';
import { outlineWgsl } from '../wgsl/outline.js';
import type { Finding } from '../wgsl/parse/source.js';
import { type CompileHooksOptions, compileStage, linkedHooks } from './compile-hooks.js';
import { HOOKS, outlineHooks } from './hook-outline.js';

/** Whether a module is one of hooks: it defines some and has no entry points. */
export function holdsHooks(text: string, file?: string): boolean {
  if (/@(vertex|fragment|compute)\b/.test(text)) return false;
  try {
    return outlineWgsl(text, file).functions.some(({ name }) => name in HOOKS);
  } catch {
    return false; // what is wrong with it is told by the check
  }
}

/**
 * The module of hooks linked with the library and its entry points `meshVertex` and `meshFragment`, for
 * translating it and for running its functions on the CPU.
 *
 * @throws LensError
 */
export function linkHooks(text: string, options: CompileHooksOptions = {}): Shader {
  const outline = outlineHooks(text, options.file ?? 'material.wgsl', options);
  return compileStage(linkedHooks('plain', text, outline, options));
}

/** Everything that is wrong with a module of hooks; empty when it compiles. */
export function checkHooks(text: string, options: CompileHooksOptions = {}): Finding[] {
  try {
    const outline = outlineHooks(text, options.file ?? 'material.wgsl', options);
    const linked = linkedHooks('plain', text, outline, options);
    const { findings, shader } = tryCompileWgsl(linked.text, linked.options);
    // What is right by the language, and seldom meant.
    return shader ? doubtsIn(shader, outline.file, Object.keys(HOOKS)) : findings;
  } catch (error) {
    if (!(error instanceof LensError)) throw error;
    const { code, summary: message, hint, where } = error;
    const { file = 'material.wgsl', line = 1, column = 1 } = where;
    const lineText = text.split('\n')[line - 1] ?? '';
    return [{ file, line, column, severity: 'error', code, message, hint, lineText, length: 1 }];
  }
}
