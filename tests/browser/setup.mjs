// A Chromium for each worker, and one server of the built examples for all browser tests.
import { createReadStream, mkdirSync } from 'node:fs';
import { dirname, join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { build } from 'esbuild';
import { chromium } from 'playwright-core';
import { preview } from 'vite';
import { findChromium, OFFSCREEN_FLAGS } from '../../packages/cli/dist/host/chromium.js';

export default async function setup() {
  const root = join(dirname(fileURLToPath(import.meta.url)), '../..');
  mkdirSync(join(root, '.cache'), { recursive: true });
  await build({
    stdin: {
      contents: [
        'umber-lens',
        'umber-lens/shaders',
        'umber-lens/device',
        'umber-lens/figures',
        '@umber-lens/core/engine',
        '@umber-lens/core/properties',
        '../viewfinder/dist/stage/grid.js',
      ]
        .map((entry) => `export * from '${entry}';`)
        .join('\n'),
      resolveDir: join(root, 'packages/lens'),
    },
    outfile: join(root, '.cache/umber.js'),
    bundle: true,
    format: 'iife',
    globalName: 'umber',
    target: 'es2022',
    // Threads are started by modules of their own, which one script has not: work is done at once then.
    define: { 'import.meta.url': '""' },
    logLevel: 'warning',
  });
  // What projects of tests are served with: in one piece, as Vite makes it of packages that a project has installed.
  await build({
    entryPoints: {
      'umber-lens': join(root, 'packages/lens/dist/index.js'),
      shaders: join(root, 'packages/lens/dist/shaders/index.js'),
      viewfinder: join(root, 'packages/viewfinder/dist/index.js'),
    },
    outdir: join(root, '.cache/served'),
    bundle: true,
    splitting: true,
    format: 'esm',
    target: 'es2022',
    logLevel: 'warning',
  });
  const site = await preview({
    root: join(root, 'examples'),
    plugins: [
      {
        name: 'umber-of-tests',
        configurePreviewServer: ({ middlewares }) => {
          middlewares.use('/umber.js', (_, answer) => {
            answer.setHeader('content-type', 'text/javascript');
            createReadStream(join(root, '.cache/umber.js')).pipe(answer);
          });
        },
      },
    ],
    preview: { port: 0, host: '127.0.0.1' },
    logLevel: 'error',
  });
  const browsers = await Promise.all(
    Array.from({ length: 2 }, () =>
      chromium.launchServer({ executablePath: findChromium(), args: OFFSCREEN_FLAGS }),
    ),
  );
  process.env.UMBER_TEST_SITE = `http://127.0.0.1:${site.httpServer.address().port}`;
  process.env.UMBER_TEST_BROWSERS = browsers.map((browser) => browser.wsEndpoint()).join(' ');
  globalThis.umberTestServers = { site, browsers };
}
