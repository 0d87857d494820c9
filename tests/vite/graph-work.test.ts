import { existsSync, readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import type { Download, Page } from 'playwright-core';
import { temporaryFolder } from '../folders.js';
import { hideWebgpu, newPage } from '../browser/stage.js';
import { editedProject, openByKey, pause } from './edited-project.js';
import { GraphPage } from './graph-page.js';
import { seenOnce } from '../waiting.js';

const folder = temporaryFolder('graph-work');
const read = (name: string): string => readFileSync(join(folder, name), 'utf8');

const LAMP = `{
  "graph": 1,
  "settings": { "bands": { "type": "f32", "value": 3, "range": [1, 6] } },
  "nodes": {},
  "hooks": { "light": [0, 0, 0] }
}
`;
const RIM = `// A rim, by hand.
struct Settings {
  edge: f32, // 0.5..6 = 2.5   how fast it falls off
}

fn surface(p: Fragment, settings: Settings) -> Surface {
  var out = surfaceDefaults(p);
  let facing = saturate(dot(p.normal, p.toCamera));
  out.emissive = vec3f(1, 0.7, 0.4) * pow(1 - facing, settings.edge);
  return out;
}
`;
const HAZE = `{
  "graph": 1,
  "nodes": {
    "seen": { "call": "colorAt", "in": ["@p.place"] },
    "far": { "call": "step", "in": [20, { "call": "distanceAt", "in": ["@p.place"] }] },
    "veiled": { "call": "mix", "in": ["@seen", [0.5, 0.5, 0.5, 1], { "call": "*", "in": ["@far", 0.5] }] }
  },
  "hooks": { "effect": "@veiled" }
}
`;
/** What an effect is told of its place, and how that changes from pixel to pixel. */
const RINGS = `{
  "graph": 1,
  "nodes": {
    "seen": { "value": "@p.color" },
    "across": { "value": "@p.place" },
    "slope": { "call": "fwidth", "in": ["@p.place"] },
    "down": { "call": "dpdy", "in": ["@p.position"] },
    "ringed": { "call": "mix", "in": ["@seen", [1, 0.5, 0, 1], { "call": "fract", "in": ["@bands"] }] },
    "bands": { "call": "+", "in": [{ "call": "*", "in": ["@across.x", 8] }, { "call": "*", "in": ["@slope.x", "@down.x"] }] }
  },
  "hooks": { "effect": { "call": "*", "in": ["@ringed", "@seen.a"] } }
}
`;
/** What surfaces are told of their pixel, and how that changes to the next one. */
const EDGES = `{
  "graph": 1,
  "nodes": {
    "slope": { "call": "fwidth", "in": ["@p.position"] },
    "pixel": { "value": "@p.screenPosition" },
    "down": { "call": "dpdy", "in": ["@pixel"] },
    "seen": { "value": "@p.viewPosition" },
    "bumped": { "call": "normalFromHeight", "in": [{ "call": "*", "in": ["@p.position.x", 0.2] }, "@p.position", "@p.normal"] },
    "light": { "call": "*", "in": ["@bumped", { "call": "+", "in": ["@slope.x", { "call": "+", "in": ["@down.y", { "call": "*", "in": ["@seen.z", 0.1] }] }] }] }
  },
  "hooks": { "surface": { "emissive": "@light" } }
}
`;
const MAIN = `import { createMaterial, openLens, Scene, sphere } from 'umber-lens';
import edges from './edges.graph.json';
import haze from './haze.graph.json';
import lamp from './lamp.graph.json';
import rim from './rim.wgsl';
import rings from './rings.graph.json';

const lens = await openLens(document.querySelector('canvas')!, { antialias: false, pixelRatio: 0.1, dynamicResolution: false, onMessage: () => undefined });
const scene = new Scene({ clearColor: [0.02, 0.02, 0.03, 1] });
const lit = createMaterial(lamp, { name: 'lamp', baseColorFactor: [1, 1, 1, 1], metallicFactor: 0, roughnessFactor: 1 });
const edge = createMaterial(rim, { name: 'rim', baseColorFactor: [0, 0, 0, 1], metallicFactor: 0 });
const geometry = sphere({ radius: 1 });
scene.createNode({ name: 'left', translation: [-1.1, 0, 0], mesh: { geometry, material: lit } });
scene.createNode({ name: 'right', translation: [1.1, 0, 0], mesh: { geometry, material: edge } });
scene.createNode({ name: 'sun', rotation: [-0.3, 0.3, 0, 0.9], light: { type: 'directional', intensity: 3 } });
const camera = scene.createNode({ name: 'eye', translation: [0, 0, 5], camera: { type: 'orthographic', xmag: 2.2, ymag: 1.1, znear: 0.1, zfar: 10 } });
const target = lens.createTarget({ width: 64, height: 32 });
/** Red along the middle row. */
const row = async () => {
  lens.draw(scene, camera, { target, look: { toneMapping: 'none', exposure: 0 } });
  const bytes = await target.read();
  return Array.from({ length: 64 }, (_, x) => bytes[(16 * 64 + x) * 4]!);
};
let drawn = 0;
lens.run(() => {
  lens.draw(scene, camera);
  Object.assign(window, { drawn: ++drawn });
});
const edged = createMaterial(edges, { name: 'edged', baseColorFactor: [0, 0, 0, 1], metallicFactor: 0 });
Object.assign(window, { edged, haze, lens, rings, scene, row });
`;
/** A page that has the library alone, and the texts that were carried there. */
const BARE = `import { createMaterial, openLens, Scene, sphere } from 'umber-lens';
import { compileMaterialShader } from 'umber-lens/shaders';

const lens = await openLens(document.querySelector('canvas')!, { antialias: false, backend: 'webgl2' });
const scene = new Scene({ clearColor: [0.02, 0.02, 0.03, 1] });
const shader = compileMaterialShader(await (await fetch('carried.txt')).text());
const material = createMaterial(shader, { baseColorFactor: [1, 1, 1, 1], metallicFactor: 0, roughnessFactor: 1 });
scene.createNode({ translation: [-1.1, 0, 0], mesh: { geometry: sphere({ radius: 1 }), material } });
scene.createNode({ rotation: [-0.3, 0.3, 0, 0.9], light: { type: 'directional', intensity: 3 } });
const camera = scene.createNode({ translation: [0, 0, 5], camera: { type: 'orthographic', xmag: 2.2, ymag: 1.1, znear: 0.1, zfar: 10 } });
const target = lens.createTarget({ width: 64, height: 32 });
lens.draw(scene, camera, { target, look: { toneMapping: 'none', exposure: 0 } });
const bytes = await target.read();
const gl = new OffscreenCanvas(1, 1).getContext('webgl2')!;
const faults = (await (await fetch('carried.glsl.txt')).text()).split(/^\\/\\/ -- (?:vertex|fragment) --\\n/m).slice(1).map((text, i) => {
  const stage = gl.createShader(i === 0 ? gl.VERTEX_SHADER : gl.FRAGMENT_SHADER)!;
  gl.shaderSource(stage, text);
  gl.compileShader(stage);
  return gl.getShaderParameter(stage, gl.COMPILE_STATUS) ? '' : gl.getShaderInfoLog(stage);
});
Object.assign(window, { bare: Array.from({ length: 30 }, (_, x) => bytes[(16 * 64 + x) * 4]!), faults });
`;

const edited = editedProject(folder, {
  title: 'Two balls',
  plugins: ['wgsl', 'saving', 'viewfinder'],
  files: {
    'edges.graph.json': EDGES,
    'haze.graph.json': HAZE,
    'rings.graph.json': RINGS,
    'lamp.graph.json': LAMP,
    'rim.wgsl': RIM,
    'main.ts': MAIN,
    'bare.ts': BARE,
    'bare.html':
      '<!doctype html><html lang="en"><title>bare</title><canvas></canvas><script type="module" src="/bare.ts"></script></html>',
  },
});
let page: Page;
beforeAll(() => void ({ page } = edited));
const graph = new GraphPage(() => page);
const { button, card, field } = graph;
const row = (): Promise<number[]> => page.evaluate('window.row()');
const left = async (): Promise<number[]> => (await row()).slice(0, 30);
const steps = (line: readonly number[]): number => new Set(line.map((value) => Math.round(value / 6))).size;

test('stepped light with a hard highlight is built by hand, from an empty graph', async () => {
  await graph.open('left', 'lamp');
  await graph.add('facing', 'dot');
  await graph.enter('dot: a', '@s.normal');
  await graph.enter('dot: b', '@l.direction');
  await graph.add('stepped', 'stepped');
  await graph.enter('stepped: x', '{ "call": "saturate", "in": ["@dot"] }');
  await graph.enter('stepped: steps', '@settings.bands');
  await graph.enter('stepped: soft', '0');
  await graph.add('multiply', '*');
  await graph.enter('value: a', '@s.baseColor');
  await graph.enter('value: b', '@stepped');
  await graph.enter('light: gives', '@value');
  await graph.finds('Nothing is wrong');
  const flat = await seenOnce(left, (line) => Math.max(...line) > 100);
  // Few values, far apart: bands.
  expect(steps(flat)).toBeLessThanOrEqual(6);
  // The highlight: the half vector against the normal, cut off.
  await graph.add('normalize', 'normalize');
  await graph.enter('normalize: v', '{ "call": "+", "in": ["@l.direction", "@p.toCamera"] }');
  await graph.add('step', 'step');
  await graph.enter('step: edge', '0.9');
  await graph.enter('step: x', '{ "call": "dot", "in": ["@s.normal", "@normalize"] }');
  await graph.enter('light: gives', '{ "call": "+", "in": ["@value", "@step"] }');
  await button('tidy').click();
  await graph.finds('Nothing is wrong');
  const shiny = await seenOnce(left, (line) => line.some((value, x) => value > flat[x]! + 20));
  const lit = shiny.filter((value, x) => value > flat[x]! + 20).length;
  expect(lit).toBeGreaterThan(0);
  expect(lit).toBeLessThan(12);
});

test('nodes are renamed, put into links by hand, bypassed, copied, pasted and wrapped', async () => {
  const before = await left();
  await card('value').focus();
  await graph.enter('name of the node', 'flat');
  expect(await field('light: gives').inputValue()).toBe('@flat + @step');
  await graph.enter('note', 'light in bands');
  // Onto the link between two: it takes what came along it.
  await graph.add('absolute', 'abs');
  const [from, to] = [graph.port('dot'), graph.input('nodes', 'stepped', 'in', 0)];
  expect(await field('stepped: x').inputValue()).toBe('saturate(@dot)');
  await graph.enter('stepped: x', '@dot');
  await button('tidy').click();
  const [middleX, middleY] = await graph.between(from, to);
  const head = (await card('abs').locator('.card-title').boundingBox())!;
  const box = (await card('abs').boundingBox())!;
  const held = [head.x + head.width / 2, head.y + head.height / 2] as const;
  await page.mouse.move(...held);
  await page.mouse.down();
  await page.mouse.move(
    middleX + held[0] - (box.x + box.width / 2),
    middleY + held[1] - (box.y + box.height / 2),
    { steps: 6 },
  );
  await page.mouse.up();
  expect([
    await field('abs: e').or(field('abs: x')).inputValue(),
    await field('stepped: x').inputValue(),
  ]).toEqual(['@dot', '@abs']);
  await card('abs').focus();
  await page.keyboard.press('b');
  expect(await field('stepped: x').inputValue()).toBe('@dot');
  await graph.enter('stepped: x', '{ "call": "saturate", "in": ["@dot"] }');
  expect(await seenOnce(left, (line) => line.join() === before.join())).toEqual(before);
  // Nodes into a function, which is called in their place.
  await card('normalize').locator('.card-title').click();
  await card('step')
    .locator('.card-title')
    .click({ modifiers: ['Shift'] });
  await button('wrap').click();
  await card('step').filter({ hasText: 'own' }).waitFor();
  expect(await card('normalize').count()).toBe(0);
  await graph.finds('Nothing is wrong');
  expect(await seenOnce(left, (line) => line.join() === before.join())).toEqual(before);
  // Twice the same, by text.
  await page.evaluate(() => {
    const { activeElement } = document.activeElement!.shadowRoot!;
    const data = new DataTransfer();
    const send = (type: string): boolean =>
      activeElement!.dispatchEvent(
        new ClipboardEvent(type, { clipboardData: data, bubbles: true, composed: true, cancelable: true }),
      );
    send('copy');
    send('paste');
  });
  await card('step 2').waitFor();
  expect(await card('step 2').innerText()).toContain('own');
  await page.keyboard.press('Control+z');
  expect(await card('step 2').count()).toBe(0);
});

test('cards are aligned and framed; a node calls something else with what it takes', async () => {
  const before = await left();
  const edge = async (name: string): Promise<number> => Math.round((await card(name).boundingBox())!.x); // it is drawn
  const both = async (): Promise<void> => {
    await card('dot').locator('.card-title').click();
    await card('flat')
      .locator('.card-title')
      .click({ modifiers: ['Shift'] });
  };
  await both();
  const apart = [await edge('dot'), await edge('flat')];
  expect(apart[0]).not.toBe(apart[1]);
  await page.getByRole('combobox', { name: 'align' }).selectOption('left');
  const edges = async (): Promise<number[]> => [await edge('dot'), await edge('flat')];
  const aligned = await seenOnce(edges, ([a, b]) => a === b);
  expect(aligned).toEqual([Math.min(...apart), Math.min(...apart)]);
  await button('undo in the graph').click();
  await both();
  await button('frame nodes').click();
  const frame = page.locator('.frame');
  const [outer, inner] = [(await frame.boundingBox())!, (await card('dot').boundingBox())!];
  expect([outer.x < inner.x, outer.x + outer.width > inner.x + inner.width]).toEqual([true, true]);
  await both();
  await button('frame nodes').click();
  expect(await frame.count()).toBe(0);
  // One of the two is left.
  await card('flat')
    .locator('.card-title')
    .click({ modifiers: ['Shift'] });
  await button('replace').click();
  await graph.choose('distance', 'distance');
  await card('dot').filter({ hasText: 'distance' }).waitFor();
  expect(await field('dot: a').inputValue()).toBe('@s.normal');
  await seenOnce(left, (line) => line.join() !== before.join());
  await button('undo in the graph').click();
  expect(await seenOnce(left, (line) => line.join() === before.join())).toEqual(before);
});

test('a function is opened as a graph of its own: named, changed and given more there; what calls it follows', async () => {
  const before = await left();
  await card('step').locator('.card-title').click();
  await button('open').click();
  // What it takes stands there with its links.
  expect([await card('normal').innerText(), await field('step: x').inputValue()]).toEqual([
    expect.stringContaining('taken'),
    'dot(@normal, @normalize)',
  ]);
  await graph.enter('name of the function', 'highlight');
  await graph.enter('step: edge', '0.6');
  const wide = await seenOnce(left, (line) => line.join() !== before.join());
  expect(wide.filter((value, x) => value > before[x]! + 20).length).toBeGreaterThan(3);
  await button('undo in the graph').click();
  expect(await seenOnce(left, (line) => line.join() === before.join())).toEqual(before);
  await graph.enter('takes besides', 'sharp');
  await card('sharp').waitFor();
  await card('sharp').locator('.card-title').click();
  await graph.enter('name of what it takes', 'sharpness');
  await page.getByRole('button', { name: '← graph' }).click();
  expect(await card('step').innerText()).toContain('highlight');
  expect(await field('step: sharpness').inputValue()).toBe('0');
  await page.getByRole('combobox', { name: 'nodes of' }).selectOption('highlight');
  await card('sharpness').locator('.card-title').click();
  await button('take away').click();
  expect(await card('sharpness').count()).toBe(0);
  await page.keyboard.press('Escape');
  await card('flat').waitFor();
  expect(await field('step: sharpness').count()).toBe(0);
  await graph.finds('Nothing is wrong');
  expect(await seenOnce(left, (line) => line.join() === before.join())).toEqual(before);
});

test('under the probe nodes have numbers, on pictures and in the scene, and the GPU has the same', async () => {
  const value = (): Promise<string> => card('dot').locator('code').innerText();
  const seen = [await value()];
  const picture = (await card('dot').locator('canvas').boundingBox())!;
  await page.mouse.click(picture.x + picture.width * 0.6, picture.y + picture.height * 0.4);
  await graph.finds('the GPU has the same at all');
  seen.push(await value());
  // Alt and a drag turn the light, by both ways.
  const shade = (): Promise<string> =>
    card('dot')
      .locator('canvas')
      .evaluate((canvas: HTMLCanvasElement) => canvas.toDataURL());
  const shades = [await shade()];
  for (const [x, y] of [
    [50, 0],
    [0, -40],
  ] as const) {
    await page.keyboard.down('Alt');
    await page.mouse.move(picture.x + picture.width / 2, picture.y + picture.height / 2);
    await page.mouse.down();
    await page.mouse.move(picture.x + picture.width / 2 + x, picture.y + picture.height / 2 + y, {
      steps: 4,
    });
    await page.mouse.up();
    await page.keyboard.up('Alt');
    shades.push(await seenOnce(shade, (one) => !shades.includes(one)));
  }
  expect(new Set(shades).size).toBe(3);
  await button('probe').click();
  const place = await page.evaluate(
    () => document.querySelector('canvas')!.getBoundingClientRect().toJSON() as DOMRect,
  );
  await page.mouse.click(place.x + place.width * 0.25, place.y + place.height * 0.2);
  await page.getByRole('status').filter({ hasText: 'the probe is on left' }).waitFor();
  await graph.finds('the GPU has the same at all');
  seen.push(await value());
  expect(new Set(seen).size).toBe(3);
  await button('probe').click();
});

test('a link is pulled off its input; a double click puts a node into it; the list tells it all', async () => {
  await button('fit').click();
  await graph.drag(graph.input('nodes', 'flat', 'in', 1).locator('.port'), card('dot'), [0, 60]);
  expect(await field('flat: b').inputValue()).toBe('');
  await page.keyboard.press('Control+z');
  expect(await field('flat: b').inputValue()).toBe('@stepped');
  // What is told below has its lines then, and the board its size.
  await graph.finds('Nothing is wrong');
  await page.mouse.dblclick(
    ...(await graph.between(graph.port('stepped'), graph.input('nodes', 'flat', 'in', 1))),
  );
  await graph.choose('fraction', 'fract');
  expect(await field('flat: b').inputValue()).toBe('@fract');
  await page.getByRole('group', { name: 'nodes of the graph' }).focus();
  await page.keyboard.press('Control+z');
  await button('list').click();
  const table = page.getByRole('region', { name: 'list of the graph' });
  expect(await table.getByRole('row').count()).toBeGreaterThan(5);
  await graph.enter('stepped: soft', '0.2');
  expect(await table.getByRole('row', { name: /^stepped/ }).innerText()).toContain('f32');
  await button('nodes').click();
  expect(await field('stepped: soft').inputValue()).toBe('0.2');
});

test('WGSL that is typed changes the graph, and what is wrong with it is told', async () => {
  await button('WGSL').click();
  await button('type').click();
  const text = page.getByRole('textbox', { name: 'WGSL, typed' });
  const given = await text.innerText();
  const type = async (typed: string): Promise<void> => {
    await text.press('Control+a');
    await page.keyboard.insertText(typed);
  };
  expect(given).toContain('stepped(saturate(dot_), settings.bands, 0.2)');
  await type(given.replace('settings.bands, 0.2', 'settings.bands, 0.0'));
  await pause(600);
  await type(given.replace('saturate(dot_)', 'saturate(dit_)'));
  await page.getByRole('alert').filter({ hasText: 'dit_' }).waitFor();
  // Its line has the mark.
  const wrong = page.locator('.cm-lintRange-error');
  expect(await wrong.innerText()).toContain('dit_');
  await type(given.replace(/stepped\(.*\)/, 'stepped(saturate(dot_), settings.bands, 0.0) * 1.5'));
  await page.waitForFunction(
    () => !document.querySelector('body > div:last-of-type')!.shadowRoot!.querySelector('[role=alert]'),
  );
  await button('done').click();
  await button('nodes').click();
  await card('stepped').filter({ hasText: '*' }).waitFor();
  expect(await field('stepped: a').inputValue()).toBe('stepped(saturate(@dot), @settings.bands, 0)');
  await card('dot').focus();
  await page.keyboard.press('Control+z');
});

test('what changed on the disk meanwhile is shown beside, and both are kept', async () => {
  await button('save graph').click();
  await page.getByRole('status').filter({ hasText: 'was written' }).waitFor();
  expect(read('lamp.graph.json')).toContain('"note": "light in bands"');
  await graph.enter('light: gives', '@flat');
  // Behind its back: whoever watches the file is told, and the editor keeps what it has.
  const theirs = read('lamp.graph.json').replace('"range": [1, 6]', '"range": [1, 9]');
  writeFileSync(join(folder, 'lamp.graph.json'), theirs);
  await button('save graph').click();
  const dialog = page.getByRole('dialog', { name: 'the graph changed meanwhile' });
  await dialog.waitFor();
  expect(await dialog.innerText()).toContain('[1, 9]');
  await dialog.getByRole('button', { name: 'make the changes in what is on the disk' }).click();
  await button('save graph').click();
  await seenOnce(
    () => read('lamp.graph.json'),
    (text) => text.includes('"light": "@flat"'),
  );
  expect(read('lamp.graph.json')).toBe(
    theirs.replace('"light": { "call": "+", "in": ["@flat", "@step"] }', '"light": "@flat"'),
  );
});

test('what is exported runs in a page that has nothing of the graph', async () => {
  const expected = await left();
  const carried = async (what: string): Promise<string> => {
    await button('export').click();
    const [download] = await Promise.all([
      page.waitForEvent('download') as Promise<Download>,
      button(`download ${what}`).click(),
    ]);
    const file = join(folder, 'carried.download');
    await download.saveAs(file);
    return readFileSync(file, 'utf8');
  };
  const wgsl = await carried('WGSL');
  expect(wgsl).not.toContain('import');
  writeFileSync(join(folder, 'carried.txt'), wgsl);
  writeFileSync(join(folder, 'carried.glsl.txt'), await carried('GLSL'));
  const whole = await carried('whole WGSL');
  expect(whole).toContain('@fragment fn meshFragment(');
  expect(whole).toContain('0  bands: f32');
  expect(JSON.parse(await carried('material'))).toEqual({
    lamp: { shader: 'lamp.graph.json', settings: { bands: 3 } },
  });
  const bare = await newPage();
  await bare.addInitScript(hideWebgpu);
  try {
    await bare.goto(new URL('/bare.html', page.url()).href);
    await bare.waitForFunction(() => 'bare' in window, undefined, { timeout: 60_000 });
    expect(await bare.evaluate('window.faults')).toEqual(['', '']);
    expect(await bare.evaluate('window.bare')).toEqual(expected);
  } finally {
    await bare.close();
  }
});

test('hooks that were written by hand become a graph beside them', async () => {
  await button('close the graph').click();
  const before = await row();
  await graph.open('right', 'rim');
  await page.getByRole('status').filter({ hasText: 'rim.wgsl as a graph' }).waitFor();
  expect(await field('facing: x').inputValue()).toBe('dot(@p.normal, @p.toCamera)');
  await page.getByRole('combobox', { name: 'pictures on' }).selectOption('chosen');
  await card('facing').focus();
  await graph.enter('note', 'straight on');
  await button('save graph').click();
  await page.getByRole('status').filter({ hasText: 'name it in place of rim.wgsl' }).waitFor();
  expect(existsSync(join(folder, 'rim.graph.json'))).toBe(true);
  expect(read('rim.graph.json')).toContain('"note": "straight on"');
  expect(read('rim.wgsl')).toBe(RIM);
  expect(await seenOnce(row, (line) => line.join() === before.join())).toEqual(before);
});

/** The picture of a node, as text; and its colors, coarsely. */
const pictureOf = (name: string): Promise<string> =>
  card(name)
    .locator('canvas')
    .evaluate((canvas: HTMLCanvasElement) => canvas.toDataURL());
const colorsOf = (name: string): Promise<number> =>
  card(name)
    .locator('canvas')
    .evaluate((canvas: HTMLCanvasElement) => {
      const { data } = canvas.getContext('2d')!.getImageData(0, 0, canvas.width, canvas.height);
      return new Set(Array.from({ length: data.length / 4 }, (_, i) => data.slice(i * 4, i * 4 + 3).join()))
        .size;
    });
/** A click on a place of a node's picture, 0 to 1 from its upper left. */
async function probeAt(name: string, x: number, y: number): Promise<void> {
  const box = (await card(name).locator('canvas').boundingBox())!; // it is drawn
  await page.mouse.click(box.x + box.width * x, box.y + box.height * y);
}

test('pictures are on a model that is brought in, and so is the probe', async () => {
  const before = await pictureOf('facing');
  await page
    .getByLabel('a model for pictures')
    .setInputFiles(fileURLToPath(new URL('../../examples/public/models/crate.glb', import.meta.url)));
  await page.getByRole('status').filter({ hasText: 'pictures of nodes are on crate.glb' }).waitFor();
  expect(
    await seenOnce(
      () => pictureOf('facing'),
      (now) => now !== before,
    ),
  ).not.toBe(before);
  await probeAt('facing', 0.5, 0.55);
  await graph.finds('the GPU has the same at all');
  const wrong = { name: 'no.glb', mimeType: 'model/gltf-binary', buffer: Buffer.from('nothing') };
  await page.getByLabel('a model for pictures').setInputFiles(wrong);
  await page.getByRole('status').filter({ hasText: 'no.glb: ' }).waitFor();
});

test('an effect shows its nodes on a picture, with numbers under the probe', async () => {
  if (await button('close the graph').isVisible()) await button('close the graph').click();
  else await page.keyboard.press('Alt+v');
  await page.evaluate('window.lens.view.finish = [{ type: "shader", shader: window.haze }]');
  // Keys go to where they went before, or to the picture.
  await page.waitForFunction(() =>
    [...document.querySelectorAll('*')].some((one) => one.shadowRoot?.activeElement),
  );
  await page.keyboard.press('Escape');
  await button('graph of finish 1 shader').click();
  await page.getByRole('toolbar', { name: 'graph tools' }).waitFor();
  expect(
    await seenOnce(
      () => colorsOf('seen'),
      (count) => count > 100,
    ),
  ).toBeGreaterThan(100);
  // Near things, and far ones.
  expect(
    await seenOnce(
      () => colorsOf('far'),
      (count) => count === 2,
    ),
  ).toBe(2);
  const far = (): Promise<string> => card('far').locator('code').innerText();
  const values: string[] = [];
  for (const [x, y] of [
    [0.36, 0.43],
    [0.2, 0.15],
  ] as const) {
    await probeAt('seen', x, y);
    await graph.finds('the GPU has the same at all 3');
    values.push(await far());
  }
  expect(values).toEqual(['0', '1']);
  await button('probe').click();
  const place = await page.evaluate(
    () => document.querySelector('canvas')!.getBoundingClientRect().toJSON() as DOMRect,
  );
  // In the running picture: between the balls, and on one of them.
  const told = async (name: string): Promise<number[]> =>
    (await card(name).locator('code').innerText()).split(/ +/).map(Number).filter(Number.isFinite);
  const near = (...numbers: number[]): number[] =>
    numbers.map((number) => expect.closeTo(number, 2) as number);
  const status = page.getByRole('status');
  const probePicture = async (x: number, y: number): Promise<void> => {
    const before = await status.innerText();
    await page.mouse.click(place.x + place.width * x, place.y + place.height * y);
    const said = await seenOnce(
      () => status.innerText(),
      (text) => text !== before && text.includes('pixel'),
    );
    expect(said).toMatch(/^the probe is on pixel \d+, \d+$/);
    await graph.finds('the script does not know');
  };
  await probePicture(0.5, 0.2);
  // The scene's own color there, as screens show it, and half of it under the veil.
  expect([await told('seen'), await told('far'), await told('veiled')]).toEqual([
    near(0.152, 0.152, 0.19),
    [1],
    near(0.326, 0.326, 0.345),
  ]);
  await probePicture(0.68, 0.18);
  const ball = await seenOnce(
    () => told('seen'),
    ([red]) => red! > 0.25,
  );
  expect(ball[0]).toBeGreaterThan(0.25);
  // What is changed is told anew, where the probe is: a flat view looks from a kilometre away.
  await graph.enter('far: edge', '100000');
  const isNear = await seenOnce(
    () => told('far'),
    ([value]) => value === 0,
  );
  expect([isNear, await told('veiled')]).toEqual([[0], await told('seen')]);
  await button('probe').click();
});

test('an effect of a node is probed in the picture, and what compares a pixel with the next is told', async () => {
  if (await button('close the graph').isVisible()) await button('close the graph').click();
  else await page.keyboard.press('Alt+v');
  await page.evaluate(`window.lens.view.finish = [];
    window.scene.get('left').effects = [{ type: 'shader', shader: window.rings }];`);
  await page.getByRole('treeitem', { name: 'left', exact: true }).click();
  await button('graph of effect 1 shader').click();
  await page.getByRole('toolbar', { name: 'graph tools' }).waitFor();
  // It fills the picture.
  await page.getByRole('application', { name: 'picture' }).focus();
  await page.keyboard.press('f');
  await button('probe').click();
  const { place, size } = await page.evaluate(() => {
    const canvas = document.querySelector('canvas')!;
    const size: [number, number] = [canvas.width, canvas.height];
    return { place: canvas.getBoundingClientRect().toJSON() as DOMRect, size };
  });
  const told = async (name: string): Promise<number[]> =>
    (await card(name).locator('code').innerText()).split(/ +/).map(Number).filter(Number.isFinite);
  const status = page.getByRole('status');
  const probe = async (x: number, y: number): Promise<string> => {
    const before = await status.innerText();
    await page.mouse.click(place.x + place.width * x, place.y + place.height * y);
    return seenOnce(
      () => status.innerText(),
      (text) => text !== before && /pixel|click/.test(text),
    );
  };
  const pixel = (x: number): number => Math.floor(x * size[0]);
  expect(await probe(0.5, 0.2)).toMatch(new RegExp(`^the probe is on pixel ${pixel(0.5)}, `));
  await graph.finds('the script does not know');
  const one = await told('across');
  await probe(0.56, 0.2);
  const across = await seenOnce(
    () => told('across'),
    ([x]) => x !== one[0],
  );
  const [slope, down] = [await told('slope'), await told('down')];
  const [seen, ringed] = [await told('seen'), await told('ringed')];
  // Counted from the edges of what the node covers: so wide is a pixel of it.
  expect([across[1], across[0]! - one[0]!]).toEqual([
    one[1],
    expect.closeTo(slope[0]! * (pixel(0.56) - pixel(0.5)), 2),
  ]);
  expect([slope[0]! > 1 / size[0], down]).toEqual([true, [0, 1]]);
  const share = (8 * across[0]!) % 1;
  const orange = [1, 0.5, 0];
  expect(ringed).toEqual(
    orange.map((part, k) => expect.closeTo(seen[k]! + (part - seen[k]!) * share, 1) as number),
  );
  expect(await probe(0.1, 0.2)).toMatch(/does not reach this pixel/);
  await button('probe').click();
});

test('a surface that compares pixels, or asks for its own, is probed as it is in the picture', async () => {
  await page.reload();
  await openByKey(page);
  await page.evaluate(`{
    const right = window.scene.get('right');
    right.setMesh({ geometry: right.mesh.primitives[0].geometry, material: window.edged });
  }`);
  await page.getByRole('treeitem', { name: 'right', exact: true }).click();
  await button('graph of material edged').click();
  await page.getByRole('toolbar', { name: 'graph tools' }).waitFor();
  const told = async (name: string): Promise<number[]> =>
    (await card(name).locator('code').innerText()).split(/ +/).map(Number);
  const alike = 'the GPU has the same at all 6.';
  const picture = (await card('slope').locator('canvas').boundingBox())!;
  await page.mouse.click(picture.x + picture.width * 0.6, picture.y + picture.height * 0.4);
  await graph.finds(alike);
  // Two metres across 56 pixels.
  expect([(await told('slope')).slice(0, 2), await told('down')]).toEqual([
    [0.036, 0.036],
    [0, 1],
  ]);
  // On another shape: as if its picture were the only one.
  const before = await told('seen');
  await page.getByRole('combobox', { name: 'pictures on' }).selectOption('cube');
  await seenOnce(
    () => told('seen'),
    (seen) => String(seen) !== String(before),
  );
  await page.mouse.click(picture.x + picture.width * 0.55, picture.y + picture.height * 0.55);
  await graph.finds(alike);
  await button('probe').click();
  const { place, size } = await page.evaluate(() => {
    const canvas = document.querySelector('canvas')!;
    return {
      place: canvas.getBoundingClientRect().toJSON() as DOMRect,
      size: [canvas.width, canvas.height] as const,
    };
  });
  const pixels = [];
  for (const [x, y] of [
    [0.66, 0.22],
    [0.69, 0.23],
  ] as const) {
    await page.mouse.click(place.x + place.width * x, place.y + place.height * y);
    const pixel = [Math.floor(x * size[0]) + 0.5, Math.floor(y * size[1]) + 0.5];
    expect(
      await seenOnce(
        () => told('pixel'),
        (at) => String(at) === String(pixel),
      ),
    ).toEqual(pixel);
    await graph.finds(alike);
    pixels.push(await told('seen'));
  }
  expect(pixels[0]).not.toEqual(pixels[1]);
  await button('probe').click();
});
