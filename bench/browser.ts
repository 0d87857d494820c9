import { createServer, type Server } from 'node:http';
import type { AddressInfo } from 'node:net';
import { fileURLToPath } from 'node:url';
import { build } from 'esbuild';
import { type Browser, chromium, type Page } from 'playwright-core';
import type { Rollup } from 'vite';
import { CHROMIUM_FLAGS, findChromium, OFFSCREEN_FLAGS } from '../packages/cli/src/host/chromium.js';
import { graphText } from './graphs.js';
import { median, row, type Row } from './measure.js';
import type { BoxesResult } from './pages/boxes/main.js';
import type { ViewedPage } from './pages/viewed.js';
import { built } from './sizes.js';

const here = fileURLToPath(new URL('.', import.meta.url));

export async function bundle(page: string, format: 'esm' | 'iife'): Promise<string> {
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
    ...(format === 'iife' ? { define: { 'import.meta.url': '""' } } : {}),
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

/** Script of 20,000 moving nodes against the same by hand, on one of the two interfaces. */
export async function movingBoxes(browser: Browser, backend: 'webgl2' | 'webgpu'): Promise<Row[]> {
  const page = await isolatedPage(browser, await bundle('boxes/main', 'iife'));
  const result = await page.evaluate(
    ([rounds, name]) =>
      (window as unknown as { boxes(n: number, name: string): Promise<BoxesResult> }).boxes(rounds, name),
    [15, backend] as const,
  );
  await page.close();
  const { setters, bulk, instanced, loop } = result as Record<
    'setters' | 'bulk' | 'instanced' | 'loop',
    BoxesResult[string] | undefined
  >;
  const on = backend === 'webgl2' ? 'WebGL2' : 'WebGPU';
  const what = `script a frame on ${on}, 20,000 moving nodes`;
  const rows = [
    row(
      `${what} by setters, against one instanced draw by hand`,
      setters!.script,
      instanced!.script,
      'ms',
      1.7,
    ),
    row(`${what} in bulk, against the same`, bulk!.script, instanced!.script, 'ms', 1.15),
  ];
  if (loop)
    rows.push(
      row(`${what} by setters, against a draw each by hand`, setters!.script, loop.script, 'ms', 0.2),
    );
  rows.push(
    row(
      `whole frame with the GPU on ${on}, against one instanced draw by hand`,
      setters!.whole,
      instanced!.whole,
      'ms',
    ),
  );
  return rows;
}

/** What the viewfinder costs the page that it stands over, while nothing is chosen. */
export async function viewedPage(browser: Browser): Promise<Row[]> {
  const rows: Row[] = [];
  for (const [count, what, most] of [
    // A page of little else has the tool's own signs and grid in the same frame: told, and not held.
    [3000, '3,000 moving nodes', undefined],
    [100_000, '100,000 nodes of which 3,000 move', 1.1],
  ] as const) {
    const page = await isolatedPage(browser, await bundle('viewed', 'iife'));
    const view = await page.evaluateHandle(
      (nodes) => (window as unknown as { viewed(count: number): Promise<ViewedPage> }).viewed(nodes),
      count,
    );
    const thread = await threadOf(page);
    const frames = (): Promise<number> => view.evaluate((viewed) => viewed.frames());
    const after = async (more: number): Promise<void> => {
      const until = (await frames()) + more;
      while ((await frames()) < until) await page.waitForTimeout(50);
    };
    const taken = {
      open: { script: [] as number[], task: [] as number[] },
      shut: { script: [] as number[], task: [] as number[] },
    };
    // Runs of twelve moments differed by a fourth. What opening leaves to be collected is not counted to the frames after it.
    for (let i = 0; i < 28; i++) {
      const isOpen = i % 2 === 1;
      await view.evaluate((viewed, open) => viewed.view(open), isOpen);
      await after(60);
      const [begin, before] = [await frames(), await thread()];
      await after(60);
      const [end, since] = [await frames(), await thread()];
      const { script, task } = isOpen ? taken.open : taken.shut;
      script.push((since.script - before.script) / (end - begin));
      task.push((since.task - before.task) / (end - begin));
    }
    await page.close();
    for (const [part, of, limit] of [
      ['script', 'script', most],
      ['task', 'all that the page does in its thread', undefined],
    ] as const)
      rows.push(
        row(
          `${of} a frame of ${what} with the viewfinder open, against the page alone`,
          median(taken.open[part]),
          median(taken.shut[part]),
          'ms',
          limit,
        ),
      );
  }
  return rows;
}

/** Reads what the thread of a page was busy with so far, in its own time: milliseconds of script, and in all. */
async function threadOf(page: Page): Promise<() => Promise<{ script: number; task: number }>> {
  const session = await page.context().newCDPSession(page);
  await session.send('Performance.enable', { timeDomain: 'threadTicks' });
  return async () => {
    const { metrics } = await session.send('Performance.getMetrics');
    const of = (wanted: string): number => metrics.find(({ name }) => name === wanted)!.value * 1000; // they are always there
    return { script: of('ScriptDuration'), task: of('TaskDuration') };
  };
}

/** What dragging and zooming a graph of 1,000 nodes asks of the page's own thread, frame by frame: script, styles and layout. */
export async function largeGraph(browser: Browser): Promise<Row[]> {
  const page = await isolatedPage(browser, await bundle('large-graph', 'iife'));
  await page.setViewportSize({ width: 1280, height: 800 });
  await page.evaluate(
    (text) => (window as unknown as { openGraph(text: string): Promise<void> }).openGraph(text),
    graphText(),
  );
  const first = page.getByRole('group', { name: /^node n\d+$/ }).first();
  await first.waitFor({ timeout: 60_000 });
  // Until the pictures of what is in sight are drawn.
  await page.waitForTimeout(20_000);
  const thread = await threadOf(page);
  const frame = (): Promise<void> =>
    page.evaluate(
      () =>
        new Promise<void>((done) => {
          requestAnimationFrame(() => {
            requestAnimationFrame(() => {
              done();
            });
          });
        }),
    );
  /** Milliseconds of each step; the median is the result. */
  const stepped = async (steps: number, step: (i: number) => Promise<void>): Promise<number> => {
    const times: number[] = [];
    for (let i = 0; i < steps; i++) {
      const before = (await thread()).task;
      await step(i);
      await frame();
      times.push((await thread()).task - before);
    }
    return median(times);
  };
  const { mouse } = page;
  const idle = await stepped(20, () => Promise.resolve());
  /** A card is dragged, then all of it is moved and zoomed, from beside the card. */
  const byHand = async (box: { x: number; y: number }, zoom: number): Promise<Record<string, number>> => {
    const [x, y] = [box.x + 8, box.y + 4];
    await mouse.move(x, y);
    await mouse.down();
    const dragged = await stepped(30, (i) => mouse.move(x + i * 3, y + i * 2));
    await mouse.up();
    // Cards stand in rows, with room between.
    await mouse.move(x, box.y - 4);
    await mouse.down();
    const panned = await stepped(30, (i) => mouse.move(x + i * 6, box.y - 4 + i * 3));
    await mouse.up();
    const zoomed = await stepped(30, (i) => mouse.wheel(0, i < 15 ? -zoom : zoom));
    return { 'a card is dragged': dragged, 'it is moved': panned, 'it is zoomed': zoomed };
  };
  const far = await byHand((await first.boundingBox())!, 40); // it is drawn
  const board = (await page.getByRole('group', { name: 'nodes of the graph' }).boundingBox())!; // as above
  await page.getByRole('button', { name: 'fit', exact: true }).click();
  await mouse.move(board.x + 100, board.y + 60);
  for (let i = 0; i < 50; i++) await mouse.wheel(0, -40);
  await page.waitForTimeout(8000);
  const within: { x: number; y: number }[] = [];
  for (const one of await page.getByRole('group', { name: /^node n\d+$/ }).all()) {
    const box = (await one.boundingBox())!; // as above
    if (box.x > board.x && box.y > board.y + 10 && box.y < board.y + 250) within.push(box);
  }
  const near = await byHand(within[0]!, 10); // there are many
  await page.close();
  return Object.entries({ 'from far off': far, 'near by': near }).flatMap(([where, times]) =>
    Object.entries(times).map(([name, time]) =>
      row(
        `a graph of 1,000 nodes in the editor, ${where}: ${name}, the page's thread a frame, against a frame`,
        time - idle,
        1000 / 60,
        'ms',
        1,
      ),
    ),
  );
}

/** How long it takes until what is changed in a graph is seen: from the key that ends an input, by the clock, and of that the page's own thread. */
export async function changedGraph(browser: Browser): Promise<Row[]> {
  const page = await isolatedPage(browser, await bundle('changed-graph', 'iife'));
  await page.setViewportSize({ width: 1280, height: 800 });
  await page.evaluate(() => (window as unknown as { openChanged(): Promise<void> }).openChanged());
  const input = page.getByRole('textbox', { name: 'rim light: b', exact: true });
  await input.waitFor({ timeout: 60_000 });
  await page.waitForTimeout(5000);
  const thread = await threadOf(page);
  const [clock, own]: [number[], number[]] = [[], []];
  for (let i = 0; i < 16; i++) {
    const seen = page.evaluate(() => (window as unknown as { changed(): Promise<number> }).changed());
    // The picture as it is has been looked at, and the pictures of nodes are drawn.
    await page.waitForTimeout(2000);
    await input.fill(i % 2 === 0 ? '@rim' : '@share');
    const before = (await thread()).task;
    await input.press('Enter');
    clock.push(await seen);
    own.push((await thread()).task - before);
  }
  await page.close();
  const what = 'a changed structure of a graph of ten nodes is on screen, without a GPU';
  return [
    row(`${what}, against 100 ms`, median(clock), 100, 'ms', 1),
    row(`${what}: of that the page's own thread, against 100 ms`, median(own), 100, 'ms', 1),
  ];
}

/** Scenes of 100,000 nodes of which little changes, and scenes seen more than once a frame. */
export async function largeScenes(browser: Browser): Promise<Row[]> {
  const page = await isolatedPage(browser, await bundle('large', 'iife'));
  const times = await page.evaluate(
    (rounds) => (window as unknown as { large(n: number): Promise<Record<string, number>> }).large(rounds),
    31,
  );
  await page.close();
  const held = (what: string, ours: string, against: number, limit: number): Row =>
    row(what, times[ours]!, against, 'ms', limit);
  const of = (name: string): number => times[name]!;
  return [
    held(
      '100,000 nodes, 1% of them moving side by side, against 1,000 moving alone',
      'one percent together',
      of('a thousand alone'),
      3,
    ),
    held('the same, those that move lie 100 rows apart', 'one percent apart', of('a thousand alone'), 3),
    held('100,000 nodes, one moved, against all moved', 'one', of('all'), 0.1),
    held(
      '100,000 nodes, one moved and one added or removed, against one moved',
      'added or removed',
      of('one'),
      1.2,
    ),
    held(
      '100,000 nodes, 1% moving, through two cameras, against twice one camera',
      'two cameras',
      of('one camera') * 2,
      1,
    ),
    held('the same into three targets, against three times one', 'three targets', of('one camera') * 3, 1),
  ];
}

/** What effects on the picture cost, against the same passes by hand. */
export async function effects(browser: Browser): Promise<Row[]> {
  const page = await isolatedPage(browser, await bundle('effects', 'iife'));
  const times = await page.evaluate(
    (rounds) =>
      (window as unknown as { effects(n: number): Promise<Record<string, number>> }).effects(rounds),
    9,
  );
  await page.close();
  const { plain = 0 } = times;
  const cost = (name: string): number => times[name]! - plain; // named in the page
  const on = 'at 1280 x 800, besides the picture';
  return [
    row(
      `a blur of 4 pixels ${on}, against two passes by hand`,
      cost('blur'),
      times['blur by hand']!,
      'ms',
      1.3,
    ),
    row(
      `a color matrix ${on}, against a pass by hand`,
      cost('color-matrix'),
      times['matrix by hand']!,
      'ms',
      2,
    ),
    ...[
      ...['eight color effects', 'drop-shadow', 'morphology', 'convolve', 'blend'],
      ...['bloom', 'sharpen', 'smooth-edges', 'chromatic-aberration', 'film-grain', 'dither', 'light-shafts'],
      ...['ambient-occlusion', 'screen-space-reflections', 'motion-blur', 'temporal-antialiasing'],
      'temporal-antialiasing of half the resolution',
    ].map((name) => row(`${name} ${on}, against a color matrix`, cost(name), cost('color-matrix'), 'ms')),
    row(
      'sixteen nodes, each blurred by itself, against sixteen pictures',
      times['sixteen blurred nodes']!,
      plain * 16,
      'ms',
      1,
    ),
    row(
      '10,000 moving cards, whole frames, against one instanced draw by hand',
      times['cards']!,
      times['cards by hand']!,
      'ms',
      1.3,
    ),
    row(
      'the same, against one that blends light as light too, into half floats, and encodes the picture',
      times['cards']!,
      times['cards by hand, linear']!,
      'ms',
    ),
  ];
}

/** Whole frames with lights by cells, shadows kept, and environments made. */
export async function lighting(browser: Browser): Promise<Row[]> {
  const page = await isolatedPage(browser, await bundle('light', 'iife'));
  const times = await page.evaluate(
    (rounds) => (window as unknown as { light(n: number): Promise<Record<string, number>> }).light(rounds),
    5,
  );
  await page.close();
  const against = (what: string, ours: string, other: string): Row =>
    row(what, times[ours]!, times[other]!, 'ms');
  return [
    ...[10, 100, 1000].map((count) =>
      against(`${count} lights by cells, against a loop over all`, `${count} by cells`, `${count} in a loop`),
    ),
    against(
      'a frame whose shadow maps are kept, against one that draws them',
      'shadows kept',
      'shadows drawn',
    ),
    against(
      'a frame that makes an environment, against the same sums in script',
      'environment made',
      'the same sums in script',
    ),
    against(
      'a frame that makes an environment, against one that keeps it',
      'environment made',
      'environment kept',
    ),
  ];
}

export async function firstFrame(browser: Browser): Promise<Row> {
  const names = ['first-lit-box', 'first-lit-box-by-hand'] as const;
  const [ours, hand] = await Promise.all(names.map(async (name) => served(await built(`${name}.ts`, true))));
  const pages = { ours: ours!, hand: hand! };
  const times: Record<'ours' | 'hand', number[]> = { ours: [], hand: [] };
  for (let round = -1; round < 9; round++) {
    for (const name of ['ours', 'hand'] as const) {
      const page = await browser.newPage({ viewport: { width: 320, height: 200 } });
      await page.goto(pages[name].url);
      await page.waitForFunction('window.firstFrame');
      if (round >= 0) times[name].push(await page.evaluate<number>('window.firstFrame'));
      await page.close();
    }
  }
  Object.values(pages).forEach(({ server }) => server.close());
  return row(
    'time to first frame of a lit box, against a hand-written page',
    median(times.ours),
    median(times.hand),
    'ms',
    1.3,
  );
}

/** A page with a script of ours, on a secure origin, which WebGPU demands, and isolated, so that its clock is fine. */
export async function isolatedPage(browser: Browser, script: string): Promise<Page> {
  const page = await browser.newPage();
  const headers = {
    'Cross-Origin-Opener-Policy': 'same-origin',
    'Cross-Origin-Embedder-Policy': 'require-corp',
  };
  await page.route('**/*', (route) =>
    route.fulfill({ contentType: 'text/html', headers, body: '<body></body>' }),
  );
  await page.goto('http://localhost/');
  await page.addScriptTag({ content: script });
  return page;
}

/** What making a pipeline and the first frame cost on either interface. */
export async function pipelines(browser: Browser): Promise<Row[]> {
  const script = await bundle('pipelines', 'iife');
  const times: Record<string, number[]> = {};
  for (let round = -1; round < 5; round++) {
    const page = await isolatedPage(browser, script);
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

/** Chunks on a server of this machine, as a page of a canvas: whatever stands between a page and its files costs time. */
async function served(chunks: readonly Rollup.OutputChunk[]): Promise<{ server: Server; url: string }> {
  const entry = chunks.find(({ isEntry }) => isEntry)!.fileName;
  const files = new Map(chunks.map(({ fileName, code }) => [`/${fileName}`, code]));
  const html = `<!doctype html><style>canvas{width:100vw;height:100vh}</style><canvas></canvas><script type="module" src="/${entry}"></script>`;
  const server = createServer(({ url = '/' }, response) => {
    const code = files.get(url);
    response.setHeader('Content-Type', code === undefined ? 'text/html' : 'text/javascript');
    response.end(code ?? html);
  });
  await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve));
  return { server, url: `http://127.0.0.1:${(server.address() as AddressInfo).port}/` };
}
