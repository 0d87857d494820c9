import { type ChildProcess, spawn } from 'node:child_process';
import { existsSync, mkdirSync, readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { readGraph } from '@umber-lens/core/graphs';
import { closeBrowser, hideWebgpu, newPage } from '../browser/stage.js';
import { temporaryFolder } from '../folders.js';
import { umberCommand } from './run.js';

const folder = temporaryFolder('graphs');
const path = (name: string): string => join(folder, name);
const RIM = `{
  "graph": 1,
  "uses": ["./terms.wgsl"],
  "settings": { "edge": { "type": "f32", "value": 2.5, "range": [0.5, 6] } }, // by eye
  "nodes": {
    "facing": { "call": "saturate", "in": [{ "call": "dot", "in": ["@p.normal", "@p.toCamera"] }] },
    "rim": { "call": "falloff", "in": ["@facing", "@settings.edge"] }
  },
  "hooks": { "surface": { "emissive": { "call": "*", "in": ["#ffb46a", "@rim"] } } }
}
`;
beforeAll(() => {
  mkdirSync(folder, { recursive: true });
  writeFileSync(path('rim.graph.json'), RIM);
  writeFileSync(path('terms.wgsl'), 'fn falloff(x: f32, edge: f32) -> f32 { return pow(1 - x, edge); }\n');
});

test('check tells what is wrong with a graph by its own lines and nodes, for people and for programs', async () => {
  const fine = await umberCommand('check', path('rim.graph.json'));
  expect([fine.code, fine.out]).toEqual([0, '1 file: 0 errors, 0 warnings\n']);
  writeFileSync(path('wrong.graph.json'), RIM.replace('"@facing", "@settings', '"@p.normal", "@settings'));
  const { code, out } = await umberCommand('check', path('wrong.graph.json'));
  expect(code).toBe(1);
  expect(out).toContain('wrong.graph.json:7:12: error: node "rim": falloff does not take vec3f, f32');
  expect(out).toContain('hint: It takes x: f32, edge: f32. Write "@p.normal.x" at input 1.');
  const listed = JSON.parse(
    (await umberCommand('check', path('wrong.graph.json'), '--json')).out,
  ) as object[];
  expect(listed).toContainEqual(
    expect.objectContaining({
      code: 'graph/type',
      line: 7,
      severity: 'error',
      file: path('wrong.graph.json'),
    }),
  );
});

test('shader translates a graph and runs it on the CPU, with the value of each node', async () => {
  const glsl = await umberCommand(
    'shader',
    path('rim.graph.json'),
    '--to',
    'glsl',
    '--entry',
    'meshFragment',
  );
  expect([glsl.code, glsl.out]).toEqual([0, expect.stringContaining('#version 300 es')]);
  const given = '[{ "normal": [0, 0, 1], "toCamera": [0.6, 0, 0.8] }, { "edge": 2 }]';
  const run = await umberCommand(
    'shader',
    path('rim.graph.json'),
    '--run',
    'surface',
    '--args',
    given,
    '--trace',
  );
  expect(run.code).toBe(0);
  expect(run.err).toMatch(/node "facing"\s+let\s+facing = 0\.8/);
  expect((JSON.parse(run.out) as { emissive: number[] }).emissive[0]).toBeCloseTo(0.04);
  const wrong = await umberCommand('shader', path('wrong.graph.json'));
  expect([wrong.code, wrong.err]).toEqual([1, expect.stringContaining('wrong.graph.json:7:12')]);
});

test('types of the settings of graphs are written beside them', async () => {
  const { code, err } = await umberCommand('types', folder);
  expect([code, err]).toEqual([1, expect.stringContaining('wrong.graph.json:7:12')]);
  writeFileSync(path('wrong.graph.json'), RIM);
  expect((await umberCommand('types', folder)).out).toContain('2 of 3 up to date');
  expect(readFileSync(path('rim.graph.d.json.ts'), 'utf8')).toContain('/** 0.5 to 6. */\n  edge: number;');
});

test('recast makes WGSL of a graph and a graph of WGSL, and nothing else of either', async () => {
  const made = await umberCommand('recast', path('rim.graph.json'), path('rim.wgsl'));
  expect([made.code, made.out]).toEqual([0, expect.stringMatching(/^wrote .*rim\.wgsl, \d+ lines\n$/)]);
  expect(readFileSync(path('rim.wgsl'), 'utf8')).toBe(`import { falloff } from './terms.wgsl';

struct Settings {
  edge: f32, // 0.5..6 = 2.5
}

fn surface(p: Fragment, settings: Settings) -> Surface {
  let facing = saturate(dot(p.normal, p.toCamera));
  let rim = falloff(facing, settings.edge);
  var out = surfaceDefaults(p);
  out.emissive = vec3f(1, 0.456411, 0.144128) * rim;
  return out;
}
`);
  const back = await umberCommand('recast', path('rim.wgsl'), path('back.graph.json'), '--json');
  expect(JSON.parse(back.out)).toMatchObject({ format: 'graph', out: path('back.graph.json') });
  expect((JSON.parse(readFileSync(path('back.graph.json'), 'utf8')) as { uses: string[] }).uses).toEqual([
    './terms.wgsl',
  ]);
  const again = await umberCommand('recast', path('back.graph.json'), path('again.wgsl'));
  expect(again.code).toBe(0);
  expect(readFileSync(path('again.wgsl'), 'utf8')).toBe(readFileSync(path('rim.wgsl'), 'utf8'));
  const other = await umberCommand('recast', path('rim.graph.json'), path('rim.glb'));
  expect([other.code, other.err]).toEqual([1, expect.stringContaining('one shader becomes one graph')]);
  expect(existsSync(path('rim.glb'))).toBe(false);
});

test('shader --alone writes hooks that import nothing, of graphs and of WGSL', async () => {
  const alone = await umberCommand('shader', path('rim.graph.json'), '--to', 'wgsl', '--alone');
  expect([alone.code, alone.err]).toEqual([0, '']);
  expect(alone.out).toContain('fn falloff(x: f32, edge: f32) -> f32');
  expect(alone.out).not.toContain('import');
  writeFileSync(path('alone.wgsl'), alone.out);
  const checked = await umberCommand('check', path('alone.wgsl'));
  expect([checked.code, checked.out]).toEqual([0, '1 file: 0 errors, 0 warnings\n']);
  const wrong = await umberCommand('shader', path('terms.wgsl'), '--to', 'wgsl', '--alone');
  expect([wrong.code, wrong.err]).toEqual([1, expect.stringContaining('--alone is for hooks')]);
});

test('shader --bare writes a whole shader for pages of any kind, of graphs and of WGSL', async () => {
  const glsl = await umberCommand('shader', path('rim.graph.json'), '--to', 'glsl', '--bare');
  expect([glsl.code, glsl.err]).toEqual([0, '']);
  expect(glsl.out).toContain('settings: uniform buffer of 16 bytes, uniform block "settings_block"');
  expect(glsl.out).toMatch(/^\/\/ -- vertex --\n#version 300 es\n/m);
  const wgsl = await umberCommand('shader', path('rim.graph.json'), '--to', 'wgsl', '--bare');
  writeFileSync(path('bare.wgsl'), wgsl.out);
  const checked = await umberCommand('check', path('bare.wgsl'));
  expect([checked.code, checked.out]).toEqual([0, '1 file: 0 errors, 0 warnings\n']);
  const hooks = await umberCommand('shader', path('rim.graph.json'), '--bare');
  expect([hooks.code, hooks.err]).toEqual([
    1,
    expect.stringContaining('--bare is for --to glsl or --to wgsl'),
  ]);
  const terms = await umberCommand('shader', path('terms.wgsl'), '--to', 'glsl', '--bare');
  expect([terms.code, terms.err]).toEqual([1, expect.stringContaining('--bare is for hooks')]);
});

describe('serve opens the editor on the graphs of the figurehead and the glass float', () => {
  let child: ChildProcess;
  let address = '';
  beforeAll(async () => {
    child = spawn(
      process.execPath,
      ['packages/cli/bin/umber.mjs', 'serve', 'examples/varnish', '--port', '0'],
      { env: { ...process.env, NODE_OPTIONS: '', NO_COLOR: '1' } },
    );
    await new Promise<void>((ready) =>
      child.stdout!.on('data', (data: Buffer) => {
        address = /http:\/\/[^\s/]+/.exec(data.toString())?.[0] ?? address;
        if (address) ready();
      }),
    );
  });
  afterAll(async () => {
    child.kill();
    await closeBrowser();
  });

  test.each(['painted.graph.json', 'salt.graph.json'])(
    '%s: each node has a card and a picture',
    async (file) => {
      const page = await newPage({ viewport: { width: 1280, height: 800 } });
      const errors: string[] = [];
      page.on('pageerror', (error) => errors.push(String(error)));
      await page.addInitScript(hideWebgpu);
      await page.goto(`${address}/?file=${file}`);
      const names = Object.keys(readGraph(readFileSync(join('examples/varnish', file), 'utf8')).nodes ?? {});
      expect(names.length).toBeGreaterThan(5);
      for (const name of names)
        await page
          .getByRole('group', { name: `node ${name}`, exact: true })
          .locator('canvas')
          .waitFor();
      const footer = page.getByRole('region', { name: 'graph' }).locator('footer');
      expect(await footer.innerText()).not.toMatch(/error/i);
      expect(errors).toEqual([]);
      await page.close();
    },
  );
});
