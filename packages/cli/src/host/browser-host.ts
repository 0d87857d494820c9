import { readFile } from 'node:fs/promises';
import { fileURLToPath } from 'node:url';
import { LensError } from '@umber-lens/core/engine';
import type { Page, Route } from 'playwright-core';
import type { CompareAnswer, ErrorAnswer, ShotAnswer, ShotRequest } from '../browser/shot.js';
import type { Backend, Drawing, DrawingHost, DrawnTogether, Shot, Take } from './host.js';

/** The page never reaches the network: every address below this one is answered here. */
const ORIGIN = 'http://umber.localhost'; // secure, as WebGPU demands
const ENVIRONMENT_ADDRESS = `${ORIGIN}/environment`;

type Files = ReadonlyMap<string, Uint8Array>;

/** Draws in a page of Chromium with the library in it, to which models are served. */
export class BrowserHost implements DrawingHost {
  constructor(private readonly backend: Exclude<Backend, 'node'> | undefined) {}

  async with<T>(
    { models, files, picture }: DrawnTogether,
    act: (drawing: Drawing) => Promise<T>,
  ): Promise<T> {
    const script = await readFile(fileURLToPath(new URL('../shoot-page.js', import.meta.url)), 'utf8');
    // The browser's driver is large: loaded once the models are known to be good.
    const { launchChromium } = await import('./chromium.js');
    const browser = await launchChromium();
    try {
      const page = await browser.newPage();
      const served = models.map((model) => model.files);
      await page.route('**/*', (route) => serve(route, served, script, picture?.bytes));
      await page.goto(`${ORIGIN}/`);
      const addresses = served.map((own, i) => {
        const [name] = own.keys();
        const path = name!.split('/').map(encodeURIComponent).join('/'); // the model itself is the first file
        return `${ORIGIN}/model/${i}/${path}`;
      });
      const requestOf = (model: number, { environment, ...shot }: Shot): ShotRequest => ({
        ...shot,
        url: addresses[model]!, // one a model
        isSheet: models[model]!.sheet !== undefined,
        ...(this.backend ? { backend: this.backend } : {}),
        ...(environment
          ? { environment: environment === 'sky' ? environment : { url: ENVIRONMENT_ADDRESS } }
          : {}),
      });
      return await act(await drawingIn(page, files, requestOf));
    } finally {
      await browser.close();
    }
  }
}

async function drawingIn(
  page: Page,
  files: readonly string[],
  requestOf: (model: number, shot: Shot) => ShotRequest,
): Promise<Drawing> {
  let taking: Take | undefined;
  let telling: ((fraction: number) => void) | undefined;
  await page.exposeFunction('keepFrame', (pixels: string, number: number) =>
    taking?.(Buffer.from(pixels, 'base64'), number),
  );
  await page.exposeFunction('tellProgress', (fraction: number) => telling?.(fraction));
  const fileOf = (model: number): string => files[model] ?? '';
  return {
    async draw(model, shot, take) {
      taking = take;
      const request = requestOf(model, shot);
      const answer = await askPage<ShotAnswer>(page, 'takeShot', request, fileOf(model));
      return { ...answer, pixels: Buffer.from(answer.pixels, 'base64') };
    },
    compare(a, b, how, onProgress) {
      telling = onProgress;
      const request = { a: requestOf(0, a), b: requestOf(1, b), ...how };
      return askPage<CompareAnswer>(page, 'compareShots', request, fileOf(0));
    },
  };
}

/**
 * Calls a function of the page.
 *
 * @param file what errors are about
 * @throws LensError what the page says, or `shoot/crash`
 */
async function askPage<A extends { kind: string }>(
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
