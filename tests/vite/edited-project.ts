import { writeFileSync } from 'node:fs';
import { join, resolve } from 'node:path';
import { pathToFileURL } from 'node:url';
import type { Page } from 'playwright-core';
import { closeBrowser, hideWebgpu, newPage } from '../browser/stage.js';
import { addressOf, runVite, type RunningVite } from './run-vite.js';

export interface EditedProject {
  /** What is served, by name: `main.ts` among it. */
  files: Record<string, string>;
  /** The plugins of `@umber-lens/vite` it is served with. */
  plugins: string[];
  /** The heading of its page. */
  title: string;
}

export const pause = (milliseconds: number): Promise<void> =>
  new Promise((done) => setTimeout(done, milliseconds));

/** Opens the viewfinder by its key, which is lost where the page has not all of its scripts yet, or is loaded anew just then. */
export async function openByKey(page: Page): Promise<void> {
  const tree = page.getByRole('tree', { name: 'nodes' });
  for (let i = 0; i < 4; i++) {
    await page.waitForLoadState();
    await page.keyboard.press('Alt+v');
    const isOpen = await tree.waitFor({ timeout: 20_000 }).then(
      () => true,
      () => false,
    );
    if (isOpen) return;
  }
  throw new Error('the viewfinder does not open');
}

/**
 * Before the tests of a file: a project in `folder`, served, opened, and drawing. Its `main.ts` counts `drawn`. What is
 * thrown in the page and caught by nobody fails the test.
 */
export function editedProject(
  folder: string,
  { files, plugins, title }: EditedProject,
): { readonly page: Page } {
  const edited = {} as { page: Page };
  const errors: string[] = [];
  let server: RunningVite | undefined;

  beforeAll(async () => {
    const alias = {
      '@umber-lens/viewfinder': resolve('.cache/served/viewfinder.js'),
      'umber-lens/shaders': resolve('.cache/served/shaders.js'),
      'umber-lens': resolve('.cache/served/umber-lens.js'),
    };
    const served: Record<string, string> = {
      'vite.config.mjs': `import { ${plugins.join(', ')} } from ${JSON.stringify(pathToFileURL(resolve('packages/vite/dist/index.js')).href)};
export default { plugins: [${plugins.map((plugin) => `${plugin}()`).join(', ')}], build: { target: 'es2022' }, server: { watch: { usePolling: true, interval: 50 }, fs: { strict: false } }, resolve: { alias: ${JSON.stringify(alias)} } };`,
      'index.html': `<!doctype html><html lang="en"><head><title>${title}</title></head><body style="margin:0"><main><h1 style="position:absolute;left:-99px;width:9px">${title}</h1><canvas style="display:block;width:100vw;height:100vh"></canvas></main><script type="module" src="/main.ts"></script></body></html>`,
      ...files,
    };
    for (const [name, text] of Object.entries(served)) writeFileSync(join(folder, name), text);
    server = runVite(folder, '--port', '0', '--host', '127.0.0.1');
    const address = await addressOf(server);
    const page = await newPage({ viewport: { width: 1024, height: 640 } });
    edited.page = page;
    page.setDefaultTimeout(60_000);
    await page.addInitScript(hideWebgpu);
    page.on('pageerror', (error) => errors.push(String(error)));
    await page.goto(address);
    await page.waitForFunction(() => 'drawn' in window, undefined, { timeout: 90_000 });
  });
  afterAll(async () => {
    await edited.page?.close();
    server?.stop();
    await closeBrowser();
  });
  afterEach(() => expect(errors.splice(0)).toEqual([]));
  return edited;
}
