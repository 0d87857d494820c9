import { spawnSync } from 'node:child_process';
import { mkdirSync, readdirSync, readFileSync, writeFileSync } from 'node:fs';
import { join, resolve } from 'node:path';
import { pathToFileURL } from 'node:url';
import { closeBrowser, newPage } from '../browser/stage.js';
import type { FullMaterial } from '@umber-lens/core/engine';
import { ownFullMesh } from '../../packages/core/src/shading/own-shaders.js';
import { inLanguage, unpackShader } from '../../packages/core/src/shading/packed-shader.js';
import { temporaryFolder } from '../folders.js';
import { addressOf, runVite, type RunningVite } from './run-vite.js';
import { seenOnce } from '../waiting.js';

const folder = temporaryFolder('vite');
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

const vite = (...args: string[]): RunningVite => runVite(folder, ...args);
let server: RunningVite | undefined;

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
  server?.stop();
  await server?.done;
  await closeBrowser();
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

test('a material keeps what scenes with more around them need in a part of its own', async () => {
  file(
    'dune.wgsl',
    'fn surface(p: Fragment) -> Surface { var s = surfaceDefaults(p); s.clearcoat = 1; return s; }',
  );
  file('dune.html', '<body><script type="module" src="/dune.js"></script></body>');
  file(
    'dune.js',
    "import dune from './dune.wgsl';\ndune.full().then((full) => (window.full = full));\nwindow.dune = dune;",
  );
  process.env['INPUT'] = 'dune.html';
  const { code, text } = await vite('build', '--outDir', 'dune').done;
  delete process.env['INPUT'];
  expect(text).not.toMatch(/error/i);
  expect(code).toBe(0);
  const assets = join(folder, 'dune', 'assets');
  const parts = readdirSync(assets).map((name) => readFileSync(join(assets, name), 'utf8'));
  // Fog, shadows and layers are in one part, which the page asks for when it draws with them.
  const isFull = (part: string): boolean => part.includes('shadow:{') && !part.includes('window.dune');
  const full = readdirSync(assets).filter((_, i) => isFull(parts[i]!));
  expect(full).toHaveLength(1);
  const path = pathToFileURL(join(assets, full[0]!)).href;
  const { default: packed } = (await import(path)) as { default: FullMaterial };
  const whole = unpackShader(packed.mesh, inLanguage(ownFullMesh().shader, 'glsl'), 'dune');
  expect(whole.glsl?.fragment.text).toMatch(/useClearcoat[^]*useShadows/);
  // The library's own text is not in it.
  expect(parts.find(isFull)!.length).toBeLessThan(8000);
  const main = parts.filter((part) => part.includes('window.dune'));
  expect(main).toHaveLength(1);
  expect(main[0]).not.toContain('useShadows');
  expect(main[0]).toMatch(/import\(/);
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

/** What a build of a page that imports these shaders says, and how it ends. */
async function building(
  name: string,
  files: Record<string, string>,
): Promise<{ code: number | null; text: string }> {
  for (const [path, text] of Object.entries(files)) file(path, text);
  const [first] = Object.keys(files);
  file(`${name}.html`, `<script type="module">import "./${first}";</script>`);
  process.env['INPUT'] = `${name}.html`;
  const result = await vite('build').done;
  delete process.env['INPUT'];
  return result;
}

test.each<[string, Record<string, string>, RegExp[]]>([
  [
    'all faults of a module are shown at once, also behind one of form',
    { 'several.wgsl': 'fn f() -> f32 {\n  let a = (1;\n  return nothing;\n}\nfn g() { gone(); }\n' },
    [
      /several\.wgsl:2:13: error/,
      /several\.wgsl:3:10: error: there is no name "nothing"/,
      /several\.wgsl:5:10/,
    ],
  ],
  [
    'so are those of hooks, with a fault in another function',
    {
      'hooks.wgsl':
        'fn surface(p: Fragment) -> Surface {\n  var out = surfaceDefaults(p);\n  out.roughnes = 0.5;\n  return out;\n}\nfn other() -> f32 { return 1 +; }\n',
    },
    [/hooks\.wgsl:3:7: error[^]*did you mean "roughness"/i, /hooks\.wgsl:6:31: error/],
  ],
  [
    'a fault in an imported module is told with that module',
    {
      'user.wgsl': "import { twice } from './inner.wgsl';\nfn f() -> f32 { return twice(1); }\n",
      'inner.wgsl': 'fn twice(x: f32) -> f32 {\n  return x * 2u;\n}\n',
    },
    [/inner\.wgsl:2:12: error/],
  ],
  [
    'an import of a module that is not there',
    {
      'lost.wgsl':
        "import { twice } from './nowhere.wgsl';\nfn f() -> f32 { return twice(1); }\nfn g() -> f32 { return nothing; }\n",
    },
    [/lost\.wgsl:1:24: error: there is no module/, /lost\.wgsl:3:24/],
  ],
  [
    'an import of a name that is not there, with the near one',
    {
      'near.wgsl': "import { twise } from './names.wgsl';\nfn f() -> f32 { return twise(1); }\n",
      'names.wgsl': 'fn twice(x: f32) -> f32 { return x * 2; }\n',
    },
    [/near\.wgsl:1:10: error[^]*Did you mean "twice"/],
  ],
  [
    'a hook that takes what it cannot have',
    { 'odd.wgsl': 'fn surface(p: Fragment, n: i32) -> Surface { return surfaceDefaults(p); }\n' },
    [/odd\.wgsl:1:25[^]*"surface" cannot take a i32/],
  ],
])(
  'the build stops: %s',
  async (_, files, patterns) => {
    const { code, text } = await building('faulty', files);
    expect(code).toBe(1);
    for (const pattern of patterns) expect(text).toMatch(pattern);
    // The code around it is shown, and no stack of ours stands in its place.
    expect(text).toMatch(/\d \|/);
  },
  60_000,
);

test('while serving, a change replaces the shader in the running page', async () => {
  server = vite('dev', '--port', '0', '--host', '127.0.0.1');
  const address = await addressOf(server);
  const page = await newPage();
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

const graph = (edge: number): string => `{
  "graph": 1, // a rim
  "uses": ["./graph-terms.wgsl"],
  "settings": { "edge": { "type": "f32", "value": ${edge}, "range": [0.5, 6], "note": "how fast it falls off" } },
  "textures": { "bark": { "holds": "data" } },
  "nodes": { "wear": { "call": "textureSample", "in": ["bark"] }, "rim": { "call": "sharpened", "in": [{ "call": "saturate", "in": [{ "call": "dot", "in": ["@p.normal", "@p.toCamera"] }] }, "@settings.edge"] } },
  "hooks": { "surface": { "roughness": "@wear.r", "emissive": { "call": "*", "in": ["#ffb46a", "@rim"] } } },
}
`;

test('a shader graph is imported as a shader is: built without a compiler, typed, and replaced while serving', async () => {
  file('graph-terms.wgsl', 'fn sharpened(x: f32, edge: f32) -> f32 { return pow(1 - x, edge); }\n');
  file('rim.graph.json', graph(2.5));
  file('graph.html', '<body><script type="module" src="/graph.js"></script></body>');
  file(
    'graph.js',
    `import rim from './rim.graph.json';
window.rim = rim;
window.changes = 0;
rim.onChange(() => window.changes++);
rim.full().then((full) => (window.full = full));`,
  );
  process.env['INPUT'] = 'graph.html';
  const { code, text } = await vite('build', '--outDir', 'graphs').done;
  delete process.env['INPUT'];
  expect([code, text]).toEqual([0, expect.any(String)]);
  const assets = join(folder, 'graphs', 'assets');
  const parts = readdirSync(assets).map((name) => readFileSync(join(assets, name), 'utf8'));
  expect(parts.filter((part) => part.includes('window.rim'))).toHaveLength(1);
  expect(parts.join('')).not.toContain('"graph": 1');
  expect(readFileSync(join(folder, 'rim.graph.d.json.ts'), 'utf8')).toContain(
    '/** how fast it falls off 0.5 to 6. */\n  edge: number;',
  );
  const page = await newPage();
  const address = await addressOf(server!); // started by a test before
  await page.goto(`${address}/graph.html`);
  await page.waitForFunction('window.full');
  expect(await page.evaluate('window.rim.settings[0].default')).toBe(2.5);
  expect(await page.evaluate('window.rim.textures[0].name')).toBe('bark');
  file('rim.graph.json', graph(4));
  await page.waitForFunction('window.changes > 0');
  expect(await page.evaluate('window.rim.settings[0].default')).toBe(4);
  await page.close();
});

test('an error in a graph stops the build at its line, with its node', async () => {
  const { code, text } = await building('graph-faulty', {
    'faulty.graph.json': graph(2).replace('"@settings.edge"', '"@settings.egde"'),
  });
  expect(code).toBe(1);
  expect(text).toMatch(
    /faulty\.graph\.json:6:\d+: error: node "rim": "@settings" is a Settings and has no "egde"/,
  );
  expect(text).toContain('Did you mean "edge"?');
});

const glow = (color: string): string => `struct Settings {
  gain: f32, // 0..1 = 1
}
fn outputColor(s: Settings) -> vec4f {
  return vec4f(${color} * s.gain, 1);
}
`;

test('a material edited while serving changes the picture and keeps its settings; an error keeps the last good one', async () => {
  file('glow.wgsl', glow('vec3f(1, 0, 0)'));
  file('glow.html', '<body><script type="module" src="/glow.js"></script></body>');
  file(
    'glow.js',
    `import { box, openLens, Scene, createMaterial } from 'umber-lens';
import glow from './glow.wgsl';
const lens = await openLens(undefined, { backend: 'webgl2', antialias: false });
const scene = new Scene();
const material = createMaterial(glow, { settings: { gain: 0.5 } });
scene.createNode({ mesh: { geometry: box(), material } });
const camera = scene.createNode({ translation: [0, 0, 2], camera: { type: 'perspective', yfov: 0.3, znear: 0.1 } });
const target = lens.createTarget({ width: 2, height: 2 });
window.pixel = async () => { lens.draw(scene, camera, { target }); return [...(await target.read()).slice(0, 3)]; };
window.loads = (window.loads ?? 0) + 1;`,
  );
  const page = await newPage();
  const address = await addressOf(server!); // started by the test before
  await page.goto(`${address}/glow.html`);
  await page.waitForFunction('window.pixel');
  const pixel = (): Promise<number[]> => page.evaluate('window.pixel()');
  const becomes = async (wanted: number[]): Promise<void> => {
    expect(await seenOnce(pixel, (seen) => String(seen) === String(wanted))).toEqual(wanted);
  };
  // sRGB of linear 0.5 is 188.
  await becomes([188, 0, 0]);
  file('glow.wgsl', glow('vec3f(0, 1, 0)'));
  await becomes([0, 188, 0]);
  file('glow.wgsl', `${glow('vec3f(0, 1, oops)')}fn aside() { gone(); }\n`);
  const overlay = page.locator('vite-error-overlay');
  await overlay.waitFor({ state: 'attached' });
  expect(await overlay.evaluate((element) => element.shadowRoot!.textContent)).toMatch(
    // Both faults at once.
    /glow\.wgsl:5[\s\S]*there is no name "oops"[\s\S]*glow\.wgsl:7[\s\S]*there is no function "gone"/,
  );
  expect(await pixel()).toEqual([0, 188, 0]);
  file('glow.wgsl', glow('vec3f(0, 0, 1)'));
  await becomes([0, 0, 188]);
  await overlay.waitFor({ state: 'detached' });
  expect(await page.evaluate('window.loads')).toBe(1);
  await page.close();
});

test('packed meshes and textures are unpacked by a worker, built and served', async () => {
  mkdirSync(join(folder, 'public'), { recursive: true });
  const crate = join(folder, 'public', 'crate.glb');
  const packing = spawnSync(process.execPath, [
    ...[
      'packages/cli/bin/umber.mjs',
      'recast',
      'examples/public/models/crate.glb',
      crate,
      '--draco',
      '--ktx2',
    ],
  ]);
  expect([packing.status, packing.stderr.toString()]).toEqual([0, '']);
  file('packed.html', '<body><script type="module" src="/packed.js"></script></body>');
  file(
    'packed.js',
    `import { loadModel, openLens, Scene } from 'umber-lens';
const lens = await openLens(undefined, { backend: 'webgl2', antialias: false });
const model = await loadModel('crate.glb');
const scene = new Scene();
      scene.createNode({ light: { type: 'ambient', intensity: 2 * Math.PI } });
model.placeIn(scene);
const camera = scene.createNode({ translation: [0, 0, 2], camera: { type: 'perspective', yfov: 0.2, znear: 0.1 } });
const target = lens.createTarget({ width: 8, height: 8 });
lens.draw(scene, camera, { target });
const { content } = model.asset.images[0];
const pixels = await target.read();
window.found = { kind: content.kind, format: content.format, levels: content.levels?.length, middle: [...pixels.slice(144, 148)] };`,
  );
  process.env['INPUT'] = 'packed.html';
  const { code, text } = await vite('build', '--outDir', 'packed').done;
  delete process.env['INPUT'];
  expect([code, text]).toEqual([0, expect.any(String)]);
  const build = vite('preview', '--outDir', 'packed', '--port', '0', '--host', '127.0.0.1');
  try {
    for (const address of [await addressOf(build), await addressOf(server!)]) {
      const page = await newPage();
      const workers: string[] = [];
      page.on('worker', (worker) => workers.push(worker.url()));
      await page.goto(`${address}/packed.html`);
      const found = await (await page.waitForFunction('window.found')).jsonValue();
      expect(found).toMatchObject({ kind: 'levels', format: 'astc-4x4-unorm', levels: 8 });
      // Boards, lit from all around: brown.
      const [red = 0, green = 0, blue = 0] = (found as { middle: number[] }).middle;
      expect(red).toBeGreaterThan(green);
      expect(green).toBeGreaterThan(blue);
      expect(workers.length).toBeGreaterThan(0);
      expect(workers[0]).toContain('apart-worker');
      await page.close();
    }
  } finally {
    build.stop();
  }
});
