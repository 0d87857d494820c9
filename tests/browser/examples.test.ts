import { execFile } from 'node:child_process';
import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import { promisify } from 'node:util';
import sharp from 'sharp';
import { umberCommand } from '../cli/run.js';
import { temporaryFolder } from '../folders.js';
import { closeBrowser, newPage, site } from './stage.js';
import { seenOnce } from '../waiting.js';

afterAll(closeBrowser);

const [WIDTH, HEIGHT, TIME] = [96, 60, 1.5];

/** Fewer of what there is very much of: as tests/node/examples.ts has it. */
const FEWER: Record<string, string> = { kelp: '&blades=12000' };

/** Pictures of an example's page at some times, drawn off screen. */
async function stills(name: string, backend: string, times: number[] = [TIME]): Promise<Uint8Array[]> {
  const page = await newPage();
  const errors: string[] = [];
  page.on('pageerror', (error) => errors.push(String(error)));
  page.on('console', (message) => {
    if (['error', 'warning'].includes(message.type()) && !/GL Driver Message/.test(message.text()))
      errors.push(message.text());
  });
  await page.goto(`${site(`${name}/index.html`)}?offscreen&backend=${backend}${FEWER[name] ?? ''}`);
  await page.waitForFunction('window.drawStill');
  const pictures = await page.evaluate(
    async ([w, h, list]) => {
      const out: number[][] = [];
      for (const time of list) out.push([...(await window.drawStill!(w, h, time))]);
      return out;
    },
    [WIDTH, HEIGHT, times] as const,
  );
  await page.close();
  expect(errors).toEqual([]);
  return pictures.map((pixels) => Uint8Array.from(pixels));
}

function compare(a: Uint8Array, b: Uint8Array): { mean: number; off: number } {
  let sum = 0;
  let off = 0;
  for (let i = 0; i < a.length; i += 4) {
    const d = Math.max(...[0, 1, 2].map((k) => Math.abs(a[i + k]! - b[i + k]!)));
    sum += d;
    if (d > 8) off++;
  }
  return { mean: sum / (a.length / 4), off };
}

/** How many colours a picture has, by a coarse measure: an empty one has one or two. */
function shades(pixels: Uint8Array): number {
  const seen = new Set<number>();
  for (let i = 0; i < pixels.length; i += 4)
    seen.add((pixels[i]! >> 4) * 256 + (pixels[i + 1]! >> 4) * 16 + (pixels[i + 2]! >> 4));
  return seen.size;
}

const folder = temporaryFolder('examples');

/** The sheet of an example, as the command line draws it. */
async function sheetOf(name: string): Promise<Uint8Array> {
  const out = join(folder, `${name}.png`);
  const file = `examples/${name}/${name}.sheet.json`;
  const { code, err } = await umberCommand('shoot', file, '--out', out, '--size', `${WIDTH}x${HEIGHT}`);
  expect([code, err]).toEqual([0, '']);
  return new Uint8Array(await sharp(out).ensureAlpha().raw().toBuffer());
}

const drawnInNode = (name: string): Uint8Array => new Uint8Array(readFileSync(join(folder, `${name}.rgba`)));

beforeAll(async () => {
  const args = ['tests/node/draw-examples.mjs', folder, WIDTH, HEIGHT, TIME].map(String);
  await promisify(execFile)(process.execPath, args, { env: { ...process.env, NODE_OPTIONS: '' } });
});

// Node draws by WebGPU, too: in pages that is seen of the three that are drawn soonest.
test.each([
  ['urn', true],
  ['glass-float', true],
  ['jellyfish', false],
  ['chart-print', true],
  ['lamp-room', false],
  ['lantern-night', false],
  ['signal-flags', false],
  ['figurehead', false],
  ['varnish', false],
  ['kelp', false],
])('%s is one picture on WebGPU, on WebGL2 and in Node', async (name, isOnPage) => {
  const hasSheet = name === 'glass-float' || name === 'varnish';
  const times = [TIME, TIME + 1.5, ...(hasSheet ? [0] : [])];
  const [gl, later, first] = (await stills(name, 'webgl2', times)) as [Uint8Array, Uint8Array, Uint8Array?];
  expect(shades(gl)).toBeGreaterThan(25);
  const others = [drawnInNode(name), ...(isOnPage ? await stills(name, 'webgpu') : [])];
  // Edges of hard steps, and of shapes without antialiasing, may fall on either side of a pixel.
  for (const other of others) {
    const { mean, off } = compare(gl, other);
    expect(mean).toBeLessThan(0.5);
    expect(off).toBeLessThan(40);
  }
  // It moves.
  expect(compare(gl, later).off).toBeGreaterThan(12);
  // It moves what stands in its sheet, and begins where that says.
  if (first) {
    const { mean, off } = compare(first, await sheetOf(name));
    expect(mean).toBeLessThan(0.5);
    expect(off).toBeLessThan(20);
  }
});

test('the periscope shows the tug, its reflection, a live picture and an inset', async () => {
  const [picture] = (await stills('periscope', 'webgl2')) as [Uint8Array];
  expect(shades(picture)).toBeGreaterThan(60);
  const redAt = (x: number, y: number): boolean => {
    const at = (Math.round(y * HEIGHT) * WIDTH + Math.round(x * WIDTH)) * 4;
    return picture[at]! > picture[at + 2]! * 1.3;
  };
  // The funnel, its reflection, and the roof in the eyepiece.
  expect([redAt(0.48, 0.4), redAt(0.465, 0.86), redAt(0.8, 0.55)]).toEqual([true, true, true]);
});

test('storm glass has effects that are switched one by one, and tells what they take', async () => {
  const page = await newPage({ viewport: { width: 240, height: 160 } });
  const errors: string[] = [];
  page.on('pageerror', (error) => errors.push(String(error)));
  await page.goto(`${site('storm-glass/index.html')}?backend=webgl2`);
  const passes = async (): Promise<number> => parseInt((await page.textContent('output'))!, 10);
  const until = (least: number, most: number): Promise<unknown> =>
    page.waitForFunction(
      ([a, b]) => {
        const count = parseInt(document.querySelector('output')?.textContent ?? '', 10);
        return count >= a && count <= b;
      },
      [least, most] as const,
    );
  await until(6, 99);
  const all = await passes();
  await page.getByLabel('Depth of field').selectOption('off', { force: true });
  await until(5, all - 1);
  for (const name of ['Occlusion', 'Reflections', 'Bloom', 'Rain on the lens', 'Grading', 'Fringes', 'Grain'])
    await page.getByLabel(name).selectOption('off', { force: true });
  await until(0, 0);
  await page.getByLabel('Grain').selectOption('on', { force: true });
  await until(1, 2);
  expect(errors).toEqual([]);
  await page.close();
});

test('the low-level page draws a lit, textured shape without a lens', async () => {
  const page = await newPage({ viewport: { width: 320, height: 200 } });
  const errors: string[] = [];
  page.on('pageerror', (error) => errors.push(String(error)));
  await page.goto(`${site('bare-metal/index.html')}?backend=webgl2`);
  const shown = async (): Promise<number> => {
    const picture = await page.screenshot();
    return shades(new Uint8Array(await sharp(picture).ensureAlpha().raw().toBuffer()));
  };
  expect(await seenOnce(shown, (count) => count > 25)).toBeGreaterThan(25);
  expect(errors).toEqual([]);
  await page.close();
});

test('the low-level page has less than 60 lines', () => {
  expect(readFileSync('examples/bare-metal/main.ts', 'utf8').split('\n').length).toBeLessThan(60);
});
