import { spawnSync } from 'node:child_process';
import { copyFileSync, mkdirSync, readdirSync, readFileSync, writeFileSync } from 'node:fs';
import { join, resolve } from 'node:path';
import { pathToFileURL } from 'node:url';
import type { Page } from 'playwright-core';
import type * as Umber from 'umber-lens';
import { closeBrowser, newPage } from '../browser/stage.js';
import { temporaryFolder } from '../folders.js';
import { addressOf, runVite, type RunningVite } from './run-vite.js';

const folder = temporaryFolder('sheets');
const file = (name: string, text: string): void => writeFileSync(join(folder, name), text);
const read = (name: string): string => readFileSync(join(folder, name), 'utf8');

const STAGE = `{
  "sheet": 1, // the quay
  "models": { "tug": "models/tug.glb" },
  "materials": { "paint": { "baseColorFactor": [0.8, 0.1, 0.1, 1] }, "rim": { "shader": "rim.wgsl" }, "glow": { "shader": "glow.graph.json" } },
  "nodes": [
    { "name": "tug", "model": "tug" },
    { "name": "lamp", "translation": [0, 3, 0], "sheet": "lamp.sheet.json" },
    { "name": "ball", "mesh": { "shape": "sphere", "material": "rim" } }, { "name": "moon", "mesh": { "shape": "sphere", "material": "glow" } },
    { "name": "camera", "translation": [0, 2, 9], "camera": { "type": "perspective", "yfov": 0.8, "znear": 0.1 } }
  ],
  "camera": "camera",
  "look": { "exposure": -1 }
}
`;
const MAIN = `import { applySheet, loadSheet, openLens, Scene, sourcesOf } from 'umber-lens';
import stage from './stage.sheet.json';

const lens = await openLens(undefined, { onMessage: () => undefined });
const scene = new Scene();
const post = scene.createNode({ name: 'post', translation: [1, 0, 0] });
const show = async (): Promise<void> => {
  const shown = applySheet(scene, await loadSheet(stage), { lens });
  Object.assign(window, { lens, scene, shown, post, sourcesOf, shows: ((window as { shows?: number }).shows ?? 0) + 1 });
};
await show();
stage.onChange(() => void show());
`;

let server: RunningVite | undefined;

beforeAll(() => {
  const plugin = JSON.stringify(pathToFileURL(resolve('packages/vite/dist/index.js')).href);
  file(
    'vite.config.mjs',
    `import { saving, sheets, wgsl } from ${plugin};
export default { plugins: [wgsl(), sheets(), saving()], build: { target: 'es2022' }, server: { watch: { usePolling: true, interval: 50 }, fs: { strict: false } }, resolve: { alias: { 'umber-lens': ${JSON.stringify(resolve('packages/lens/dist/index.js'))} } } };`,
  );
  mkdirSync(join(folder, 'models'));
  copyFileSync('examples/public/models/tug.glb', join(folder, 'models/tug.glb'));
  file('stage.sheet.json', STAGE);
  file(
    'lamp.sheet.json',
    '{ "sheet": 1, "nodes": [{ "name": "glow", "light": { "type": "point", "intensity": 5 } }] }',
  );
  file(
    'rim.wgsl',
    'fn outputColor(p: Fragment, color: vec4f) -> vec4f { return color * vec4f(1, 0.5, 0.5, 1); }\n',
  );
  file(
    'glow.graph.json',
    '{ "graph": 1, "nodes": { "ember": { "call": "*", "in": [[0.4375, 0, 0], "@p.normal.y"] } }, "hooks": { "surface": { "emissive": "@ember" } } }',
  );
  file('index.html', '<head></head><body><script type="module" src="/main.ts"></script></body>');
  file('main.ts', MAIN);
});
afterAll(async () => {
  server?.stop();
  await closeBrowser();
});

interface Shown {
  scene: Umber.Scene;
  shown: Umber.AppliedSheet;
  lens: Umber.Lens;
  post: Umber.SceneNode;
  sourcesOf: typeof Umber.sourcesOf;
  shows: number;
}

describe('a page under development', () => {
  let page: Page;
  let address: string;

  beforeAll(async () => {
    server = runVite(folder, '--port', '0', '--host', '127.0.0.1');
    address = await addressOf(server);
    page = await newPage({});
    await page.goto(address);
    await page.waitForFunction(() => 'shows' in window, undefined, { timeout: 60_000 });
  });
  afterAll(() => page.close());

  const seen = <T>(act: (shown: Shown) => T): Promise<T> => page.evaluate(`(${act.toString()})(window)`);
  /** Asks the server as the page does. */
  const ask = (what: string, body: object): Promise<{ status: number } & Record<string, unknown>> =>
    page.evaluate(
      async ([name, given]) => {
        const token = document.querySelector<HTMLMetaElement>('meta[name="umber-save"]')!.content;
        const response = await fetch(`/__umber/${name}`, {
          method: 'POST',
          headers: { 'content-type': 'application/json', 'x-umber-token': token },
          body: JSON.stringify(given),
        });
        return { status: response.status, ...((await response.json()) as object) };
      },
      [what, body] as const,
    );

  test('an imported sheet stands in the scene with its model, its shader and the sheet within it', async () => {
    const found = await seen(({ lens, scene, shown }) => ({
      camera: shown.camera!.name,
      exposure: lens.look.exposure,
      tug: scene.findPath('tug')!.worldBounds().max[1] > 0,
      glow: scene.findPath('lamp/glow')!.light!.intensity,
      shader: shown.material('rim')!.shader!.file,
    }));
    expect(found).toEqual({ camera: 'camera', exposure: -1, tug: true, glow: 5, shader: 'rim.wgsl' });
  });

  test('a value is saved into the sheet, and the scene follows without a reload', async () => {
    await page.evaluate(() => ((window as unknown as { mark: number }).mark = 7));
    const { version } = await ask('read', { file: 'stage.sheet.json' });
    const changes = [{ type: 'set', node: 'lamp', member: 'translation', value: [0, 4.5, 0] }];
    const written = await ask('write', { file: 'stage.sheet.json', version, changes });
    expect(written.status).toBe(200);
    expect(read('stage.sheet.json')).toBe(STAGE.replace('[0, 3, 0]', '[0, 4.5, 0]'));
    await page.waitForFunction(() => (window as unknown as Shown).shows > 1);
    expect(await seen(({ scene }) => [...scene.findPath('lamp')!.readTranslation([0, 0, 0])])).toEqual([
      0, 4.5, 0,
    ]);
    expect(await page.evaluate(() => (window as unknown as { mark: number }).mark)).toBe(7);
  });

  test('a node of the code knows its call, and its literal is saved', async () => {
    const [call] = await seen(({ post, sourcesOf }) => sourcesOf(post));
    expect(call).toEqual({ file: 'main.ts', line: 6, column: 20, call: 'createNode', made: 1 });
    const { version } = await ask('read', { file: 'main.ts' });
    const calls = [{ call, changes: [{ member: 'translation', value: [2, 0, 0] }] }];
    const { diff } = await ask('propose', { file: 'main.ts', version, calls });
    expect(diff).toContain("+const post = scene.createNode({ name: 'post', translation: [2, 0, 0] });");
    expect(await ask('write', { file: 'main.ts', version, calls })).toMatchObject({
      status: 200,
      refused: [],
    });
    expect(read('main.ts')).toBe(MAIN.replace('[1, 0, 0]', '[2, 0, 0]'));
  });

  test('another page cannot save', async () => {
    const token = await page.evaluate(
      () => document.querySelector<HTMLMetaElement>('meta[name="umber-save"]')!.content,
    );
    const response = await fetch(`${address}/__umber/read`, {
      method: 'POST',
      headers: { 'content-type': 'application/json', 'x-umber-token': token, origin: 'http://evil.example' },
      body: JSON.stringify({ file: 'stage.sheet.json' }),
    });
    expect([response.status, await response.json()]).toMatchObject([403, { code: 'save/origin' }]);
  });
});

test('names are types: a wrong one does not compile', () => {
  file('stage.sheet.json', STAGE);
  file(
    'tsconfig.json',
    JSON.stringify({
      compilerOptions: {
        target: 'es2022',
        module: 'esnext',
        moduleResolution: 'bundler',
        strict: true,
        noEmit: true,
        skipLibCheck: true,
        allowArbitraryExtensions: true,
        lib: ['es2023', 'dom'],
        types: [],
        paths: { 'umber-lens': [resolve('packages/lens/dist/index.d.ts')] },
      },
      files: ['use.ts'],
    }),
  );
  file(
    'use.ts',
    `import { applySheet, loadSheet, Scene } from 'umber-lens';
import stage from './stage.sheet.json';
const shown = applySheet(new Scene(), await loadSheet(stage));
shown.find('ball');
shown.material('paint');
// @ts-expect-error there is none
shown.material('pain');
export {};
`,
  );
  const { stdout } = spawnSync(process.execPath, [resolve('node_modules/typescript/bin/tsc'), '-p', folder], {
    encoding: 'utf8',
  });
  expect(stdout).toBe('');
  expect(read('stage.sheet.d.json.ts')).toContain('| "paint"');
});

test('a build bundles what the sheet names, and has nothing of saving', async () => {
  const { code: exit, text } = await runVite(folder, 'build').done;
  expect([exit, exit === 0 ? '' : text]).toEqual([0, '']);
  const assets = readdirSync(join(folder, 'dist/assets'));
  expect(assets.some((name) => name.startsWith('tug') && name.endsWith('.glb'))).toBe(true);
  const code = assets
    .filter((name) => name.endsWith('.js'))
    .map((name) => read(`dist/assets/${name}`))
    .join('');
  expect(code).toContain('lamp.sheet.json');
  // Graphs that it names are compiled: their numbers stand in shaders.
  expect(code).toContain('0.4375');
  expect(code + read('dist/index.html')).not.toMatch(/__umber|umber-save|"main\.ts"/);
});

test('faults of a sheet stop the build with their places', async () => {
  file('stage.sheet.json', STAGE.replace('tug.glb', 'tgu.glb').replace('"yfov"', '"fov"'));
  const { code: exit, text } = await runVite(folder, 'build').done;
  expect(exit).not.toBe(0);
  expect(text).toMatch(/a camera has no "fov"[^]*stage\.sheet\.json:9:\d+[^]*Did you mean yfov/);
  expect(text).toContain('there is no file models/tgu.glb');
});
