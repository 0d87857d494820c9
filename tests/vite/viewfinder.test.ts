import { copyFileSync, mkdirSync, readFileSync, writeFileSync } from 'node:fs';
import { createRequire } from 'node:module';
import { join, resolve } from 'node:path';
import type { Locator, Page } from 'playwright-core';
import sharp from 'sharp';
import validator from 'gltf-validator';
import type * as Umber from 'umber-lens';
import { temporaryFolder } from '../folders.js';
import { editedProject, openByKey, pause } from './edited-project.js';
import { seenOnce } from '../waiting.js';

const folder = temporaryFolder('viewfinder');
const file = (name: string, text: string): void => writeFileSync(join(folder, name), text);
const read = (name: string): string => readFileSync(join(folder, name), 'utf8');

const STAGE = `{
  "sheet": 1, // a quay to block out
  "materials": { "planks": { "baseColorFactor": [0.4, 0.3, 0.2, 1], "metallicFactor": 0 } },
  "nodes": [
    { "name": "quay", "mesh": { "shape": "box", "width": 8, "height": 0.4, "depth": 6, "material": "planks" } },
    { "name": "crate", "translation": [1, 0.7, 0], "mesh": { "shape": "box", "material": "planks" } }, // by eye
    { "name": "sun", "degrees": [-60, 30, 0], "light": { "type": "directional", "intensity": 2 } },
    { "name": "camera", "translation": [0, 3, 9], "degrees": [-15, 0, 0], "camera": { "type": "perspective", "yfov": 0.8, "znear": 0.1 } }
  ],
  "camera": "camera",
  "clearColor": [0.1, 0.12, 0.15, 1]
}
`;
const MAIN = `import { applySheet, loadSheet, openLens, Scene } from 'umber-lens';
import stage from './stage.sheet.json';

const lens = await openLens(document.querySelector('canvas')!, { antialias: false, pixelRatio: 0.5, onMessage: () => undefined });
const scene = new Scene();
const post = scene.createNode({ name: 'post', translation: [-2, 1, 0] });
for (let i = 0; i < 3; i++) scene.createNode({ name: \`buoy \${i}\`, translation: [i, 0, 3] });
const show = async (): Promise<void> => {
  const shown = applySheet(scene, await loadSheet(stage), { lens });
  Object.assign(window, { shown, shows: ((window as { shows?: number }).shows ?? 0) + 1 });
};
await show();
stage.onChange(() => void show());
let drawn = 0;
const frame = () => {
  const { shown } = window as unknown as { shown: { camera: ReturnType<Scene['createNode']> } };
  lens.draw(scene, shown.camera);
  Object.assign(window, { drawn: ++drawn });
};
Object.assign(window, { lens, scene, post, frame, stop: lens.run(frame) });
`;

mkdirSync(join(folder, 'models'));
copyFileSync('examples/public/models/crate.glb', join(folder, 'models/crate.glb'));
const edited = editedProject(folder, {
  title: 'A quay',
  plugins: ['sheets', 'saving', 'viewfinder'],
  files: { 'stage.sheet.json': STAGE, 'main.ts': MAIN },
});
let page: Page;
beforeAll(() => void ({ page } = edited));

interface Running {
  scene: Umber.Scene;
  lens: Umber.Lens;
  post: Umber.SceneNode;
  shows: number;
  drawn: number;
  frame: () => void;
  stop: () => void;
}

const seen = <T, A = undefined>(act: (running: Running, given: A) => T, given?: A): Promise<T> =>
  page.evaluate(`(${act.toString()})(window, ${JSON.stringify(given ?? null)})`);
const button = (name: string): Locator => page.getByRole('button', { name, exact: true });
const number = (name: string): Locator => page.getByRole('spinbutton', { name, exact: true });
const node = (name: string): Locator => page.getByRole('treeitem', { name, exact: true });
const picture = (): Locator => page.getByRole('application', { name: 'picture' });
const status = (): Promise<string> => page.getByRole('status').innerText();
const type = async (name: string, text: string): Promise<void> => {
  await number(name).fill(text);
  await number(name).press('Enter');
};
const save = async (): Promise<string> => {
  await picture().focus();
  await page.keyboard.press('Control+s');
  const dialog = page.getByRole('dialog', { name: 'changes to save' });
  const diff = await dialog.getByLabel('diff').first().innerText();
  await dialog.getByRole('button', { name: /^write/ }).click();
  await dialog.waitFor({ state: 'detached' });
  return diff;
};
/** The same of what stands in the sheet, until the page has it from there. */
const saveSheet = async (): Promise<string> => {
  const shows = await seen((running) => running.shows);
  const diff = await save();
  await page.waitForFunction((before) => (window as unknown as Running).shows > before, shows);
  return diff;
};
const added = (diff: string): string[] => diff.split('\n').filter((line) => line.startsWith('+'));
/** Where a place of the world is seen, in the picture as the editor shows it now. */
const placeOf = async (name: string): Promise<{ x: number; y: number }> => {
  await pause(200);
  return page.evaluate((wanted) => {
    const { scene } = window as unknown as Running;
    const { stage } = (window as unknown as { viewfinder: { stage: Staged } }).viewfinder;
    const [x, y, z] = scene.get(wanted).readWorldPosition([0, 0, 0]);
    return stage.eye.project([x, y, z]);
  }, name);
};
interface Staged {
  grid: { made?: { pipeline: { isReady: boolean } } };
  eye: { project(place: number[]): { x: number; y: number } };
}

async function open(): Promise<void> {
  await openByKey(page);
  await page.evaluate(
    async (path) => {
      // What the page opened.
      const { openViewfinder } = (await import(/* @vite-ignore */ path)) as {
        openViewfinder(lens: Umber.Lens, scene: Umber.Scene): Promise<unknown>;
      };
      const { lens, scene } = window as unknown as Running;
      Object.assign(window, { viewfinder: await openViewfinder(lens, scene) });
    },
    `/@fs${resolve('.cache/served/viewfinder.js')}`,
  );
}

/** The middle of the picture, when all of it is loaded, with the grid, and stands still for a second: what a busy machine still compiles comes into it later. */
const pixels = async (): Promise<Buffer> => {
  await page.evaluate(async () => {
    const { lens, scene } = window as unknown as Running;
    await lens.load(scene);
  });
  await page.waitForFunction(() => {
    const { viewfinder } = window as unknown as { viewfinder?: { stage: Staged } };
    return !viewfinder || viewfinder.stage.grid.made?.pipeline.isReady;
  });
  let last = Buffer.alloc(0);
  let same = 0;
  for (let i = 0; i < 40 && same < 4; i++) {
    await pause(250);
    const shot = await page.screenshot({ clip: { x: 320, y: 120, width: 320, height: 400 } });
    const now = await sharp(shot).removeAlpha().raw().toBuffer();
    same = now.equals(last) ? same + 1 : 0;
    last = now;
  }
  return last;
};
/** The most that the picture differs by in a channel, of 255, from what it is to be again. */
const difference = async (wanted: Buffer, allowed = 0): Promise<number> => {
  let most = Infinity;
  // What a page draws first may be without what it loads meanwhile.
  for (let i = 0; i < 20 && most > allowed; i++)
    most = (await pixels()).reduce((so, byte, at) => Math.max(so, Math.abs(byte - wanted[at]!)), 0);
  return most;
};

test('the plugin opens it by a key over the running page; a lamp is placed by handles and numbers, saved, and there after a reload', async () => {
  await open();
  expect(
    await page
      .getByRole('toolbar', { name: 'tools' })
      .getByRole('button')
      .evaluateAll((all) => all.map((one) => one.getAttribute('aria-label'))),
  ).toEqual([
    ...[
      'move',
      'rotate',
      'scale',
      'add',
      'duplicate',
      'group',
      'delete',
      'undo',
      'redo',
      'save',
      'frame',
      'pause',
      'step',
    ],
    ...['messages', 'frames', 'shortcuts'],
  ]);
  await button('add').click();
  await page.getByRole('menuitem', { name: 'spot light' }).click();
  await type('translation x', '2*1.5-4');
  await type('translation y', '350cm');
  await type('translation z', '0');
  await type('intensity', '400');
  expect(await seen(({ scene }) => [...scene.get('spot light').readTranslation([0, 0, 0])])).toEqual([
    -1, 3.5, 0,
  ]);
  // By hand along x: as far as the screen says.
  const at = await placeOf('spot light');
  await page.mouse.move(at.x + 60, at.y);
  await page.mouse.down();
  await page.mouse.move(at.x + 90, at.y + 3, { steps: 4 });
  await page.mouse.move(at.x + 120, at.y, { steps: 4 });
  await page.mouse.up();
  const [x, y, z] = await seen(({ scene }) => [...scene.get('spot light').readTranslation([0, 0, 0])]);
  expect(x).toBeGreaterThan(-0.8);
  expect([y, z]).toEqual([3.5, 0]);
  const after = await placeOf('spot light');
  expect(after.x).toBeCloseTo(at.x + 60, 0);
  await picture().focus();
  await page.keyboard.press('Escape');
  const before = await pixels();
  const diff = await save();
  expect(added(diff).filter((line) => /^\+\s+"name"/.test(line))).toEqual(['+      "name": "spot light",']);
  expect(read('stage.sheet.json')).toContain('// by eye');
  expect(read('stage.sheet.json')).toContain('"intensity": 400');
  // The sheet brings it from now on: the same node, once.
  await page.waitForFunction(() => (window as unknown as Running).shows > 1);
  expect(
    await seen(({ scene }) => [...scene.root.children()].filter(({ name }) => name === 'spot light').length),
  ).toBe(1);
  await page.reload();
  await page.waitForFunction(() => 'drawn' in window);
  await open();
  expect(await seen(({ scene }) => scene.get('spot light').light!.intensity)).toBe(400);
  // Places are written to a tenth of a millimetre.
  expect(await difference(before, 5)).toBeLessThan(6);
});

test('what code made is found as a literal; what a loop made goes into adjustments', async () => {
  await node('post').click();
  await type('translation y', '1.75');
  await node('buoy 1').click();
  await type('translation z', '4');
  await picture().focus();
  await page.keyboard.press('Control+s');
  const dialog = page.getByRole('dialog', { name: 'changes to save' });
  await dialog.getByText('adjustments.sheet.json (new)').waitFor();
  await dialog.getByRole('button', { name: 'write 2 files' }).click();
  await seenOnce(
    () => read('main.ts'),
    (text) => text.includes('1.75'),
  );
  expect(read('main.ts')).toBe(MAIN.replace('translation: [-2, 1, 0]', 'translation: [-2, 1.75, 0]'));
  expect(JSON.parse(read('adjustments.sheet.json'))).toEqual({
    sheet: 1,
    adjust: { 'buoy 1': { translation: [1, 0, 4] } },
  });
});

test('code made a page that is edited, and a conflict is shown with both texts', async () => {
  // Vite has loaded the page anew.
  await page.waitForFunction(() => 'drawn' in window && !('viewfinder' in window));
  await open();
  await node('crate').click();
  await type('degrees y', '45deg');
  await picture().focus();
  await page.keyboard.press('Control+s');
  const dialog = page.getByRole('dialog', { name: 'changes to save' });
  await dialog.getByLabel('diff').waitFor();
  const theirs = read('stage.sheet.json').replace('by eye', 'by hand');
  file('stage.sheet.json', theirs);
  await dialog.getByRole('button', { name: /^write/ }).click();
  await dialog.getByText('the file changed meanwhile').waitFor();
  expect(await dialog.locator('pre').allInnerTexts()).toEqual([
    expect.stringContaining('// by hand'),
    expect.stringContaining('"degrees": [0, 45, 0]'),
  ]);
  expect(read('stage.sheet.json')).toBe(theirs);
  await dialog.getByRole('button', { name: 'make the changes in what is on the disk' }).click();
  await dialog.getByLabel('diff').waitFor();
  await dialog.getByRole('button', { name: /^write/ }).click();
  await dialog.waitFor({ state: 'detached' });
  expect(read('stage.sheet.json')).toBe(
    theirs.replace('"translation": [1, 0.7, 0],', '"translation": [1, 0.7, 0], "degrees": [0, 45, 0],'),
  );
});

test('shapes are blocked out, named, colored, duplicated, grouped; 100 steps back is the first picture and text', async () => {
  const text = read('stage.sheet.json');
  const indexNow = (): Promise<number> =>
    seen(
      () =>
        (window as unknown as { viewfinder: { editor: { history: { index: number } } } }).viewfinder.editor
          .history.index,
    );
  const first = await indexNow();
  await picture().focus();
  await page.keyboard.press('Escape');
  const before = await pixels();
  const nodes = await seen(({ scene }) => [...scene.root.descendants()].map(({ path }) => path));
  for (const [shape, color] of [
    ['box', '#803020'],
    ['sphere', 'teal'],
    ['cylinder', '#557755'],
    ['cone', '4000K'],
    ['torus', '0.2 0.4 0.8'],
  ] as const) {
    await button('add').click();
    await page.getByRole('menuitem', { name: shape, exact: true }).click();
    await page.getByRole('textbox', { name: 'name', exact: true }).fill(`my ${shape}`);
    await page.getByRole('textbox', { name: 'name', exact: true }).press('Enter');
    await page.getByRole('textbox', { name: 'base color factor', exact: true }).fill(color);
    await page.getByRole('textbox', { name: 'base color factor', exact: true }).press('Enter');
    await type('translation x', '1+1');
  }
  await type('radius', '0.8');
  expect(await seen(({ scene }) => scene.get('my torus').worldBounds().max[0] > 2.7)).toBe(true);
  await button('duplicate').click();
  expect(
    await seen(({ scene }) => scene.get('my torus 2').mesh!.primitives[0]!.material!.baseColorFactor),
  ).toEqual([0.2, 0.4, 0.8, 1]);
  await node('my box').click();
  await node('my cone').click({ modifiers: ['Shift'] });
  await button('group').click();
  expect(await seen(({ scene }) => [...scene.get('group').children()].length)).toBe(4);
  await picture().focus();
  await page.keyboard.press('Delete');
  // Random steps, of the keyboard alone.
  await node('crate').click();
  await picture().focus();
  for (let i = 0; i < 70; i++)
    await page.keyboard.press(['x', 'Shift+Y', 'z', 'h', 'Control+d', 'r', 'm', 's'][(i * 7) % 8]!);
  const count = (await indexNow()) - first;
  expect(count).toBeGreaterThan(25);
  for (let i = 0; i < count; i++) await page.keyboard.press('Control+z');
  await page.keyboard.press('Escape');
  expect(
    await seen(({ scene }) =>
      [...scene.root.descendants()].map(({ path }) => path).filter((path) => !path.startsWith('removed')),
    ),
  ).toEqual(nodes);
  expect(await difference(before)).toBe(0);
  expect(read('stage.sheet.json')).toBe(text);
});

test('by keyboard alone: found, chosen, nudged, named, taken back', async () => {
  await picture().focus();
  await page.keyboard.press('/');
  await page.keyboard.type('crat');
  await page.keyboard.press('Enter');
  await page.keyboard.press('F2');
  await page.keyboard.press('Control+a');
  await page.keyboard.type('tea chest');
  await page.keyboard.press('Enter');
  expect(await seen(({ scene }) => scene.find('tea chest') !== undefined)).toBe(true);
  await page.keyboard.press('Control+z');
  expect(await seen(({ scene }) => scene.find('tea chest'))).toBeUndefined();
  expect(await status()).toBe('taken back: call it tea chest');
  await page.getByRole('searchbox', { name: 'find' }).fill('');
  await picture().focus();
  await page.keyboard.press('?');
  await page.getByRole('dialog', { name: 'shortcuts' }).waitFor();
  await page.keyboard.press('Escape');
  await page.getByRole('dialog', { name: 'shortcuts' }).waitFor({ state: 'detached' });
});

/** Drops files of the repository into the picture, at a node. */
async function drop(path: string, name: string, over: string): Promise<void> {
  const bytes = readFileSync(path).toString('base64');
  const { x, y } = await placeOf(over);
  await picture().evaluate(
    (glass, given) => {
      const content = Uint8Array.from(atob(given.bytes), (sign) => sign.charCodeAt(0));
      const dataTransfer = new DataTransfer();
      dataTransfer.items.add(new File([content], given.name));
      const { left, top } = glass.getBoundingClientRect();
      const at = { clientX: left + given.x, clientY: top + given.y, bubbles: true, dataTransfer };
      glass.dispatchEvent(new DragEvent('drop', at));
    },
    { bytes, name, x, y },
  );
}

test('a model and a texture are dropped in, a morph target is driven, and the scene is written as a valid GLB', async () => {
  await drop('examples/public/models/figurehead.glb', 'figurehead.glb', 'quay');
  await node('figurehead').click();
  await page.waitForFunction(() => (window as unknown as Running).scene.find('figurehead') !== undefined);
  const [target] = await seen(({ scene }) => {
    const bent = [...scene.root.descendants()].find(({ weights }) => weights)!;
    const { viewfinder } = window as unknown as { viewfinder: { select(nodes: unknown[]): void } };
    viewfinder.select([bent]);
    Object.assign(window, { bent });
    return Object.keys(bent.weights!);
  });
  await page.getByRole('slider', { name: target!, exact: true }).fill('0.6');
  const weight = (): Promise<number> =>
    page.evaluate((name) => (window as unknown as { bent: Umber.SceneNode }).bent.weights![name]!, target!);
  expect(await weight()).toBeCloseTo(0.6, 2);
  await drop('docs/screenshots/shader.png', 'paint.png', 'crate');
  await page.waitForFunction(
    () =>
      (window as unknown as Running).scene.get('crate').mesh!.primitives[0]!.material!.baseColorTexture !==
      undefined,
  );
  expect(await status()).toBe('paint.png as baseColorTexture');
  const diff = await saveSheet();
  expect(added(diff).join('\n')).toContain('"figurehead": "figurehead.glb"');
  expect(added(diff).join('\n')).toContain('"paint": "paint.png"');
  expect(readFileSync(join(folder, 'paint.png')).equals(readFileSync('docs/screenshots/shader.png'))).toBe(
    true,
  );
  // The sheet has taken over what came by hand.
  expect(
    await seen(({ scene }) => [...scene.root.children()].filter(({ name }) => name === 'figurehead').length),
  ).toBe(1);
  await picture().focus();
  await page.keyboard.press('Escape');
  await page.keyboard.press('Control+s');
  const [download] = await Promise.all([page.waitForEvent('download'), button('GLB').click()]);
  await download.saveAs(join(folder, 'scene.glb'));
  const report = await validator.validateBytes(new Uint8Array(readFileSync(join(folder, 'scene.glb'))));
  expect(report.issues.messages.filter(({ severity }) => severity === 0)).toEqual([]);
  await page.keyboard.press('Escape');
});

test('light is dropped in and turned by its ball; both are saved, with the file beside the sheet', async () => {
  await picture().focus();
  await page.keyboard.press('Escape');
  await drop('examples/public/models/evening.hdr', 'evening.hdr', 'quay');
  const ball = page.getByRole('slider', { name: 'turn the image light' });
  await ball.waitFor();
  await ball.focus();
  await page.keyboard.press('Shift+ArrowRight');
  await page.keyboard.press('ArrowRight');
  const { height, width, x, y } = (await ball.boundingBox())!;
  await page.mouse.move(x + width / 2, y + height / 2);
  await page.mouse.down();
  await page.mouse.move(x + width, y + height / 2, { steps: 3 });
  await page.mouse.up();
  expect(await ball.getAttribute('aria-valuenow')).toBe('106');
  expect(
    await seen(({ scene: { backdrop, imageLight } }) => [
      (imageLight!.rotation! * 180) / Math.PI,
      backdrop!.rotation === imageLight!.rotation,
      backdrop!.panorama === imageLight!.panorama,
    ]),
  ).toEqual([expect.closeTo(106, 1), true, true]);
  const diff = await save();
  expect(added(diff).join('\n')).toMatch(/"imageLight": \{\s*(\+\s*)?"image": "evening.hdr"/);
  expect(readFileSync(join(folder, 'evening.hdr')).length).toBeGreaterThan(1000);
  // One step takes the whole pull back, and one the keys; it stays so when the page takes over the sheet meanwhile.
  await picture().focus();
  await page.keyboard.press('Control+z');
  await ball.and(page.locator('[aria-valuenow="16"]')).waitFor();
  await page.keyboard.press('Control+Shift+Z');
});

test('values go from node to node, an effect is added, a thing is dragged until it lies against another', async () => {
  await node('quay').click();
  await page.getByRole('group', { name: 'transform' }).getByText('transform').hover();
  await button('copy transform').click();
  await node('crate').click();
  await type('translation y', '0.9');
  await type('translation x', '0');
  await page.getByRole('combobox', { name: 'add an effect' }).selectOption('outline');
  expect(await seen(({ scene }) => scene.get('crate').effects.map(({ type: kind }) => kind))).toEqual([
    'outline',
  ]);
  await button('move').click();
  await page.getByRole('combobox', { name: 'snapping' }).selectOption('bounds');
  const at = await placeOf('crate');
  const pixel = await page.evaluate(() => {
    const { stage } = (window as unknown as { viewfinder: { stage: Staged } }).viewfinder;
    return stage.eye.project([0, 0.9, 0]).y - stage.eye.project([0, 1.9, 0]).y;
  });
  // Down along its y axis, not quite onto the quay.
  await page.mouse.move(at.x, at.y - 60);
  await page.mouse.down();
  await page.mouse.move(at.x, at.y - 60 + pixel * 0.1, { steps: 3 });
  await page.mouse.move(at.x, at.y - 60 + pixel * 0.17, { steps: 3 });
  await page.mouse.up();
  const [, y] = await seen(({ scene }) => [...scene.get('crate').readTranslation([0, 0, 0])]);
  expect(y).toBeCloseTo(0.7, 4);
  await button('paste transform').click();
  expect(await seen(({ scene }) => [...scene.get('crate').readTranslation([0, 0, 0])])).toEqual([0, 0, 0]);
  await page.getByRole('combobox', { name: 'snapping' }).selectOption('free');
  for (const _ of ['paste', 'drag', 'effect', 'x', 'y']) await page.keyboard.press('Control+z');
  expect(await seen(({ scene }) => scene.get('crate').effects)).toEqual([]);
});

test('frames are told with what they cost, and why their draws are not fewer', async () => {
  await button('frames').click();
  const list = page.getByRole('region', { name: 'frames' });
  await list.getByText('memory on the GPU').waitFor();
  await list.getByRole('button', { name: /^why \d+ draws?\?$/ }).click();
  await list.getByRole('list', { name: 'why batches break' }).getByText('another geometry').first().waitFor();
  await button('frames').click();
});

test('the page is paused, stepped and slowed', async () => {
  await button('pause').click();
  await pause(300);
  const frames = await seen((running) => running.drawn);
  await pause(500);
  expect(await seen((running) => running.drawn)).toBe(frames);
  await button('step').click();
  await page.waitForFunction((before) => (window as unknown as Running).drawn === before + 1, frames);
  await button('pause').click();
  await page.waitForFunction((before) => (window as unknown as Running).drawn > before + 3, frames);
});

test('it lies where the canvas does, and goes on where the loop of the page stops and begins anew', async () => {
  await page.reload();
  await open();
  const canvas = page.locator('canvas').first();
  const isOver = async (): Promise<boolean> => {
    const [ours, theirs] = await Promise.all([picture().boundingBox(), canvas.boundingBox()]);
    return JSON.stringify(ours) === JSON.stringify(theirs);
  };
  const before = await canvas.boundingBox();
  const move = async (act: () => void): Promise<void> => {
    await page.evaluate(act);
    expect(await seenOnce(isOver, (is) => is)).toBe(true);
  };
  // No event tells of a transform.
  await move(() => void (document.querySelector('canvas')!.style.transform = 'translate(30px, 20px)'));
  await move(() => {
    document.body.style.minHeight = '3000px';
    scrollTo(0, 60);
  });
  const moved = (await canvas.boundingBox())!;
  expect([moved.x - before!.x, moved.y - before!.y]).toEqual([30, -40]);
  await seen(({ stop }) => stop());
  const still = await seen(({ drawn }) => drawn);
  await move(() => scrollTo(0, 0));
  // Nobody but the tool draws now.
  const projected = (): Promise<string> =>
    page.evaluate(() => {
      const { stage } = (window as unknown as { viewfinder: { stage: Staged } }).viewfinder;
      return JSON.stringify(stage.eye.project([1, 2, 3]));
    });
  const eye = await projected();
  await picture().focus();
  await page.keyboard.press('Alt+2');
  expect(await seenOnce(projected, (now) => now !== eye)).not.toBe(eye);
  expect(await seen(({ drawn }) => drawn)).toBe(still);
  await seen(({ frame, lens }) => void Object.assign(window, { stop: lens.run(frame) }));
  expect(
    await seenOnce(
      () => seen(({ drawn }) => drawn),
      (now) => now > still + 3,
    ),
  ).toBeGreaterThan(still + 3);
  await move(() => document.querySelector('canvas')!.removeAttribute('style'));
});

test('no violation of accessibility, in the dark and in the light, with dialogs and lists open', async () => {
  await page.addScriptTag({ path: createRequire(import.meta.url).resolve('axe-core/axe.min.js') });
  const violations = (): Promise<string[]> =>
    page.evaluate(async () => {
      const { axe } = window as unknown as {
        axe: { run(): Promise<{ violations: { id: string; nodes: { html: string }[] }[] }> };
      };
      return (await axe.run()).violations.map(
        ({ id, nodes }) => `${id}: ${nodes.map(({ html }) => html.slice(0, 120)).join(' | ')}`,
      );
    });
  await node('sun').click();
  expect(await violations()).toEqual([]);
  await button('theme').click();
  await button('messages').click();
  expect(await violations()).toEqual([]);
  await picture().focus();
  await page.keyboard.press('?');
  expect(await violations()).toEqual([]);
  await page.keyboard.press('Escape');
  await button('messages').click();
});

test('nothing is left of it, however often it is opened', async () => {
  const counts = (): Promise<unknown> =>
    seen(({ lens, scene }) => {
      const { bufferBytes, buffers, pipelines, textureBytes, textures } = lens.device.counts;
      const gpu = { bufferBytes, buffers, pipelines, textureBytes, textures };
      return {
        gpu,
        elements: document.querySelectorAll('*').length,
        nodes: [...scene.root.descendants()].length,
      };
    });
  const close = async (): Promise<void> => {
    await button('close the viewfinder').click();
    await page.getByRole('tree', { name: 'nodes' }).waitFor({ state: 'detached' });
    // What the page's own frames need is there again when it has drawn some, however long they take.
    const from = await seen(({ drawn, lens }) => {
      lens.release();
      return drawn;
    });
    await page.waitForFunction((least) => (window as unknown as Running).drawn > least, from + 3);
  };
  const cycle = async (): Promise<void> => {
    await open();
    await node('crate').click();
    await pause(150);
    await close();
  };
  await close();
  await cycle();
  const before = await counts();
  for (let i = 0; i < 4; i++) await cycle();
  // Textures of passes go with the frames in which nobody wants them.
  const isAsBefore = (now: Awaited<ReturnType<typeof counts>>): boolean =>
    JSON.stringify(now) === JSON.stringify(before);
  expect(await seenOnce(counts, isAsBefore)).toEqual(before);
});
