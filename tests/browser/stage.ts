import { type Browser, chromium, type Page } from 'playwright-core';
import type { Backend } from 'umber-lens';
import type * as Engine from '@umber-lens/core/engine';
import type * as Properties from '@umber-lens/core/properties';
import type * as Umber from 'umber-lens';
import type * as Device from 'umber-lens/device';
import type * as Figures from 'umber-lens/figures';
import type * as Shaders from 'umber-lens/shaders';
import type * as Grids from '../../packages/viewfinder/src/stage/grid.js';
import { findChromium, OFFSCREEN_FLAGS } from '../../packages/cli/src/host/chromium.js';

declare global {
  /** The whole library, as the page of `openPage` has it. */

  var umber: typeof Umber &
    typeof Shaders &
    typeof Device &
    typeof Figures &
    typeof Engine &
    typeof Properties &
    typeof Grids;
  /**
   * A lens without a canvas, as new but for what it has made: its pipelines serve all tests of a page that ask for the same options. It is not
   * disposed of.
   */
  var keptLens: (options: Umber.OpenLensOptions) => Promise<Umber.Lens>;
}

let browser: Browser | undefined;

/** The browser that all tests of a worker share. */
export async function sharedBrowser(): Promise<Browser> {
  const all = process.env['UMBER_TEST_BROWSERS']!.split(' '); // set by setup.mjs
  browser ??= await chromium.connect(all[Number(process.env['JEST_WORKER_ID'] ?? 1) % all.length]!);
  return browser;
}

/** A page of the shared browser; it waits as long as tests may, since a busy machine may draw slowly. */
export async function newPage(options: Parameters<Browser['newPage']>[0] = {}): Promise<Page> {
  const page = await (await sharedBrowser()).newPage(options);
  page.setDefaultTimeout(240_000);
  return page;
}

/** A page of a browser of its own, which ends with it. */
async function filteringPage(viewport: { width: number; height: number }): Promise<Page> {
  const args = OFFSCREEN_FLAGS.filter((flag) => flag !== '--disable-gpu-compositing');
  const own = await chromium.launch({ executablePath: findChromium(), args });
  const page = await own.newPage({ viewport });
  page.setDefaultTimeout(240_000);
  page.on('close', () => void own.close());
  return page;
}

export async function closeBrowser(): Promise<void> {
  await browser?.close();
  browser = undefined;
}

/** Makes a page as in a browser without WebGPU. */
export const hideWebgpu = "Object.defineProperty(navigator, 'gpu', { value: undefined });";

/** Address of a page of the built examples. */
export function site(path: string): string {
  return `${process.env['UMBER_TEST_SITE']!}/${path}`; // set by setup.mjs
}

/**
 * A page of 320 x 200 with the library under `umber` and a canvas that fills it. A WebGPU canvas cannot be had
 * in a browser without a window, so WebGPU is hidden unless the test asks for it. `expects` are messages that the
 * browser gives by itself where a test provokes them. With `filters` the browser's own filters are computed by the driver: without it, it
 * blurs by boxes.
 */
export async function openPage(
  options: { webgpu?: boolean; as?: Backend; expects?: RegExp; filters?: boolean } = {},
): Promise<{ page: Page; errors: string[] }> {
  const viewport = { width: 320, height: 200 };
  const page = await (options.filters ? filteringPage(viewport) : newPage({ viewport }));
  const errors: string[] = [];
  page.on('pageerror', (error) => errors.push(String(error)));
  page.on('console', (message) => {
    // The driver's notes on read-backs are no fault, there is no icon to find, and tests draw bare metal.
    const isNote =
      /GL Driver Message|favicon|nothing around it to reflect/.test(
        message.text() + message.location().url,
      ) || options.expects?.test(message.text());
    if (['error', 'warning'].includes(message.type()) && !isNote) errors.push(message.text());
  });
  const { as, webgpu = as === 'webgpu' } = options;
  if (!webgpu) await page.addInitScript(hideWebgpu);
  await page.goto(site('index.html'));
  await page.setContent(
    '<style>body{margin:0}canvas{display:block;width:100vw;height:100vh}</style><canvas></canvas>',
  );
  await page.addScriptTag({ url: site('umber.js') });
  // A lens on a canvas draws off screen then, by the interface that is wanted.
  if (as === 'webgpu') {
    await page.evaluate(() => {
      const { openLens } = umber;
      globalThis.umber = {
        ...umber,
        openLens: (_, given) => openLens(undefined, { ...given, backend: 'webgpu' }),
      };
    });
  }
  await page.evaluate(() => {
    const lenses: Record<string, Promise<Umber.Lens>> = {};
    globalThis.keptLens = async (options) => {
      const key = JSON.stringify(options);
      const lens = await (lenses[key] ??= umber.openLens(undefined, {
        ...options,
        onMessage: () => undefined,
      }));
      const look: Record<string, unknown> = { ...lens.look };
      for (const name of Object.keys(look)) look[name] = undefined;
      Object.assign(lens.look, look);
      Object.assign(lens.view, {
        renderPath: 'forward',
        show: 'shaded',
        minPixels: 0,
        onDemand: false,
        finish: [],
      });
      return lens;
    };
  });
  return { page, errors };
}

/** The page of a group of tests: opened before them, closed behind them, and held against errors after each. */
export function testPage(options: Parameters<typeof openPage>[0] = {}): { page: Page; errors: string[] } {
  const held = {} as { page: Page; errors: string[] };
  beforeAll(async () => {
    Object.assign(held, await openPage(options));
  });
  afterAll(async () => {
    await held.page.close();
    await closeBrowser();
  });
  afterEach(() => {
    const found = held.errors.splice(0);
    expect(found).toEqual([]);
  });
  return held;
}

/**
 * Every second case: the one half for WebGPU, the other for WebGL2. Both draw from the same WGSL, whose two translations are
 * compared function by function elsewhere.
 */
export const inTurn = <T>(cases: readonly T[], backend: Backend): T[] =>
  cases.filter((_, i) => i % 2 === (backend === 'webgpu' ? 0 : 1));
