import { copyFileSync, existsSync, mkdirSync, readdirSync, readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { box, assetOf, Scene, Swarm, writeGlb } from '@umber-lens/core/engine';
import { temporaryFolder } from '../folders.js';
import { umberCommand } from './run.js';

const folder = temporaryFolder('files');
const at = (name: string): string => join(folder, name);
const CRATE = 'examples/public/models/crate.glb';

test.each([
  [['shoot', CRATE, '--out', at('a.bmp')], /a\.bmp is no \.png[^]*Name it \.png or \.jpg/],
  [['trim', CRATE, '--out', at('a.obj')], /a\.obj is no \.glb[^]*umber recast/],
  [['shoot', CRATE, '--out', at('a.png'), '--camera', 'bow'], /no camera "bow"/],
  [['shoot', CRATE, '--out', at('a.png'), '--animation', 'open'], /no animation "open"/],
  [['survey', folder], /is a folder/],
  [['recast', CRATE, '/dev/full', '--to', 'glb'], /\/dev\/full cannot be written: there is no room left/],
  [['recast', CRATE, join(CRATE, 'x.glb')], /cannot be written: a part of its path is a file/],
  [['types', at('nowhere')], /there is no folder/],
])('%j is refused in words, and nothing is written', async (args, says) => {
  const { code, err } = await umberCommand(...args);
  expect(code).toBe(1);
  expect(err).toMatch(says);
  expect(err).not.toMatch(/node:|at async|Error:/);
  expect(readdirSync(folder).filter((name) => name.startsWith('a.'))).toEqual([]);
});

test('what is read is not written over but by force, and the old file stays until the new one is whole', async () => {
  copyFileSync(CRATE, at('own.glb'));
  const before = readFileSync(at('own.glb'));
  const refused = await umberCommand('recast', at('own.glb'), at('own.glb'));
  expect(refused.err).toMatch(/own\.glb is what is read[^]*--force/);
  expect(readFileSync(at('own.glb')).equals(before)).toBe(true);
  const forced = await umberCommand('recast', at('own.glb'), at('own.glb'), '--force');
  expect(forced.code).toBe(0);
  expect(readFileSync(at('own.glb')).subarray(0, 4).toString()).toBe('glTF');
  // Nothing half-written lies beside it.
  expect(readdirSync(folder).filter((name) => name.endsWith('.part'))).toEqual([]);
  const made = await umberCommand('recast', CRATE, at('new/deep/crate.glb'));
  expect(made.err).toContain('made the folder');
});

test('errors are JSON where JSON is asked for', async () => {
  const { code, out } = await umberCommand('survey', at('nothing.glb'), '--json');
  expect(code).toBe(1);
  expect(JSON.parse(out)).toMatchObject({
    error: { code: 'file/missing', where: { file: at('nothing.glb') } },
  });
});

test('instances count each, in survey and budget', async () => {
  const scene = new Scene();
  const translations = Float32Array.from({ length: 3000 }, (_, i) => i % 40);
  scene.createNode({ name: 'crates', mesh: new Swarm({ geometry: box(), transforms: { translations } }) });
  writeFileSync(at('many.glb'), writeGlb(assetOf(scene)));
  const { out } = await umberCommand('survey', at('many.glb'), '--json');
  expect(JSON.parse(out)).toMatchObject({ triangles: 12_000, instances: 1000, drawCalls: 1 });
  const over = await umberCommand('budget', at('many.glb'), '--triangles', '11k', '--instances', '900');
  expect(over.code).toBe(1);
  expect(over.out).toMatch(/12,000[^]*1,000/);
});

test('findings of one kind are one line, with their places', async () => {
  const { out } = await umberCommand('check', 'examples/public/models/tug.glb');
  expect(out).toMatch(
    /tug\.glb \/nodes\/\d+\/name: warning: "porthole"[^\n]*, and 14 more like it\n\s+also at \/nodes/,
  );
  expect(out).not.toContain(':1:1');
  const geometry = box();
  const { bytes, byteOffset } = geometry.attributes['normal']!;
  new Float32Array(bytes.buffer, bytes.byteOffset + byteOffset, 72).forEach((n, i, all) => (all[i] = n * -3));
  const scene = new Scene();
  scene.createNode({ name: 'odd', scale: [-1, 1, 1], mesh: { geometry } });
  writeFileSync(at('odd.glb'), writeGlb(assetOf(scene)));
  const odd = (await umberCommand('check', at('odd.glb'))).out;
  expect(odd).toMatch(/24 of 24 normals are not of length 1/);
  expect(odd).toMatch(/12 of 12 triangles wind against their normals/);
  expect(odd).toMatch(/node "odd" is mirrored/);
});

test('types are written for a folder, and only what is new', async () => {
  mkdirSync(at('shaders'), { recursive: true });
  writeFileSync(
    at('shaders/glow.wgsl'),
    'struct Settings { edge: f32 // 0..6 = 2   how sharp\n}\nfn surface(p: Fragment, s: Settings) -> Surface { return surfaceDefaults(p); }\n',
  );
  expect((await umberCommand('types', at('shaders'), '--check')).code).toBe(1);
  expect(existsSync(at('shaders/glow.d.wgsl.ts'))).toBe(false);
  expect((await umberCommand('types', at('shaders'))).out).toContain('wrote');
  const text = readFileSync(at('shaders/glow.d.wgsl.ts'), 'utf8');
  expect(text).toMatch(/import type \{ MaterialShader \} from 'umber-lens'[^]*how sharp[^]*edge: number/);
  // Nothing of the build tool, nor of Node, comes into a page.
  expect(text).not.toMatch(/vite|node/);
  expect((await umberCommand('types', at('shaders'), '--check')).out).toContain('1 of 1 up to date');
  // Sheets have their names, those in models too.
  copyFileSync('examples/public/models/crate.glb', at('shaders/crate.glb'));
  writeFileSync(
    at('shaders/quay.sheet.json'),
    '{ "sheet": 1, "models": { "crate": "crate.glb" }, "materials": { "red": {} },\n"nodes": [{ "name": "first", "model": "crate" }] }',
  );
  expect((await umberCommand('types', at('shaders'))).out).toContain('wrote');
  const named = readFileSync(at('shaders/quay.sheet.d.json.ts'), 'utf8');
  expect(named).toMatch(/\| "first"[^]*\| "first\/[^]*material: \n {4}\| "red"/);
  writeFileSync(at('shaders/quay.sheet.json'), '{ "sheet": 1, "nodes": [{ "nam": "first" }] }');
  expect((await umberCommand('types', at('shaders'))).err).toMatch(
    /quay\.sheet\.json:1:27[^]*Did you mean name/,
  );
});
