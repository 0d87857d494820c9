import { type ChildProcess, spawn } from 'node:child_process';
import { copyFileSync, mkdirSync, readFileSync, symlinkSync, writeFileSync } from 'node:fs';
import { request } from 'node:http';
import { join } from 'node:path';
import sharp from 'sharp';
import type * as Umber from 'umber-lens';
import { closeBrowser, hideWebgpu, newPage } from '../browser/stage.js';
import { temporaryFolder } from '../folders.js';
import { umberCommand } from './run.js';
import { seenOnce } from '../waiting.js';

const folder = temporaryFolder('sheets');
const project = join(folder, 'project');
const STAGE = `{
  "sheet": 1,
  "models": { "tug": "models/tug.glb" },
  "materials": { "buoy paint": { "baseColorFactor": [0.9, 0.3, 0.1, 1], "roughnessFactor": 0.5, "metallicFactor": 0 } },
  "nodes": [
    { "name": "tug", "model": "tug" },
    { "name": "buoy", "translation": [4, 1, 3], "mesh": { "shape": "sphere", "radius": 1, "material": "buoy paint" } },
    { "name": "sun", "degrees": [-40, 30, 0], "light": { "type": "directional", "intensity": 3 } },
    { "name": "view", "translation": [4, 4, 16], "degrees": [-8, 12, 0], "camera": { "type": "perspective", "yfov": 0.8, "znear": 0.1 } }
  ],
  "camera": "view",
  "clearColor": [0.1, 0.2, 0.3, 1],
  "imageLight": { "sky": { "turbidity": 3, "height": 32 } },
  "look": { "exposure": -0.5, "toneMapping": "agx" }
}
`;
const stage = join(project, 'stage.sheet.json');

beforeAll(() => {
  mkdirSync(join(project, 'models'), { recursive: true });
  copyFileSync('examples/public/models/tug.glb', join(project, 'models/tug.glb'));
  writeFileSync(stage, STAGE);
  writeFileSync(join(project, '.hidden.json'), '{}');
  writeFileSync(join(folder, 'secret.json'), '{}');
  symlinkSync(join(folder, 'secret.json'), join(project, 'link.json'));
});
afterAll(closeBrowser);

test('survey, check, recast, trim, budget and diff take sheets as they take models', async () => {
  const surveyed = await umberCommand('survey', stage, '--json');
  expect(JSON.parse(surveyed.out)).toMatchObject({
    format: 'sheet',
    lights: [{ type: 'directional' }],
    cameras: [{ type: 'perspective' }],
  });
  expect((await umberCommand('survey', stage)).out).toContain('buoy  mesh');
  const checked = await umberCommand('check', stage);
  // What it names is checked, too.
  expect([checked.code, checked.out]).toEqual([0, expect.stringContaining('models/tug.glb /nodes/')]);
  const written = await umberCommand('recast', stage, join(folder, 'stage.glb'));
  expect([written.code, written.out]).toEqual([0, expect.stringContaining('stage.glb')]);
  const trimmed = await umberCommand('trim', stage, '--out', join(folder, 'trimmed.glb'), '--no-proof');
  expect([trimmed.code, trimmed.err]).toEqual([0, '']);
  const budget = await umberCommand('budget', stage, '--draws', '1');
  expect([budget.code, budget.out]).toEqual([1, expect.stringContaining('over')]);
  const other = join(project, 'other.sheet.json');
  writeFileSync(other, STAGE.replace('"intensity": 3', '"intensity": 5'));
  const { code, out } = await umberCommand('diff', stage, other);
  expect([code, out]).toEqual([1, expect.stringMatching(/sun[^\n]*intensity/)]);
});

test('faults are told all at once, with their places, and nothing is drawn', async () => {
  const wrong = join(project, 'wrong.sheet.json');
  writeFileSync(
    wrong,
    STAGE.replace('tug.glb', 'tgu.glb').replace('"yfov"', '"fov"').replace('"radius": 1,', '"radius": -1,'),
  );
  const { code, out } = await umberCommand('check', wrong, '--json');
  expect(code).toBe(1);
  expect((JSON.parse(out) as { line: number; code: string }[]).map((one) => [one.line, one.code])).toEqual([
    [3, 'file/missing'],
    [7, 'sheet/value'],
    [9, 'sheet/unknown'],
  ]);
  const shot = await umberCommand('shoot', wrong, '--out', join(folder, 'never.png'));
  expect([shot.code, shot.err]).toEqual([1, expect.stringContaining('3 things are wrong in')]);
});

describe('serve', () => {
  let child: ChildProcess;
  let address = '';

  beforeAll(async () => {
    child = spawn(process.execPath, ['packages/cli/bin/umber.mjs', 'serve', project, '--port', '0'], {
      env: { ...process.env, NODE_OPTIONS: '', NO_COLOR: '1' },
    });
    await new Promise<void>((ready) =>
      child.stdout!.on('data', (data: Buffer) => {
        address = /http:\/\/[^\s/]+/.exec(data.toString())?.[0] ?? address;
        if (address) ready();
      }),
    );
  });
  afterAll(() => child.kill());

  const status = async (path: string): Promise<number> => (await fetch(`${address}${path}`)).status;

  test('lists what there is, and gives nothing else', async () => {
    const list = await (await fetch(address)).text();
    expect([...list.matchAll(/file=([^"]+)/g)].map(([, name]) => decodeURIComponent(name!))).toEqual(
      expect.arrayContaining(['models/tug.glb', 'stage.sheet.json']),
    );
    expect(await status('/files/models/tug.glb')).toBe(200);
    for (const path of [
      '/files/.hidden.json',
      '/files/link.json',
      '/files/../secret.json',
      '/files/%2e%2e/secret.json',
      '/files/..%2fsecret.json',
      '/files//etc/passwd',
      '/files/models',
      '/etc/passwd',
      '/files/%00',
    ])
      expect([path, await status(path)]).toEqual([path, 404]);
    expect((await fetch(address, { method: 'DELETE' })).status).toBe(405);
    // What is no address does not end the server.
    const { hostname, port: own } = new URL(address);
    const raw = (path: string): Promise<number> =>
      new Promise((done) =>
        request({ host: hostname, port: own, path, headers: { host: new URL(address).host } }, (answer) => {
          answer.resume();
          done(answer.statusCode ?? 0);
        }).end(),
      );
    expect([await raw('//'), await raw('/files/%'), await raw('/%')]).toEqual([400, 404, 404]);
    // Another name that leads to this machine is not answered.
    const foreign = await new Promise<number>((done) => {
      const { port } = new URL(address);
      request({ host: '127.0.0.1', port, headers: { host: `evil.example:${port}` } }, (answer) => {
        answer.resume();
        done(answer.statusCode ?? 0);
      }).end();
    });
    expect(foreign).toBe(403);
  });

  interface Shown {
    shown: { lens: Umber.Lens; scene: Umber.Scene; camera: Umber.SceneNode; changes: number };
  }

  test('a sheet is shown as shoot draws it, saved into, and followed', async () => {
    const page = await newPage({});
    await page.setViewportSize({ width: 160, height: 100 });
    await page.goto(`${address}/?file=stage.sheet.json&backend=webgl2`);
    await page.waitForFunction(() => 'shown' in window, undefined, { timeout: 60_000 });
    const png = await page.evaluate(async () => {
      const { lens, scene } = (window as unknown as Shown).shown;
      await lens.load(scene);
      const blob = await lens.snapshot({ width: 160, height: 100 });
      return [...new Uint8Array(await blob.arrayBuffer())];
    });
    const file = join(folder, 'stage.png');
    const shot = await umberCommand(
      'shoot',
      stage,
      '--out',
      file,
      '--size',
      '160x100',
      '--backend',
      'webgl2',
    );
    expect([shot.code, shot.out]).toEqual([0, expect.stringContaining('through camera "view"')]);
    const [ours, theirs] = await Promise.all(
      [file, Buffer.from(png)].map((one) => sharp(one).removeAlpha().raw().toBuffer()),
    );
    const difference = ours!.reduce((sum, value, i) => sum + Math.abs(value - theirs![i]!), 0) / ours!.length;
    expect(difference).toBeLessThan(1);
    const spread = Math.max(...ours!) - Math.min(...ours!);
    expect(spread).toBeGreaterThan(100);
    // Saved by the page, and shown at once.
    const written = await page.evaluate(async () => {
      const token = document.querySelector<HTMLMetaElement>('meta[name="umber-save"]')!.content;
      const ask = async (what: string, body: object): Promise<Record<string, unknown>> => {
        const headers = { 'content-type': 'application/json', 'x-umber-token': token };
        const response = await fetch(`/__umber/${what}`, {
          method: 'POST',
          headers,
          body: JSON.stringify(body),
        });
        return { status: response.status, ...((await response.json()) as object) };
      };
      const name = 'stage.sheet.json';
      const { version } = await ask('read', { file: name });
      return ask('write', {
        file: name,
        version,
        changes: [{ type: 'set', node: 'buoy', member: 'visible', value: false }],
      });
    });
    expect(written).toMatchObject({ status: 200 });
    expect(readFileSync(stage, 'utf8')).toBe(
      STAGE.replace('[4, 1, 3], "mesh"', '[4, 1, 3], "visible": false, "mesh"'),
    );
    await page.waitForFunction(() => (window as unknown as Shown).shown.changes > 0);
    expect(await page.evaluate(() => (window as unknown as Shown).shown.scene.find('buoy')!.visible)).toBe(
      false,
    );
    // A fault is told over what is shown, and goes with it.
    writeFileSync(stage, STAGE.replace('"mesh"', '"mush"'));
    await page.waitForSelector('#failure:not([hidden])');
    expect(await page.textContent('#failure')).toMatch(/a node has no "mush"[^]*Did you mean mesh/);
    writeFileSync(stage, STAGE);
    await page.waitForSelector('#failure', { state: 'hidden' });
    await page.close();
  });

  test('the viewfinder edits what is served, and writes it back', async () => {
    const page = await newPage({ viewport: { width: 900, height: 560 } });
    await page.addInitScript(hideWebgpu);
    await page.goto(`${address}/?file=stage.sheet.json`);
    await page.getByRole('button', { name: 'viewfinder' }).click();
    await page.getByRole('treeitem', { name: 'buoy', exact: true }).click();
    const field = page.getByRole('spinbutton', { name: 'translation y', exact: true });
    await field.fill('1 + 50cm');
    await field.press('Enter');
    await page.keyboard.press('Control+s');
    const dialog = page.getByRole('dialog', { name: 'changes to save' });
    await dialog.getByRole('button', { name: 'write 1 file' }).click();
    await dialog.waitFor({ state: 'detached' });
    expect(readFileSync(stage, 'utf8')).toBe(STAGE.replace('[4, 1, 3]', '[4, 1.5, 3]'));
    // What the server tells of the change leaves the scene as it is.
    await page.waitForFunction(() => (window as unknown as Shown).shown.changes > 0);
    await page.keyboard.press('Alt+v');
    await page.getByRole('tree', { name: 'nodes' }).waitFor({ state: 'detached' });
    writeFileSync(stage, STAGE);
    await page.close();
  });

  test('a shader graph is shown by itself, with what it uses, and is saved', async () => {
    const graph = join(project, 'rim.graph.json');
    const text = `{
  "graph": 1,
  "uses": ["./terms.wgsl"],
  "nodes": { "rim": { "call": "falloff", "in": ["@p.normal.z", 2.5] } }, // by eye
  "hooks": { "surface": { "emissive": { "call": "vec3f", "in": ["@rim"] } } }
}
`;
    writeFileSync(graph, text);
    writeFileSync(
      join(project, 'terms.wgsl'),
      'fn falloff(x: f32, edge: f32) -> f32 { return pow(saturate(1 - x), edge); }\n',
    );
    const page = await newPage({ viewport: { width: 900, height: 560 } });
    await page.addInitScript(hideWebgpu);
    await page.goto(`${address}/?file=rim.graph.json`);
    const field = page.getByRole('textbox', { name: 'rim: edge', exact: true });
    await field.or(page.getByRole('textbox', { name: 'rim: input 2', exact: true })).fill('4');
    await page.keyboard.press('Enter');
    await page.getByRole('button', { name: 'save graph', exact: true }).click();
    await page.getByRole('status').filter({ hasText: 'was written' }).waitFor();
    expect(readFileSync(graph, 'utf8')).toBe(text.replace('2.5', '4'));
    // One of an effect lies over the same things.
    writeFileSync(
      join(project, 'dim.graph.json'),
      '{ "graph": 1, "nodes": { "half": { "call": "*", "in": [{ "call": "colorAt", "in": ["@p.place"] }, 0.5] } }, "hooks": { "effect": "@half" } }',
    );
    await page.goto(`${address}/?file=dim.graph.json`);
    await page.getByRole('group', { name: 'node half', exact: true }).waitFor();
    const red = (): Promise<number> =>
      page.evaluate(async () => {
        const { camera, lens, scene } = (window as unknown as Shown).shown;
        const target = lens.createTarget({ width: 8, height: 8 });
        lens.draw(scene, camera, { target });
        return (await target.read())[(4 * 8 + 4) * 4]!;
      });
    const before = await red();
    expect(before).toBeGreaterThan(10);
    await page.getByRole('textbox', { name: 'half: b', exact: true }).fill('0');
    await page.keyboard.press('Enter');
    expect(await seenOnce(red, (value) => value === 0)).toBe(0);
    await page.close();
  });

  test('what is not there, and a port that is taken, are told', async () => {
    const missing = await umberCommand('serve', join(project, 'none.glb'));
    expect([missing.code, missing.err]).toEqual([1, expect.stringContaining('there is no file')]);
    const taken = await umberCommand('serve', project, '--port', new URL(address).port);
    expect([taken.code, taken.err]).toEqual([1, expect.stringContaining('cannot be had')]);
  });
});
