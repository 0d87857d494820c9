// Draws the examples in Node, without a browser: node tests/node/draw-examples.mjs FOLDER WIDTH HEIGHT TIME
import { spawnSync } from 'node:child_process';
import { mkdirSync, readFileSync, writeFileSync } from 'node:fs';
import { join, resolve } from 'node:path';
import { pathToFileURL } from 'node:url';
import { build } from 'vite';
import { sheets, wgsl } from '../../packages/vite/dist/index.js';
import { openNodeGpu } from '../../packages/cli/dist/host/node-gpu.js';
import { softwareVulkan } from '../../packages/cli/dist/host/software-vulkan.js';

const vulkan = softwareVulkan();
if (vulkan) {
  const { status } = spawnSync(process.execPath, process.argv.slice(1), {
    env: { ...process.env, ...vulkan },
    stdio: 'inherit',
  });
  process.exit(status ?? 1);
}
const [folder, width, height, time] = process.argv.slice(2);
await build({
  configFile: false,
  logLevel: 'error',
  plugins: [sheets({ types: false }), wgsl({ types: false })],
  build: {
    ssr: 'tests/node/examples.ts',
    outDir: '.cache/examples-in-node',
    emptyOutDir: true,
    ssrEmitAssets: true,
    rollupOptions: { output: { entryFileNames: 'examples.mjs' } },
  },
  ssr: { noExternal: ['umber-lens', '@umber-lens/core'] },
});
// What sheets name lies where a page would be served from.
globalThis.location = new URL('http://examples/');
globalThis.fetch = async (address) =>
  new globalThis.Response(readFileSync(join('.cache/examples-in-node', new URL(address).pathname)));
const { drawExample, EXAMPLES } = await import(
  pathToFileURL(resolve('.cache/examples-in-node/examples.mjs')).href
);
mkdirSync(folder, { recursive: true });
const { gpu } = await openNodeGpu();
for (const name of Object.keys(EXAMPLES)) {
  const pixels = await drawExample(gpu, name, { width: Number(width), height: Number(height) }, Number(time));
  writeFileSync(join(folder, `${name}.rgba`), pixels);
}
gpu.destroy();
