import { emitModule } from '../wgsl/emit/emit-wgsl.js';
import { linkHooks } from './check-hooks.js';
import { type CompileHooksOptions, EFFECT_PRELUDE, PRELUDE } from './compile-hooks.js';

/**
 * A module of hooks with everything that it imports in it: text that any page takes, without files beside it. What every shader material knows
 * (`Fragment`, `Surface`, `Light`) is left out.
 *
 * @throws LensError what `checkHooks` finds
 */
export function standAlone(text: string, options: CompileHooksOptions = {}): string {
  const { file = 'material.wgsl' } = options;
  const known = new Set([...PRELUDE, ...EFFECT_PRELUDE]);
  return emitModule(linkHooks(text, { ...options, file }), file, (from) => known.has(from));
}
