// Makes the pictures of docs/screenshots anew from the demo data: `npm run screenshots`.
import { execFileSync, spawnSync } from 'node:child_process';
import { copyFileSync, existsSync, mkdirSync, readFileSync, writeFileSync } from 'node:fs';
import { resolve } from 'node:path';
import { chromium } from 'playwright-core';
import sharp from 'sharp';
import { createServer, preview } from 'vite';
import { CHROMIUM_FLAGS, findChromium } from '../packages/cli/dist/host/chromium.js';

// eslint-disable-next-line no-control-regex
const ESCAPE = /\u001b\[(\d+)m/;
const folder = 'docs/screenshots';
mkdirSync(folder, { recursive: true });
const umber = (...args) =>
  execFileSync(process.execPath, ['packages/cli/bin/umber.mjs', ...args], {
    encoding: 'utf8',
    env: { ...process.env, FORCE_COLOR: '1' },
  });
const umberIn = (cwd, ...args) =>
  execFileSync(process.execPath, [resolve('packages/cli/bin/umber.mjs'), ...args], {
    cwd,
    encoding: 'utf8',
    env: { ...process.env, FORCE_COLOR: '1' },
  });
const wanted = process.argv.slice(2);
const wants = (name) => wanted.length === 0 || wanted.includes(name);

if (wants('shoot')) umber('shoot', 'examples/public/models/dusk.sheet.json', '--out', `${folder}/shoot.png`);

if (wants('shader'))
  umber(
    'shader',
    'examples/shaders/rim.wgsl',
    ...['--run', 'ball', '--out', `${folder}/shader.png`, '--size', '640x400'],
  );

const browser = await chromium.launch({
  executablePath: findChromium(),
  args: [...CHROMIUM_FLAGS, '--use-angle=swiftshader'],
});
const page = await browser.newPage({ viewport: { width: 1280, height: 800 } });

if (wants('survey')) {
  await terminal('umber survey harbour.glb', umber('survey', 'examples/public/models/harbour.glb'), 'survey');
}

const tug = 'examples/public/models/tug.glb';
if (wants('trim')) {
  const args = ['trim', tug, '--out', '.cache/tug-trimmed.glb', '--levels', '--draws', 'named'];
  // Beside the models, so that tables are as wide as short names are.
  mkdirSync('.cache', { recursive: true });
  for (const model of ['crate.glb', 'tug.glb'])
    copyFileSync(`examples/public/models/${model}`, `.cache/${model}`);
  const others = [
    ['recast', 'crate.glb', 'crate.obj'],
    ['recast', 'tug.glb', 'tug-small.glb', '--draco', '--ktx2'],
  ];
  const short = (text) => text.replaceAll('examples/public/models/', '').replaceAll('.cache/', '');
  const more = others.map((one) => `\n$ umber ${one.join(' ')}\n${umberIn('.cache', ...one)}`).join('');
  await terminal(short(`umber ${args.join(' ')}`), short(umber(...args) + more), 'trim', 760);
}
if (wants('compare')) {
  const args = ['compare', tug, '--with', 'shadows', '--turns', '12', '--size', '320x200'];
  const { stdout } = spawnSync(
    process.execPath,
    ['packages/cli/bin/umber.mjs', 'budget', tug, '--draws', '20', '--triangles', '20k', '--gpu-mb', '1'],
    {
      encoding: 'utf8',
      env: { ...process.env, FORCE_COLOR: '1' },
    },
  );
  await terminal(
    'umber compare tug.glb --with shadows; umber budget tug.glb --draws 20 --triangles 20k --gpu-mb 1',
    `${umber(...args)}\n${stdout}`.replaceAll('examples/public/models/', ''),
    'compare',
    400,
  );
}
if (wants('paths') && existsSync('docs/figures/paths.svg'))
  await sharp('docs/figures/paths.svg', { density: 110 })
    .png({ compressionLevel: 9, palette: true })
    .toFile(`${folder}/paths.png`);

if (wants('check')) {
  // The demo's shader with two slips of the pen.
  mkdirSync('.cache', { recursive: true });
  const rim = readFileSync('examples/shaders/rim.wgsl', 'utf8');
  writeFileSync('.cache/light.wgsl', readFileSync('examples/shaders/light.wgsl'));
  writeFileSync(
    '.cache/rim.wgsl',
    rim.replace('fresnel(facing,', 'fresnel(facin,').replace('uv * 2 - 1', 'uv * 2 - 1u'),
  );
  const args = ['packages/cli/bin/umber.mjs', 'check', '.cache/rim.wgsl'];
  const { stdout } = spawnSync(process.execPath, args, {
    encoding: 'utf8',
    env: { ...process.env, FORCE_COLOR: '1' },
  });
  await terminal('umber check rim.wgsl', stdout.replaceAll('.cache/', ''), 'check', 300);
}

/** Seconds after which pictures are taken, where there is little to be seen at first. */
const STILL_AT = { 'shore-crab': 2.6, 'crate-pour': 10 };
/** Shown on the gallery's card alone. */
const CARD_ALONE = [
  'periscope',
  'storm-glass',
  'crate-pour',
  'urn',
  'glass-float',
  'chart-print',
  'bare-metal',
  'varnish',
  'figurehead',
];
const site = await preview({ root: 'examples', preview: { port: 0, host: '127.0.0.1' }, logLevel: 'error' });
const address = `http://127.0.0.1:${site.httpServer.address().port}`;
for (const example of [
  'lamp-room',
  'lantern-night',
  'signal-flags',
  'periscope',
  'storm-glass',
  'gulls',
  'figurehead',
  'varnish',
  'shore-crab',
  'crate-pour',
  'kelp',
  'crate-yard',
  'urn',
  'glass-float',
  'jellyfish',
  'chart-print',
]) {
  if (!wants(example)) continue;
  await page.goto(`${address}/${example}/index.html?offscreen&backend=webgl2`);
  await page.waitForFunction('window.drawStill', undefined, { timeout: 60_000 });
  const pixels = await page.evaluate(async (at) => {
    let text = '';
    const bytes = await window.drawStill(1280, 800, at);
    for (let i = 0; i < bytes.length; i += 32768)
      text += String.fromCharCode(...bytes.subarray(i, i + 32768));
    return btoa(text);
  }, STILL_AT[example] ?? 1.5);
  const raw = { width: 1280, height: 800, channels: 4 };
  const picture = await sharp(Buffer.from(pixels, 'base64'), { raw }).removeAlpha().png().toBuffer();
  if (!CARD_ALONE.includes(example))
    await sharp(picture).png({ compressionLevel: 9, palette: true }).toFile(`${folder}/${example}.png`);
  await card(example, picture);
}
if (wants('bare-metal')) {
  await page.goto(`${address}/bare-metal/index.html?backend=webgl2`);
  await page.waitForTimeout(2500);
  await card('bare-metal', await page.screenshot());
}
if (wants('harbour')) {
  await page.goto(`${address}/harbour/index.html?pixels=all`);
  await page.waitForFunction(
    'window.lens?.ledger.frame > 4 && window.lens.ledger.framesPerSecond > 0',
    undefined,
    {
      timeout: 120_000,
    },
  );
  await page.waitForTimeout(1500);
  await card('harbour', await page.screenshot({ path: `${folder}/harbour.png`, timeout: 120_000 }));
}
if (wants('the-stage')) {
  await page.goto(`${address}/the-stage/index.html?pixels=all`);
  await page.waitForFunction('window.lens?.ledger.frame > 3', undefined, { timeout: 120_000 });
  await page.waitForTimeout(1500);
  await card('the-stage', await page.screenshot({ timeout: 120_000 }));
}
if (wants('viewfinder')) {
  await page.goto(`${address}/the-stage/index.html?viewfinder&pixels=all`);
  await blockOut(page);
  await page.waitForTimeout(6000);
  await page.screenshot({ path: `${folder}/viewfinder.png`, timeout: 120_000 });
}
if (wants('graph')) {
  // Graphs are read through the server that saves.
  const server = await createServer({
    root: 'examples',
    server: { port: 0, host: '127.0.0.1' },
    logLevel: 'error',
  });
  await server.listen();
  await page.goto(
    `http://127.0.0.1:${server.httpServer.address().port}/varnish/?viewfinder&pixels=all&backend=webgl2`,
  );
  page.setDefaultTimeout(120_000);
  await page.getByRole('treeitem', { name: 'carving', exact: true }).click();
  await page.keyboard.press('ArrowRight');
  await page.getByRole('treeitem', { name: 'figurehead', exact: true }).click();
  await page.getByRole('button', { name: 'graph of material painted oak' }).click();
  await page.getByRole('group', { name: 'node spot', exact: true }).focus();
  // Pictures of nodes come after those of the page, which a software driver takes long for.
  await page.locator('canvas.card-picture').first().waitFor();
  await page.waitForTimeout(3000);
  await page.screenshot({ path: `${folder}/graph.png`, timeout: 120_000 });
  await server.close();
}
if (wants('gallery')) {
  await page.goto(`${address}/index.html`);
  await page.waitForLoadState('networkidle');
  await page.screenshot({ path: `${folder}/gallery.png` });
}
await browser.close();
await site.close();

/** A shed, a barrel, a float and a lamp on the empty quay, as a person places them. */
async function blockOut(page) {
  page.setDefaultTimeout(120_000);
  await page.getByRole('tree', { name: 'nodes' }).waitFor();
  const enter = async (role, name, text) => {
    const field = page.getByRole(role, { name, exact: true });
    await field.fill(text);
    await field.press('Enter');
  };
  const add = async (kind, name, place, numbers, color) => {
    await page.getByRole('button', { name: 'add', exact: true }).click();
    await page.getByRole('menuitem', { name: kind, exact: true }).click();
    await enter('textbox', 'name', name);
    for (const [i, axis] of ['x', 'y', 'z'].entries())
      await enter('spinbutton', `translation ${axis}`, String(place[i]));
    for (const [label, value] of Object.entries(numbers)) await enter('spinbutton', label, String(value));
    await enter('textbox', kind.endsWith('light') ? 'color' : 'base color factor', color);
  };
  await add('box', 'shed', [-2.6, 2.1, -1], { width: 3, height: 2.2, depth: 2.4 }, '#7c3a22');
  const round = { height: 1, 'top radius': 0.4, 'bottom radius': 0.4 };
  await add('cylinder', 'barrel', [1.2, 1.5, 0.8], round, '#6b5136');
  await add('sphere', 'float', [2.5, 1.35, 1.4], { radius: 0.34 }, '#2f6f73');
  await add('spot light', 'quay lamp', [0.4, 3.4, 0.9], { intensity: 400, range: 14 }, '2700K');
  await page.getByRole('checkbox', { name: 'shadow', exact: true }).check();
}

/** The small picture on an example's card: what the pages themselves show beside the picture is cut off. */
async function card(example, picture) {
  const small = await sharp(picture)
    .extract({ left: 64, top: 60, width: 1152, height: 690 })
    .resize(480, 300, { fit: 'cover' })
    .webp({ quality: 82 })
    .toBuffer();
  for (const place of ['examples/public/pictures', 'examples/dist/pictures']) {
    mkdirSync(place, { recursive: true });
    writeFileSync(`${place}/${example}.webp`, small);
  }
}

/** Shows what a command printed as a terminal does, and takes its picture. */
async function terminal(command, output, name, height = 800) {
  const styles = {
    1: 'font-weight:bold',
    2: 'opacity:.6',
    31: 'color:#e07a6a',
    32: 'color:#9bbf78',
    33: 'color:#e0b05a',
    36: 'color:#7fb8c4',
  };
  const escape = (text) => text.replace(/&/g, '&amp;').replace(/</g, '&lt;');
  let open = 0;
  const html = output
    .split(ESCAPE)
    .map((part, i) => {
      if (i % 2 === 0) return escape(part);
      if (styles[part]) {
        open++;
        return `<span style="${styles[part]}">`;
      }
      return open-- > 0 ? '</span>' : '';
    })
    .join('');
  await page.setContent(
    `<body style="margin:0;background:#191613;color:#efe6da"><pre style="margin:16px;font:12.5px/1.35 monospace"><span style="color:#d98e3f">$</span> ${command}\n${html}</pre>`,
  );
  await page.setViewportSize({ width: 1280, height });
  await page.screenshot({ path: `${folder}/${name}.png` });
  await page.setViewportSize({ width: 1280, height: 800 });
}
