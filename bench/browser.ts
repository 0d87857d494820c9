import { fileURLToPath } from 'node:url';
import { gzipSync } from 'node:zlib';
import { build } from 'esbuild';
import { type Browser, chromium } from 'playwright-core';
import { CHROMIUM_FLAGS, findChromium } from '../packages/cli/src/browser/chromium.js';
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
    logLevel: 'warning',
    ...(format === 'esm' ? { external: ['jsonc-parser'] } : {}),
  });
  return outputFiles[0]!.text;
}

export async function withBrowser<T>(use: (browser: Browser) => Promise<T>): Promise<T> {
  const browser = await chromium.launch({
    executablePath: findChromium(),
    args: [...CHROMIUM_FLAGS, '--use-angle=swiftshader'],
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

export async function librarySize(): Promise<Row> {
  const script = await bundle('first-lit-box', 'esm');
  const size = gzipSync(script, { level: 9 }).length;
  return {
    what: 'library code of a page with one lit box, minified and gzipped, against its budget',
    ours: `${(size / 1000).toFixed(1)} kB`,
    against: '45 kB',
    ratio: size / 45_000,
    limit: 1,
  };
}
