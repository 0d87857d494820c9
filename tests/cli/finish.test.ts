import { writeFileSync } from 'node:fs';
import { join } from 'node:path';
import sharp from 'sharp';
import { temporaryFolder } from '../folders.js';
import { umberCommand } from './run.js';

const TUG = 'examples/public/models/tug.glb';
const folder = temporaryFolder('finish');
const small = ['--size', '48x30'];

async function picture(...args: string[]): Promise<Buffer> {
  const out = join(folder, `${args.length}.png`);
  const { code, err } = await umberCommand('shoot', TUG, '--out', out, ...small, ...args);
  expect([code, err]).toEqual([0, '']);
  return sharp(out).removeAlpha().raw().toBuffer();
}

test('shoot draws with effects, out of a file or as they stand', async () => {
  const file = join(folder, 'grey.json');
  writeFileSync(file, '[\n  // no colors\n  { "type": "grayscale" },\n]\n');
  const plain = await picture();
  const grey = await picture('--finish', file);
  const inverted = await picture('--finish', '[{ "type": "invert" }]', '--no-shadows');
  expect(inverted[0]).toBe(255 - plain[0]!);
  let colored = 0;
  for (let i = 0; i < grey.length; i += 3) {
    expect(Math.abs(grey[i]! - grey[i + 1]!) + Math.abs(grey[i]! - grey[i + 2]!)).toBeLessThanOrEqual(2);
    colored += Math.abs(plain[i]! - plain[i + 2]!) > 20 ? 1 : 0;
  }
  expect(colored).toBeGreaterThan(50);
});

test.each([
  ['[{ "type": "blurr" }]', /Did you mean 'blur'/],
  ['[{ "type": "sepia", "angle": 1 }]', /does nothing, since its type is sepia/],
  ['[{ "type": "blur"', /--finish is no JSON: close brace expected[\s\S]*--finish:1:18/],
  ['{}', /there is no file \{\}/],
  ['nowhere.json', /there is no file nowhere\.json/],
])('--finish %s is refused with a reason', async (given, said) => {
  const out = join(folder, 'never.png');
  const { code, err } = await umberCommand('shoot', TUG, '--out', out, ...small, '--finish', given);
  expect([code, err]).toEqual([1, expect.stringMatching(said)]);
});

test('compare asks which effects, and holds with against without', async () => {
  const asked = await umberCommand('compare', TUG, '--with', 'finish');
  expect([asked.code, asked.err]).toEqual([1, expect.stringMatching(/nobody said which effects/)]);
  const args = ['--with', 'finish', '--finish', '[{ "type": "invert" }]', '--turns', '2', '--json', ...small];
  const { code, out } = await umberCommand('compare', TUG, ...args);
  expect(code).toBe(0);
  expect(JSON.parse(out)).toMatchObject({ a: { name: 'plain' }, b: { name: 'with finish' } });
});
