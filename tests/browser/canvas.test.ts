import { type ChildProcess, spawn } from 'node:child_process';
import { type Browser, chromium, type Page } from 'playwright-core';
import sharp from 'sharp';
import { CHROMIUM_FLAGS, findChromium } from '../../packages/cli/src/host/chromium.js';
import type * as Umber from 'umber-lens';
import { site } from './stage.js';
import { seenOnce } from '../waiting.js';

// A WebGPU canvas is drawn and shown only in a browser with a window: Xvfb gives it a screen.
let screen: ChildProcess;
let browser: Browser;

beforeAll(async () => {
  screen = spawn('Xvfb', ['-displayfd', '1', '-screen', '0', '640x480x24', '-nolisten', 'tcp'], {
    stdio: ['ignore', 'pipe', 'ignore'],
  });
  const display = await new Promise<string>((resolve, reject) => {
    screen.stdout!.once('data', (data: Buffer) => resolve(data.toString().trim()));
    screen.once('error', reject);
  });
  browser = await chromium.launch({
    executablePath: findChromium(),
    headless: false,
    env: { ...process.env, DISPLAY: `:${display}` } as Record<string, string>,
    args: [
      ...CHROMIUM_FLAGS,
      '--enable-unsafe-webgpu',
      '--use-webgpu-adapter=swiftshader',
      '--enable-features=Vulkan',
      '--use-vulkan=swiftshader',
    ],
  });
});
afterAll(async () => {
  await browser?.close();
  screen?.kill();
});

async function open(path: string): Promise<{ page: Page; errors: string[] }> {
  const page = await browser.newPage({ viewport: { width: 160, height: 100 } });
  page.setDefaultTimeout(240_000);
  const errors: string[] = [];
  page.on('pageerror', (error) => errors.push(String(error)));
  page.on('console', (message) => {
    if (message.type() === 'error') errors.push(message.text());
  });
  await page.goto(site(path));
  return { page, errors };
}

async function shades(page: Page): Promise<number> {
  const { data } = await sharp(await page.screenshot())
    .removeAlpha()
    .raw()
    .toBuffer({ resolveWithObject: true });
  const seen = new Set<number>();
  for (let i = 0; i < data.length; i += 3)
    seen.add((data[i]! >> 4) * 256 + (data[i + 1]! >> 4) * 16 + (data[i + 2]! >> 4));
  return seen.size;
}

test('with an adapter the lens takes WebGPU by itself, draws the canvas and goes on drawing', async () => {
  const { page, errors } = await open('urn/index.html');
  await page.waitForFunction('window.lens?.ledger.frame > 3');
  expect(await page.evaluate('window.lens.device.backend')).toBe('webgpu');
  expect(await shades(page)).toBeGreaterThan(25);
  expect(errors).toEqual([]);
  await page.close();
});

test('after a loss the canvas shows the picture again', async () => {
  const { page, errors } = await open('urn/index.html');
  await page.waitForFunction('window.lens?.ledger.frame > 3');
  await page.evaluate('window.lens.device.gpu.destroy()');
  await page.evaluate('new Promise((wait) => setTimeout(wait, 50)).then(() => window.lens.whenReady())');
  const frame = await page.evaluate<number>('window.lens.ledger.frame');
  await page.waitForFunction(
    (n) => (window as unknown as { lens: { ledger: { frame: number } } }).lens.ledger.frame > n + 2,
    frame,
  );
  expect(await shades(page)).toBeGreaterThan(25);
  expect(errors).toEqual([]);
  await page.close();
});

test('the low-level page draws on a WebGPU canvas', async () => {
  const { page, errors } = await open('bare-metal/index.html?backend=webgpu');
  expect(
    await seenOnce(
      () => shades(page),
      (count) => count > 25,
    ),
  ).toBeGreaterThan(25);
  expect(errors).toEqual([]);
  await page.close();
});

test('where WebGPU does not come back, WebGL2 draws over the canvas, at its place and size', async () => {
  const { page, errors } = await open('urn/index.html');
  await page.waitForFunction('window.lens?.ledger.frame > 3');
  const before = await page.screenshot();
  await page.evaluate(`{
    navigator.gpu.requestAdapter = () => Promise.resolve(null);
    window.lens.device.gpu.destroy();
  }`);
  await page.waitForFunction('window.lens.device.backend === "webgl2" && window.lens.state === "ready"');
  const frame = await page.evaluate<number>('window.lens.ledger.frame');
  await page.waitForFunction(`window.lens.ledger.frame > ${frame} + 3`);
  expect(await shades(page)).toBeGreaterThan(25);
  const far = async (one: Buffer, other: Buffer): Promise<number> => {
    const [a, b] = await Promise.all([one, other].map((png) => sharp(png).removeAlpha().raw().toBuffer()));
    return a!.reduce((sum, byte, i) => sum + Math.abs(byte - b![i]!), 0) / a!.length;
  };
  const after = await page.screenshot();
  expect(await far(before, after)).toBeLessThan(6);
  // It follows the canvas to another size.
  await page.setViewportSize({ width: 120, height: 130 });
  await page.waitForFunction(`(() => {
    const [below, over] = [...document.querySelectorAll('canvas')].map((one) => one.getBoundingClientRect());
    return over && ['left', 'top', 'width', 'height'].every((side) => Math.abs(over[side] - below[side]) < 0.6);
  })()`);
  // What is pressed is the canvas below.
  expect(
    await page.evaluate(`(() => {
      const [below, over] = document.querySelectorAll('canvas');
      const pressed = document.elementsFromPoint(60, 60);
      return [pressed.includes(below), pressed.includes(over)];
    })()`),
  ).toEqual([true, false]);
  expect(errors.filter((text) => !text.includes('destroyed'))).toEqual([]);
  await page.close();
});

test.each(['webgpu', 'webgl2'] as const)(
  'further canvases on one device show what is drawn into them on %s, and share what is uploaded',
  async (backend) => {
    const { page, errors } = await open('index.html');
    await page.setViewportSize({ width: 160, height: 160 });
    await page.setContent(
      '<style>body{margin:0}canvas{display:block;width:80px;height:50px}#third{width:40px}</style><canvas id="first"></canvas><canvas id="second"></canvas><canvas id="third"></canvas>',
    );
    await page.addScriptTag({ url: site('umber.js') });
    const told = await page.evaluate(async (backend) => {
      const { box, openLens, Scene } = umber;
      const canvas = (id: string): HTMLCanvasElement => document.querySelector(`#${id}`)!;
      const lens = await openLens(canvas('first'), { backend, pixelRatio: 1, antialias: false });
      const second = await lens.addCanvas(canvas('second'), { pixelRatio: 1 });
      const third = await lens.addCanvas(canvas('third'), { pixelRatio: 1 });
      const scene = new Scene({ clearColor: [0, 0, 0, 1] });
      const mesh = (color: number[]): Umber.Primitive => ({
        geometry: box(),
        material: { unlit: true, baseColorFactor: [...color, 1] },
      });
      scene.createNode({ mesh: mesh([1, 0, 0]) });
      scene.createNode({ translation: [10, 0, 0], mesh: mesh([0, 1, 0]) });
      scene.createNode({ translation: [20, 0, 0], mesh: mesh([0, 0, 1]) });
      const cameras = [0, 10, 20].map((x) =>
        scene.createNode({ translation: [x, 0, 2], camera: { type: 'perspective', yfov: 0.3, znear: 0.1 } }),
      );
      await lens.load(scene);
      for (let i = 0; i < 4; i++) {
        lens.draw(scene, cameras[0]!);
        lens.draw(scene, cameras[1]!, { target: second });
        lens.draw(scene, cameras[2]!, { target: third });
        await new Promise((resolve) => requestAnimationFrame(resolve));
        await second.read();
      }
      await new Promise((resolve) => setTimeout(resolve, 200));
      const own = lens.device.backend;
      let refused = '';
      const other = document.createElement('canvas');
      other.getContext('bitmaprenderer');
      await lens.addCanvas(other).catch((error: unknown) => (refused = String(error)));
      return { own, sizes: [second.width, second.height, third.width], refused };
    }, backend);
    expect(told.own).toBe(backend);
    expect(told.sizes).toEqual([80, 50, 40]);
    expect(told.refused).toMatch(/the canvas is in use with another kind of context/);
    const { data, info } = await sharp(await page.screenshot())
      .removeAlpha()
      .raw()
      .toBuffer({ resolveWithObject: true });
    const at = (x: number, y: number): number[] => [
      ...data.subarray((y * info.width + x) * 3, (y * info.width + x) * 3 + 3),
    ];
    expect([at(40, 25), at(40, 75), at(20, 125)]).toEqual([
      [255, 0, 0],
      [0, 255, 0],
      [0, 0, 255],
    ]);
    expect(errors).toEqual([]);
    await page.close();
  },
);

test('the viewfinder stands over a WebGPU canvas: a thing is added, dragged and outlined', async () => {
  const { page, errors } = await open('the-stage/index.html?viewfinder');
  await page.setViewportSize({ width: 640, height: 420 });
  await page.getByRole('tree', { name: 'nodes' }).waitFor();
  expect(await page.evaluate('window.lens.device.backend')).toBe('webgpu');
  await page.getByRole('button', { name: 'add', exact: true }).click();
  await page.getByRole('menuitem', { name: 'box', exact: true }).click();
  const field = page.getByRole('spinbutton', { name: 'translation y', exact: true });
  await field.fill('150cm');
  await field.press('Enter');
  expect(await page.evaluate('[...window.scene.get("box").readTranslation([0, 0, 0])][1]')).toBe(1.5);
  const frame = await page.evaluate<number>('window.lens.ledger.frame');
  await page.waitForFunction(`window.lens.ledger.frame > ${frame} + 8`);
  expect(await shades(page)).toBeGreaterThan(25);
  await page.keyboard.press('Alt+v');
  await page.getByRole('tree', { name: 'nodes' }).waitFor({ state: 'detached' });
  expect(errors).toEqual([]);
  await page.close();
});
