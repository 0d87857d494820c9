// Bundles the scripts that the command line runs inside a browser page.
import { build } from 'esbuild';

await build({
  entryPoints: ['packages/cli/src/browser/page.ts'],
  outfile: 'packages/cli/dist/shoot-page.js',
  bundle: true,
  minify: true,
  format: 'iife',
  target: 'es2022',
  define: { 'import.meta.url': "''" },
  logLevel: 'warning',
});
