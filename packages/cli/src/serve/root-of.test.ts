import { mkdirSync, mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { rootOf } from './root-of.js';

const folder = mkdtempSync(join(tmpdir(), 'umber-root-'));
const at = (...parts: string[]): string => join(folder, ...parts);
afterAll(() => rmSync(folder, { recursive: true }));

beforeAll(() => {
  for (const name of ['quay/lamps', 'models', 'far']) mkdirSync(at(name), { recursive: true });
  const sheet = (path: string, rest: string): void => writeFileSync(at(path), `{ "sheet": 1, ${rest} }`);
  sheet('quay/alone.sheet.json', '"models": { "crate": "crate.glb" }');
  sheet('quay/named.sheet.json', '"models": { "crate": "../models/crate.glb" }');
  sheet(
    'quay/far.sheet.json',
    '"models": { "crate": "../../crate.glb", "web": "https://quay.example/a.glb" }',
  );
  sheet('quay/lamps/lamp.sheet.json', '"models": { "glass": "../../models/glass.glb" }');
  sheet('quay/round.sheet.json', '"nodes": [{ "name": "a", "sheet": "lamps/lamp.sheet.json" }]');
  sheet('quay/self.sheet.json', '"nodes": [{ "name": "a", "sheet": "self.sheet.json" }]');
  sheet('quay/shaded.sheet.json', '"materials": { "a": { "shader": "rim.wgsl" } }');
  writeFileSync(
    at('quay/rim.wgsl'),
    "import { glow } from '../far/glow.wgsl';\nfn surface(p: Fragment) -> Surface { return surfaceDefaults(p); }\n",
  );
  writeFileSync(at('far/glow.wgsl'), 'fn glow() -> f32 { return 1; }\n');
  writeFileSync(at('quay/broken.sheet.json'), '{ "sheet": 1, "models": { "crate": "../models/crate.glb" ');
});

test.each([
  ['quay/alone.sheet.json', 'quay'],
  ['quay/named.sheet.json', ''],
  // What sheets within it name counts, too.
  ['quay/round.sheet.json', ''],
  // And what shaders import.
  ['quay/shaded.sheet.json', ''],
  ['quay/rim.wgsl', ''],
  ['quay/self.sheet.json', 'quay'],
  // Nothing above the folder that the command was given in, and nothing for what cannot be read.
  ['quay/far.sheet.json', 'quay'],
  ['quay/broken.sheet.json', 'quay'],
  ['quay/crate.glb', 'quay'],
])('%s is served from "%s"', async (file, root) => {
  expect(await rootOf(at(file), folder)).toBe(join(folder, root));
});

test('a file elsewhere is served from its own folder', async () => {
  expect(await rootOf(at('quay/named.sheet.json'), at('far'))).toBe(at('quay'));
});
