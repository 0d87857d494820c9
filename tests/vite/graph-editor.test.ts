import { readFileSync } from 'node:fs';
import { createRequire } from 'node:module';
import { join } from 'node:path';
import type { Page } from 'playwright-core';
import { temporaryFolder } from '../folders.js';
import { editedProject, pause } from './edited-project.js';
import { GraphPage } from './graph-page.js';
import { seenOnce } from '../waiting.js';

const folder = temporaryFolder('graph-editor');
const read = (): string => readFileSync(join(folder, 'look.graph.json'), 'utf8');

const EMPTY = `{
  "graph": 1, // nothing yet
  "settings": { "edge": { "type": "f32", "value": 3, "range": [0.5, 6] } },
  "nodes": {},
  "hooks": { "surface": { "emissive": [0, 0, 0] } }
}
`;
const MAIN = `import { createMaterial, openLens, Scene, sphere } from 'umber-lens';
import look from './look.graph.json';

const lens = await openLens(document.querySelector('canvas')!, { antialias: false, pixelRatio: 0.25, onMessage: () => undefined });
const scene = new Scene({ clearColor: [0.02, 0.02, 0.03, 1] });
const material = createMaterial(look, { name: 'look', baseColorFactor: [0, 0, 0, 1], metallicFactor: 0 });
const ball = scene.createNode({ name: 'ball', mesh: { geometry: sphere({ radius: 1 }), material } });
const camera = scene.createNode({ name: 'eye', translation: [0, 0, 5], camera: { type: 'orthographic', xmag: 1.2, ymag: 1.2, znear: 0.1, zfar: 10 } });
const target = lens.createTarget({ width: 33, height: 33 });
/** Red at the middle of the ball, and near its edge. */
const glow = async () => {
  lens.draw(scene, camera, { target });
  const bytes = await target.read();
  return [bytes[(16 * 33 + 16) * 4]!, bytes[(16 * 33 + 29) * 4]!];
};
let drawn = 0;
lens.run(() => {
  lens.draw(scene, camera);
  Object.assign(window, { drawn: ++drawn });
});
Object.assign(window, { lens, scene, ball, material, glow });
`;

const edited = editedProject(folder, {
  title: 'A ball',
  plugins: ['wgsl', 'saving', 'viewfinder'],
  files: { 'look.graph.json': EMPTY, 'main.ts': MAIN },
});
let page: Page;
beforeAll(() => void ({ page } = edited));

const graph = new GraphPage(() => page);
const { add, button, card, enter, field, finds } = {
  add: graph.add.bind(graph),
  button: graph.button,
  card: graph.card,
  enter: graph.enter.bind(graph),
  field: graph.field,
  finds: graph.finds.bind(graph),
};
const glow = (): Promise<[number, number]> => page.evaluate('window.glow()');
/** Until the picture is so. */
const until = (is: (middle: number, edge: number) => boolean): Promise<[number, number]> =>
  seenOnce(glow, ([middle, edge]) => is(middle, edge));

test('a rim is built by hand from an empty graph: by typing, by a link, live on the running page', async () => {
  await graph.open('ball', 'look');
  expect(await glow()).toEqual([0, 0]);
  // By what it does: the name is found.
  await add('facing', 'dot');
  await enter('dot: a', '@p.normal');
  await enter('dot: b', '@p.toCamera');
  await add('saturate', 'saturate');
  await enter('saturate: x', 'dot');
  await add('pow', 'pow');
  await enter('pow: x', '{ "call": "-", "in": [1, "@saturate"] }');
  await enter('pow: exponent', '@settings.edge');
  expect(await field('pow: x').inputValue()).toBe('1 - @saturate');
  await button('tidy').click();
  await pause(400);
  // By hand: from the power to what the surface gives.
  await graph.drag(graph.port('pow'), graph.input('hooks', 'surface', 'emissive'));
  expect(await field('surface: emissive').inputValue()).toBe('@pow');
  // A number where a color is wanted is told, with what would do.
  await finds('"emissive" of a surface is a vec3f, and this is a f32');
  await finds('Put vec3f about it');
  await enter('surface: emissive', '{ "call": "*", "in": ["#ffb46a", "@pow"] }');
  await finds('Nothing is wrong');
  const [middle, edge] = await until((_, bright) => bright > 100);
  expect(middle).toBeLessThan(12);
  expect(edge).toBeGreaterThan(100);
});

test('each of the faults that people make is told, and the last picture that was right stays', async () => {
  const before = await glow();
  // An input that was never connected.
  await enter('pow: exponent', '');
  await finds('input 2 (exponent) of pow has no value, and is 1');
  // A power of what may be negative.
  await enter('pow: x', '@dot');
  await finds('may be below 0, and pow of that is not a number');
  await enter('pow: x', '{ "call": "-", "in": [1, "@saturate"] }');
  await enter('pow: exponent', '@settings.edge');
  // Spaces mixed up.
  await enter('dot: a', '@p.viewNormal');
  await finds('@p.viewNormal is in view space and @p.toCamera in world space');
  // Not normalized.
  await enter('dot: a', '@p.normal');
  await add('plus', '+');
  await enter('value: a', '@p.normal');
  await enter('value: b', '@p.toCamera');
  await enter('dot: b', '@value');
  await finds('@value is a direction whose length is not 1');
  await enter('dot: b', '@p.toCamera');
  // A cutoff of zero.
  await add('cutoff', 'step');
  await enter('step: edge', '0');
  await enter('step: x', '@saturate');
  await enter('saturate: x', '@dot');
  await finds('step lets everything through');
  // What is wrong altogether leaves the picture as it is.
  await enter('saturate: x', '@nothing');
  await finds('there is no node "nothing"');
  await finds('The last picture that was right stays');
  expect(await until((_, bright) => bright === before[1])).toEqual(before);
  // All of it is taken back.
  await card('step').focus();
  for (let i = 0; i < 12; i++) await page.keyboard.press('Control+z');
  expect(await until((_, bright) => bright === before[1])).toEqual(before);
  expect(await card('step').count()).toBe(0);
});

test('by keyboard: chosen, muted, deleted, taken back; nodes have pictures and values', async () => {
  await card('saturate').focus();
  await page.keyboard.press('m');
  expect(await card('saturate').innerText()).toContain('muted');
  await page.keyboard.press('Control+z');
  await page.keyboard.press('Delete');
  expect(await card('saturate').count()).toBe(0);
  expect(await field('pow: x').inputValue()).toBe('1 - ');
  await page.getByRole('group', { name: 'nodes of the graph' }).focus();
  await page.keyboard.press('Control+z');
  await card('saturate').waitFor();
  // Its picture is not black all over, and is brighter in the middle.
  await page.waitForFunction(() => {
    const root = document.querySelector('body > div:last-of-type')!.shadowRoot!;
    const canvas = root.querySelector<HTMLCanvasElement>('[data-card="saturate"] canvas');
    const pen = canvas?.getContext('2d');
    return (
      pen && pen.getImageData(28, 28, 1, 1).data[0]! > 240 && pen.getImageData(28, 53, 1, 1).data[0]! < 160
    );
  });
  expect(await card('dot').locator('code').innerText()).toMatch(/^0\.\d+$/);
});

test('from far off cards are boxes without fields, which can be taken, and come back as they were', async () => {
  const board = page.getByRole('group', { name: 'nodes of the graph' });
  const around = (await board.boundingBox())!; // it is drawn
  await page.mouse.move(around.x + around.width / 2, around.y + around.height / 2);
  await page.keyboard.press('Escape');
  await board.focus();
  await page.mouse.wheel(0, 1600);
  expect(
    await seenOnce(
      () => field('pow: x').count(),
      (count) => count === 0,
    ),
  ).toBe(0);
  const place = async (): Promise<number> => (await card('value').boundingBox())!.x; // it is there
  const before = await place();
  await graph.drag(card('value'), card('value'), [40, 30]);
  expect((await seenOnce(place, (x) => x > before + 20)) - before).toBeGreaterThan(20);
  await page.keyboard.press('Control+z');
  expect(await seenOnce(place, (x) => Math.abs(x - before) < 1)).toBeCloseTo(before, 0);
  await page.mouse.move(around.x + around.width / 2, around.y + around.height / 2);
  await page.mouse.wheel(0, -1600);
  await field('pow: x').waitFor();
});

test('it is saved as the smallest edit, is the same after a reload, and violates no accessibility', async () => {
  await page.addScriptTag({ path: createRequire(import.meta.url).resolve('axe-core/axe.min.js') });
  const violations = await page.evaluate(async () => {
    const { axe } = window as unknown as {
      axe: { run(): Promise<{ violations: { id: string; nodes: { html: string }[] }[] }> };
    };
    return (await axe.run()).violations.map(({ id, nodes }) => `${id}: ${nodes[0]!.html.slice(0, 140)}`);
  });
  expect(violations).toEqual([]);
  const before = await glow();
  await button('WGSL').click();
  expect(await page.getByLabel('WGSL', { exact: true }).last().innerText()).toContain(
    'let pow_ = pow(1 - saturate_, settings.edge);',
  );
  await button('save graph').click();
  await seenOnce(read, (text) => text.includes('"pow"'));
  expect(read()).toContain('"graph": 1, // nothing yet');
  expect(read()).toContain('"emissive": { "call": "*", "in": ["#ffb46a", "@pow"] }');
  await page.getByRole('status').filter({ hasText: 'look.graph.json was written' }).waitFor();
  expect(await button('save graph').isDisabled()).toBe(true);
  await page.reload();
  await page.waitForFunction(() => 'drawn' in window && 'glow' in window);
  expect(await until((_, bright) => bright === before[1])).toEqual(before);
});
