import { readFile } from 'node:fs/promises';
import { fileURLToPath } from 'node:url';
import { LensError } from '@umber-lens/core/engine';
import type { Page, Route } from 'playwright-core';
import type { ErrorAnswer } from './shot.js';

/** The page never reaches the network: every address below this one is answered here. */
const ORIGIN = 'http://umber.localhost'; // secure, as WebGPU demands
export const ENVIRONMENT_ADDRESS = `${ORIGIN}/environment`;

type Files = ReadonlyMap<string, Uint8Array>;

/**
 * Opens a page with the library in it, to which models are served; it is closed again whatever happens.
 *
 * @param models the files of each, the model itself first
 * @param act is given the models' addresses, as the page sees them
 */
export async function withPage<T>(
  models: readonly Files[],
  picture: Uint8Array | undefined,
  act: (page: Page, addresses: readonly string[]) => Promise<T>,
): Promise<T> {
  const script = await readFile(fileURLToPath(new URL('../shoot-page.js', import.meta.url)), 'utf8');
  // The browser's driver is large: loaded once the models are known to be good.
  const { launchChromium } = await import('./chromium.js');
  const browser = await launchChromium();
  try {
    const page = await browser.newPage();
    await page.route('**/*', (route) => serve(route, models, script, picture));
    await page.goto(`${ORIGIN}/`);
    const addresses = models.map((files, i) => {
      const [name] = files.keys();
      return `${ORIGIN}/model/${i}/${encodeURIComponent(name!)}`; // the model itself is the first file
    });
    return await act(page, addresses);
  } finally {
    await browser.close();
  }
}

/**
 * Calls a function of the page.
 *
 * @param file what errors are about
 * @throws LensError what the page says, or `shoot/crash`
 */
export async function askPage<A extends { kind: string }>(
  page: Page,
  name: 'takeShot' | 'compareShots',
  request: unknown,
  file: string,
): Promise<Exclude<A, { kind: 'error' }>> {
  const crash = new Promise<never>((_, reject) => {
    page.on('crash', () =>
      reject(
        new LensError('shoot/crash', 'the browser page crashed while drawing', {
          hint: 'Try a smaller --size.',
        }),
      ),
    );
  });
  const call = page.evaluate(
    ([fn, given]) =>
      (globalThis as unknown as Record<string, (request: unknown) => Promise<A | ErrorAnswer>>)[
        fn as string
      ]!(given), // page.ts has it
    [name, request] as const,
  );
  const answer = (await Promise.race([call, crash])) as A | ErrorAnswer;
  if (answer.kind !== 'error') return answer as Exclude<A, { kind: 'error' }>;
  const { code, message, hint, where } = answer as ErrorAnswer;
  throw new LensError(code, message, { hint, where: { ...where, file } });
}

function serve(
  route: Route,
  models: readonly Files[],
  script: string,
  picture: Uint8Array | undefined,
): Promise<void> {
  const { pathname } = new URL(route.request().url());
  if (pathname === '/') {
    return route.fulfill({
      contentType: 'text/html',
      body: '<!doctype html><script src="/page.js"></script>',
    });
  }
  if (pathname === '/page.js') return route.fulfill({ contentType: 'text/javascript', body: script });
  const [, number, name] = /^\/model\/(\d+)\/(.*)$/.exec(pathname) ?? [];
  const found =
    pathname === '/environment' ? picture : models[Number(number)]?.get(decodeURIComponent(name ?? ''));
  if (!found) return route.fulfill({ status: 404 });
  return route.fulfill({
    contentType: 'application/octet-stream',
    body: Buffer.from(found.buffer, found.byteOffset, found.byteLength),
  });
}
