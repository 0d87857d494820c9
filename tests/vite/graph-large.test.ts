import type { Page } from 'playwright-core';
import { temporaryFolder } from '../folders.js';
import { editedProject } from './edited-project.js';
import { GraphPage } from './graph-page.js';
import { seenOnce } from '../waiting.js';

const COUNT = 200;
const ACROSS = 40;
const numbers = Array.from({ length: COUNT }, (_, i) => i);
const CHAIN = JSON.stringify({
  graph: 1,
  nodes: Object.fromEntries(
    numbers.map((i) => [`n${i}`, { call: '+', in: [i === 0 ? '@p.position.x' : `@n${i - 1}`, 0.5] }]),
  ),
  hooks: { surface: { emissive: { call: 'vec3f', in: [`@n${COUNT - 1}`] } } },
  layout: Object.fromEntries(
    numbers.map((i) => [`n${i}`, [(i % ACROSS) * 260, Math.floor(i / ACROSS) * 160]]),
  ),
});
const MAIN = `import { createMaterial, openLens, Scene, sphere } from 'umber-lens';
import chain from './chain.graph.json';

const lens = await openLens(document.querySelector('canvas')!, { antialias: false, pixelRatio: 0.1, onMessage: () => undefined });
const scene = new Scene();
scene.createNode({ name: 'ball', mesh: { geometry: sphere(), material: createMaterial(chain, { name: 'chain' }) } });
const camera = scene.createNode({ translation: [0, 0, 5], camera: { type: 'perspective', yfov: 1, znear: 0.1 } });
lens.view.onDemand = true;
lens.run(() => lens.draw(scene, camera));
Object.assign(window, { drawn: true });
`;
const edited = editedProject(temporaryFolder('graph-large'), {
  title: 'A chain',
  plugins: ['wgsl', 'saving', 'viewfinder'],
  files: { 'chain.graph.json': CHAIN, 'main.ts': MAIN },
});
let page: Page;
beforeAll(() => void ({ page } = edited));
const graph = new GraphPage(() => page);
const { button, card, field } = graph;
const pictures = () => page.locator('canvas.far-picture');
/** How many of a picture's pixels are drawn on. */
const ink = (i: number): Promise<number> =>
  pictures()
    .nth(i)
    .evaluate((canvas: HTMLCanvasElement) => {
      const { data } = canvas.getContext('2d')!.getImageData(0, 0, canvas.width, canvas.height);
      return data.filter((alpha, k) => k % 4 === 3 && alpha > 0).length;
    });
const fields = (): Promise<number> => page.getByRole('textbox', { name: /^n\d+: b$/ }).count();

test('from far off cards are one picture, and each can still be taken and put elsewhere', async () => {
  await graph.open('ball', 'chain');
  await seenOnce(
    () => pictures().count(),
    (count) => count === 1,
  );
  expect(await fields()).toBe(0);
  expect(await ink(0)).toBeGreaterThan(4000);
  const [from, to] = [(await card('n3').boundingBox())!, (await card('n100').boundingBox())!]; // they are there
  await page.mouse.move(from.x + from.width / 2, from.y + from.height / 2);
  await page.mouse.down();
  await page.mouse.move(to.x + to.width / 2, to.y + to.height * 2, { steps: 4 });
  // What is dragged is over the others, with its links, and goes along.
  await seenOnce(
    () => pictures().count(),
    (count) => count === 2,
  );
  expect(await ink(1)).toBeGreaterThan(50);
  const dragged = (await card('n3').boundingBox())!; // as above
  expect([dragged.x, dragged.y]).toEqual([
    expect.closeTo(to.x, -1),
    expect.closeTo(to.y + to.height * 1.5, -1),
  ]);
  await page.mouse.up();
  await page.getByRole('status').filter({ hasText: 'move n3' }).waitFor();
  const put = (await card('n3').boundingBox())!; // as above
  expect([put.x, put.y]).toEqual([expect.closeTo(dragged.x, 0), expect.closeTo(dragged.y, 0)]);
  await page.keyboard.press('Control+z');
  await page.getByRole('status').filter({ hasText: 'taken back: move n3' }).waitFor();
  const back = (await card('n3').boundingBox())!; // as above
  expect([back.x, back.y]).toEqual([expect.closeTo(from.x, 0), expect.closeTo(from.y, 0)]);
});

test('near by only those about the board are made whole; one that has the focus is brought there, and is whole', async () => {
  const at = (await card('n1').boundingBox())!; // as above
  await page.mouse.move(at.x, at.y);
  for (let i = 0; i < 45; i++) await page.mouse.wheel(0, -40);
  await seenOnce(fields, (count) => count > 0);
  expect(await pictures().count()).toBe(0);
  expect(await fields()).toBeLessThan(COUNT / 2);
  expect(await field('n1: b').count()).toBe(1);
  const last = `n${COUNT - 1}`;
  expect(await field(`${last}: b`).count()).toBe(0);
  await card(last).focus();
  await graph.enter(`${last}: b`, '0.25');
  expect(await field('n1: b').count()).toBe(0);
  await card(last).focus();
  await page.keyboard.press('Control+z');
  await page
    .getByRole('status')
    .filter({ hasText: `taken back: b of ${last}` })
    .waitFor();
  expect(await field(`${last}: b`).inputValue()).toBe('0.5');
  // One element all along: Tab goes on from it.
  await card(last).focus();
  await page.keyboard.press('Shift+Tab');
  await page.keyboard.press('Shift+Tab');
  const focused = await page.evaluate(() => {
    const root = [...document.querySelectorAll('*')].find(
      (one) => one.shadowRoot?.activeElement,
    )!.shadowRoot!;
    return root.activeElement!.closest('[data-card]')?.getAttribute('data-card');
  });
  expect(focused).toBe(`n${COUNT - 2}`);
  await button('fit').click();
  await seenOnce(
    () => pictures().count(),
    (count) => count > 0,
  );
  expect(await fields()).toBe(0);
});
