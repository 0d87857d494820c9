// Lays the decoder of the package draco3dgltf, glue and WebAssembly, as one module where core imports it from: the package's own
// files ask for Node's modules and for a file beside them, which pages and workers do not have.
import { existsSync, readFileSync, writeFileSync } from 'node:fs';
import { createRequire } from 'node:module';
import { build } from 'esbuild';

const target = 'packages/core/src/formats/draco/draco-module.ts';
const require = createRequire(new URL('../packages/core/package.json', import.meta.url));
const { version } = require('draco3dgltf/package.json');
const mark = `// Made by scripts/pack-draco.mjs out of draco3dgltf ${version} (Apache-2.0).\n// @ts-nocheck\n`;
if (!existsSync(target) || !readFileSync(target, 'utf8').startsWith(mark)) {
  const { outputFiles } = await build({
    stdin: {
      contents: `import create from 'draco3dgltf/draco_decoder_gltf_nodejs.js';
import wasmBinary from 'draco3dgltf/draco_decoder_gltf.wasm';
export const openDraco = () => create({ wasmBinary });`,
      resolveDir: 'packages/core',
    },
    bundle: true,
    minify: true,
    format: 'esm',
    target: 'es2022',
    loader: { '.wasm': 'binary' },
    // Nobody is asked for files: the code is here.
    define: { process: 'undefined' },
    external: ['fs', 'path'],
    write: false,
    logLevel: 'warning',
  });
  writeFileSync(target, mark + outputFiles[0].text);
}
