// Bundles the scripts that the command line runs inside browser pages.
import { build } from 'esbuild';

for (const [page, file] of [
  ['page', 'shoot-page'],
  ['serve-page', 'serve-page'],
])
  await build({
    entryPoints: [`packages/cli/src/browser/${page}.ts`],
    outfile: `packages/cli/dist/${file}.js`,
    bundle: true,
    minify: true,
    format: 'iife',
    target: 'es2022',
    define: { 'import.meta.url': "''" },
    logLevel: 'warning',
  });
