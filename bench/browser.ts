import { fileURLToPath } from 'node:url';
import { gzipSync } from 'node:zlib';
import { build } from 'esbuild';
import { type Browser, chromium, type Page } from 'playwright-core';
import { build as viteBuild, type Rollup } from 'vite';
import { CHROMIUM_FLAGS, findChromium, OFFSCREEN_FLAGS } from '../packages/cli/src/browser/chromium.js';
import { median, row, type Row } from './measure.js';
import type { BoxesResult } from './pages/boxes.js';

const here = fileURLToPath(new URL('.', import.meta.url));

async function bundle(page: string, format: 'esm' | 'iife'): Promise<string> {
  const { outputFiles } = await build({
    entryPoints: [`${here}pages/${page}.ts`],
    bundle: true,
    minify: true,
    format,
    target: 'es2022',
    write: false,
    // As builds for production have it.
    conditions: ['production'],
    logLevel: 'warning',
    ...(format === 'esm' ? { external: ['jsonc-parser'] } : {}),
  });
  return outputFiles[0]!.text;
}

export async function withBrowser<T>(use: (browser: Browser) => Promise<T>, webgpu = false): Promise<T> {
  const browser = await chromium.launch({
    executablePath: findChromium(),
    args: webgpu ? OFFSCREEN_FLAGS : [...CHROMIUM_FLAGS, '--use-angle=swiftshader'],
  });
  try {
    return await use(browser);
  } finally {
    await browser.close();
  }
}

export async function movingBoxes(browser: Browser): Promise<Row[]> {
  const page = await browser.newPage();
  await page.setContent('<body></body>');
  await page.addScriptTag({ content: await bundle('boxes', 'iife') });
  const result = await page.evaluate(
    (rounds) => (window as unknown as { boxes(n: number): Promise<BoxesResult> }).boxes(rounds),
    20,
  );
  await page.close();
  const { ours, loop, instanced } = result as Record<'ours' | 'loop' | 'instanced', BoxesResult[string]>;
  return [
    row(
      'script a frame, 20,000 moving nodes, against one hand-written instanced draw',
      ours.script,
      instanced.script,
      'ms',
      1.3,
    ),
    row(
      'script a frame, 20,000 moving nodes, against a hand-written draw each',
      ours.script,
      loop.script,
      'ms',
      1 / 8,
    ),
    row(
      'whole frame with the GPU, against one hand-written instanced draw',
      ours.whole,
      instanced.whole,
      'ms',
    ),
    row('whole frame with the GPU, against a hand-written draw each', ours.whole, loop.whole, 'ms'),
    {
      what: 'draws a frame, finish included, against a draw each',
      ours: String(ours.draws),
      against: String(loop.draws),
      ratio: ours.draws / loop.draws,
      limit: undefined,
    },
  ];
}

export async function firstFrame(browser: Browser): Promise<Row> {
  const scripts = {
    ours: await bundle('first-lit-box', 'esm'),
    hand: await bundle('first-lit-box-by-hand', 'esm'),
  };
  const times: Record<'ours' | 'hand', number[]> = { ours: [], hand: [] };
  for (let round = -1; round < 9; round++) {
    for (const name of ['ours', 'hand'] as const) {
      const page = await browser.newPage({ viewport: { width: 320, height: 200 } });
      await page.route('**/*', (route) =>
        route.request().url().endsWith('.js')
          ? route.fulfill({ contentType: 'text/javascript', body: scripts[name] })
          : route.fulfill({
              contentType: 'text/html',
              body: '<style>canvas{width:100vw;height:100vh}</style><canvas></canvas><script type="module" src="/page.js"></script>',
            }),
      );
      await page.goto('http://umber.invalid/');
      await page.waitForFunction('window.firstFrame');
      if (round >= 0) times[name].push(await page.evaluate<number>('window.firstFrame'));
      await page.close();
    }
  }
  return row(
    'time to first frame of a lit box, against a hand-written page',
    median(times.ours),
    median(times.hand),
    'ms',
    1.3,
  );
}

/** A page on a secure origin, which WebGPU demands, with a script of ours. */
async function securePage(browser: Browser, script: string): Promise<Page> {
  const page = await browser.newPage();
  await page.route('**/*', (route) => route.fulfill({ contentType: 'text/html', body: '<body></body>' }));
  await page.goto('http://localhost/');
  await page.addScriptTag({ content: script });
  return page;
}

/** The same boxes on WebGPU, against an instanced draw by hand on WebGPU. */
export async function movingBoxesOnWebgpu(browser: Browser): Promise<Row[]> {
  const page = await securePage(browser, await bundle('boxes-webgpu', 'iife'));
  const { ours, hand } = await page.evaluate(
    (rounds) =>
      (window as unknown as { boxes(n: number): Promise<Record<'ours' | 'hand', number>> }).boxes(rounds),
    20,
  );
  await page.close();
  return [row('the same on WebGPU, against one hand-written instanced draw', ours, hand, 'ms', 1.3)];
}

/** What making a pipeline and the first frame cost on either interface. */
export async function pipelines(browser: Browser): Promise<Row[]> {
  const script = await bundle('pipelines', 'iife');
  const times: Record<string, number[]> = {};
  for (let round = -1; round < 5; round++) {
    const page = await securePage(browser, script);
    const result = await page.evaluate(() =>
      (window as unknown as { pipelines(): Promise<Record<string, number>> }).pipelines(),
    );
    if (round >= 0) for (const [name, time] of Object.entries(result)) (times[name] ??= []).push(time);
    await page.close();
  }
  const of = (name: string): number => median(times[name]!);
  return [
    row(
      'making the lit pipeline on WebGL2, against a program by hand',
      of('webgl2 ours'),
      of('webgl2 hand'),
      'ms',
    ),
    row(
      'making the lit pipeline on WebGPU, against the same on WebGL2',
      of('webgpu ours'),
      of('webgl2 ours'),
      'ms',
    ),
    row(
      'first frame of a box on WebGPU, against the same on WebGL2',
      of('webgpu frame'),
      of('webgl2 frame'),
      'ms',
    ),
  ];
}

export async function librarySize(): Promise<Row[]> {
  const [webgl2, webgpu] = [
    await sizeWith('first-lit-box', 'webgl2'),
    await sizeWith('first-lit-box', 'webgpu'),
  ];
  const compiling = await sizeWith('compiling', 'webgl2');
  const kilobytes = (n: number): string => `${(n / 1000).toFixed(1)} kB`;
  const held = (backend: string, size: number): Row => ({
    what: `library code of a page with one lit box on ${backend}, minified and gzipped, against its budget`,
    ours: kilobytes(size),
    against: '45 kB',
    ratio: size / 45_000,
    limit: 1,
  });
  return [
    held('WebGL2', webgl2),
    held('WebGPU', webgpu),
    {
      what: 'the same with the compiler, for shaders written while the page runs, against it without',
      ours: kilobytes(compiling),
      against: kilobytes(webgl2),
      ratio: compiling / webgl2,
      limit: undefined,
    },
  ];
}

/** Bytes that a page loads which draws with one of the two interfaces: the other's part stays on the server. */
async function sizeWith(page: string, backend: 'webgl2' | 'webgpu'): Promise<number> {
  const entry = `${here}pages/${page}.ts`;
  const result = await viteBuild({
    configFile: false,
    logLevel: 'error',
    build: {
      write: false,
      minify: true,
      target: 'es2022',
      modulePreload: false,
      rollupOptions: { input: entry, external: ['jsonc-parser'] },
    },
  });
  const chunks = (result as Rollup.RollupOutput).output.filter((file) => file.type === 'chunk');
  const loaded = new Set<string>();
  const load = (name: string): void => {
    const chunk = chunks.find(({ fileName }) => fileName === name);
    if (!chunk || loaded.has(name)) return;
    loaded.add(name);
    chunk.imports.forEach(load);
  };
  for (const { fileName, isEntry, moduleIds } of chunks) {
    if (isEntry || moduleIds.some((id) => id.includes(`open-${backend}`))) load(fileName);
  }
  return chunks
    .filter(({ fileName }) => loaded.has(fileName))
    .reduce((sum, { code }) => sum + gzipSync(code, { level: 9 }).length, 0);
}
