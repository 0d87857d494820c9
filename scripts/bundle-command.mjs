// Bundles the command line: its own code, of which Node would otherwise look up some six hundred files at each start, and the scripts that
// it runs inside browser pages.
import { readFileSync, rmSync } from 'node:fs';
import { isBuiltin } from 'node:module';
import { build } from 'esbuild';

const folder = 'packages/cli';
const { dependencies, optionalDependencies } = JSON.parse(readFileSync(`${folder}/package.json`, 'utf8'));
const declared = new Set(Object.keys({ ...dependencies, ...optionalDependencies }));

/** Our own packages go into the bundle; those of others stay outside, and a project that installs the command must get them. */
const othersStayOutside = {
  name: 'others stay outside',
  setup(bundler) {
    bundler.onResolve({ filter: /^[^./#]/ }, ({ path, kind, importer }) => {
      if (kind === 'entry-point' || /^(@umber-lens\/|umber-lens(\/|$))/.test(path)) return undefined;
      const [first, second] = path.split('/');
      const name = path.startsWith('@') ? `${first}/${second}` : first;
      if (isBuiltin(path) || declared.has(name)) return { path, external: true };
      return {
        errors: [{ text: `${folder}/package.json does not name ${name}, which ${importer} imports` }],
      };
    });
  },
};

rmSync(`${folder}/dist/command`, { recursive: true, force: true });
await build({
  entryPoints: [`${folder}/src/umber.ts`],
  outdir: `${folder}/dist/command`,
  bundle: true,
  splitting: true,
  platform: 'node',
  format: 'esm',
  target: 'node20',
  minifyWhitespace: true,
  minifySyntax: true,
  plugins: [othersStayOutside],
  logLevel: 'warning',
});

for (const [page, file] of [
  ['page', 'shoot-page'],
  ['serve-page', 'serve-page'],
])
  await build({
    entryPoints: [`${folder}/src/browser/${page}.ts`],
    outfile: `${folder}/dist/${file}.js`,
    bundle: true,
    minify: true,
    format: 'iife',
    target: 'es2022',
    define: { 'import.meta.url': "''" },
    logLevel: 'warning',
  });
