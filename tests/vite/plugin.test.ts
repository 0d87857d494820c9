import { spawn } from 'node:child_process';
import { mkdtempSync, readdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join, resolve } from 'node:path';
import { pathToFileURL } from 'node:url';
import { closeBrowser, sharedBrowser } from '../browser/stage.js';

const folder = mkdtempSync(join(tmpdir(), 'umber-vite-'));
const file = (name: string, text: string): void => writeFileSync(join(folder, name), text);
const shader = (edge: string): string => `import { falloff } from './terms.wgsl';
struct Settings {
  edge: f32, // 0.5..6 = ${edge}   how fast the rim falls off
  glow: vec3f, // color = #ffffff
}
@group(0) @binding(0) var<uniform> settings: Settings;
@fragment fn main(@location(0) uv: vec2f) -> @location(0) vec4f {
  return vec4f(settings.glow * falloff(uv.x, settings.edge), 1);
}
`;

/** Runs Vite as a process of its own, as users do. */
function vite(...args: string[]): {
  process: ReturnType<typeof spawn>;
  done: Promise<{ code: number | null; text: string }>;
  text: () => string;
} {
  const child = spawn(process.execPath, [resolve('node_modules/vite/bin/vite.js'), ...args], {
    cwd: folder,
    env: { ...process.env, NODE_OPTIONS: '', NO_COLOR: '1' },
  });
  let text = '';
  child.stdout.on('data', (data: Buffer) => (text += data.toString()));
  child.stderr.on('data', (data: Buffer) => (text += data.toString()));
  return {
    process: child,
    text: () => text,
    done: new Promise((end) => child.on('close', (code) => end({ code, text }))),
  };
}

let server: ReturnType<typeof vite> | undefined;

beforeAll(() => {
  const plugin = JSON.stringify(pathToFileURL(resolve('packages/vite/dist/index.js')).href);
  file(
    'vite.config.mjs',
    `import { wgsl } from ${plugin};
export default { plugins: [wgsl()], build: { rollupOptions: { input: process.env.INPUT ?? 'index.html' } }, server: { watch: { usePolling: true, interval: 50 }, fs: { strict: false } }, resolve: { alias: { 'umber-lens': ${JSON.stringify(resolve('packages/lens/dist/index.js'))} } } };`,
  );
  file(
    'terms.wgsl',
    'fn falloff(x: f32, edge: f32) -> f32 { return pow(1 - x, edge); }\nfn unused() -> f32 { return 0; }\n',
  );
  file('rim.wgsl', shader('2.5'));
  file('index.html', '<body><script type="module" src="/main.js"></script></body>');
  file(
    'main.js',
    `import rim from './rim.wgsl';
window.rim = rim;
window.loads = (window.loads ?? 0) + 1;
window.changes = 0;
rim.onChange(() => window.changes++);`,
  );
});
afterAll(async () => {
  server?.process.kill();
  await server?.done;
  await closeBrowser();
  rmSync(folder, { recursive: true });
});

test('a build holds the compiled shader and no compiler, and the types are written', async () => {
  const { code: exit, text } = await vite('build').done;
  expect([exit, text]).toEqual([0, expect.any(String)]);
  const assets = join(folder, 'dist/assets');
  const code = readdirSync(assets)
    .map((name) => readFileSync(join(assets, name), 'utf8'))
    .join('');
  expect(code).toContain('#version 300 es');
  expect(code).toContain('@fragment fn main');
  expect(code).not.toMatch(/unused\(/);
  expect(code.length).toBeLessThan(12_000);
  const types = readFileSync(join(folder, 'rim.d.wgsl.ts'), 'utf8');
  expect(types).toContain('/** how fast the rim falls off 0.5 to 6. */\n  edge: number;');
  expect(types).toContain('/** A color. */\n  glow: [number, number, number];');
});

test('an error stops the build and shows the line', async () => {
  file('broken.wgsl', 'fn f() -> f32 {\n  return vec2f(1);\n}\n');
  file('broken.html', '<script type="module">import "./broken.wgsl";</script>');
  process.env['INPUT'] = 'broken.html';
  const { code, text } = await vite('build').done;
  delete process.env['INPUT'];
  expect(code).toBe(1);
  expect(text).toMatch(/broken\.wgsl:2:10: error[\s\S]*2 \| {3}return vec2f\(1\);/);
});

test('while serving, a change replaces the shader in the running page', async () => {
  server = vite('dev', '--port', '0', '--host', '127.0.0.1');
  let address: string | undefined;
  while (!address) {
    address = /http:\/\/127\.0\.0\.1:\d+/.exec(server.text())?.[0];
    await new Promise((wait) => setTimeout(wait, 50));
  }
  const page = await (await sharedBrowser()).newPage();
  await page.goto(`${address}/`);
  await page.waitForFunction('window.rim');
  expect(await page.evaluate('window.rim.settings.edge')).toBe(2.5);
  file('rim.wgsl', shader('4'));
  await page.waitForFunction('window.changes === 1');
  expect(await page.evaluate('window.rim.settings.edge')).toBe(4);
  file('terms.wgsl', 'fn falloff(x: f32, edge: f32) -> f32 { return pow(1 - x, edge) * 0.5; }\n');
  await page.waitForFunction('window.changes === 2');
  expect(await page.evaluate<string>('window.rim.wgsl')).toContain('* 0.5');
  expect(await page.evaluate('window.loads')).toBe(1);
  await page.close();
});

const glow = (color: string): string => `struct Settings {
  gain: f32, // 0..1 = 1
}
fn finalColor(s: Settings) -> vec4f {
  return vec4f(${color} * s.gain, 1);
}
`;

test('a material edited while serving changes the picture and keeps its settings; an error keeps the last good one', async () => {
  file('glow.wgsl', glow('vec3f(1, 0, 0)'));
  file('glow.html', '<body><script type="module" src="/glow.js"></script></body>');
  file(
    'glow.js',
    `import { box, openLens, Scene, shaderMaterial } from 'umber-lens';
import glow from './glow.wgsl';
const lens = await openLens(undefined, { backend: 'webgl2', antialias: false });
const scene = new Scene();
const material = shaderMaterial(glow, { settings: { gain: 0.5 } });
scene.createNode({ mesh: { geometry: box(), material } });
const eye = scene.createNode({ translation: [0, 0, 2], camera: { type: 'perspective', yfov: 0.3, znear: 0.1 } });
const target = lens.createTarget({ width: 2, height: 2 });
window.pixel = async () => { lens.draw(scene, eye, target); return [...(await target.read()).slice(0, 3)]; };
window.loads = (window.loads ?? 0) + 1;`,
  );
  const page = await (await sharedBrowser()).newPage();
  const address = /http:\/\/127\.0\.0\.1:\d+/.exec(server!.text())![0]; // started by the test before
  await page.goto(`${address}/glow.html`);
  await page.waitForFunction('window.pixel', undefined, { timeout: 60_000 });
  const pixel = (): Promise<number[]> => page.evaluate('window.pixel()');
  const becomes = async (wanted: number[]): Promise<void> => {
    for (let i = 0; i < 100 && String(await pixel()) !== String(wanted); i++) await page.waitForTimeout(50);
    expect(await pixel()).toEqual(wanted);
  };
  // sRGB of linear 0.5 is 188.
  await becomes([188, 0, 0]);
  file('glow.wgsl', glow('vec3f(0, 1, 0)'));
  await becomes([0, 188, 0]);
  file('glow.wgsl', glow('vec3f(0, 1, oops)'));
  const overlay = page.locator('vite-error-overlay');
  await overlay.waitFor({ state: 'attached' });
  expect(await overlay.evaluate((element) => element.shadowRoot!.textContent)).toMatch(
    /glow\.wgsl:5[\s\S]*there is no name "oops"/,
  );
  expect(await pixel()).toEqual([0, 188, 0]);
  file('glow.wgsl', glow('vec3f(0, 0, 1)'));
  await becomes([0, 0, 188]);
  await overlay.waitFor({ state: 'detached' });
  expect(await page.evaluate('window.loads')).toBe(1);
  await page.close();
}, 120_000);
