// What Jest reads in place of a module: its TypeScript as JavaScript, with the language's own objects imported.
//
// Jest runs modules in a context of their own, where each reading of a global (`Math` in an inner loop) asks an interceptor and takes
// over half a microsecond: sixty times what `Math.sqrt` takes itself. An imported name is read at once. Globals that tests put
// something else in place of (timers, `fetch`, `performance`, what browsers have) stay globals.
import { createHash } from 'node:crypto';
import { readFileSync } from 'node:fs';
import { fileURLToPath } from 'node:url';
import swc from '@swc/jest';

const OWN = fileURLToPath(import.meta.url);
const BUILTINS = fileURLToPath(new URL('./test-builtins.mjs', import.meta.url));
const NAMES = [...readFileSync(BUILTINS, 'utf8').matchAll(/^ {2}(\w+),$/gm)].map(([, name]) => name);
const VERSION = [OWN, BUILTINS].map((file) => readFileSync(file, 'utf8')).join('\0');

/** The import, in the first line: lines stay where source maps have them. */
function withBuiltins(code) {
  const used = NAMES.filter(
    (name) =>
      new RegExp(`\\b${name}\\b`).test(code) &&
      // A module may have something of that name.
      !new RegExp(
        `\\b(?:class|function|const|let|var|as)\\s+${name}\\b|\\bimport\\b[^;'"]*\\b${name}\\b`,
      ).test(code),
  );
  return used.length ? `import { ${used.join(', ')} } from ${JSON.stringify(BUILTINS)}; ${code}` : code;
}

export default {
  createTransformer(options) {
    const inner = swc.createTransformer(options);
    const finish = (result) => ({ ...result, code: withBuiltins(result.code) });
    return {
      process: (...args) => finish(inner.process(...args)),
      processAsync: async (...args) => finish(await inner.processAsync(...args)),
      getCacheKey: (...args) =>
        createHash('sha1')
          .update(inner.getCacheKey(...args))
          .update(VERSION)
          .digest('hex'),
    };
  },
};
