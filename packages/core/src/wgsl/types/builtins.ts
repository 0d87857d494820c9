import type { Builtin } from './builtin-table.js';
import { MEMORY_BUILTINS } from './memory-builtins.js';
import { NUMBER_BUILTINS } from './number-builtins.js';
import { SUBGROUP_BUILTINS } from './subgroup-builtins.js';
import { TEXTURE_BUILTINS } from './texture-builtins.js';

/**
 * Built-in functions by name. `bitcast` and the views into buffers are the checker's own, since they take types.
 */
export const BUILTINS: ReadonlyMap<string, Builtin> = new Map([
  ...NUMBER_BUILTINS,
  ...MEMORY_BUILTINS,
  ...SUBGROUP_BUILTINS,
  ...TEXTURE_BUILTINS,
]);
