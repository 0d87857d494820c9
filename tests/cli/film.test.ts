import { readdirSync } from 'node:fs';
import { join } from 'node:path';
import sharp from 'sharp';
import { temporaryFolder } from '../folders.js';
import { umberCommand } from './run.js';

const TUG = 'examples/public/models/tug.glb';
const folder = temporaryFolder('film');
const GULL = 'examples/public/models/gull.glb';
const small = ['--size', '48x30', '--fps', '8'];

test('shoot turns about a model in an animated WebP, its length and rate as told', async () => {
  const out = join(folder, 'films', 'turn.webp');
  const { code, out: told } = await umberCommand('shoot', TUG, '--out', out, '--seconds', '0.75', ...small);
  expect([code, told]).toEqual([0, expect.stringMatching(/6 pictures of 48 x 30/)]);
  const { pages, delay, width, pageHeight, loop, format } = await sharp(out, { animated: true }).metadata();
  expect({ pages, delay, width, pageHeight, loop, format }).toEqual({
    pages: 6,
    delay: [125, 125, 125, 125, 125, 125],
    width: 48,
    pageHeight: 30,
    loop: 0,
    format: 'webp',
  });
  const raw = await sharp(out, { animated: true }).removeAlpha().raw().toBuffer();
  const frame = (i: number): Buffer => raw.subarray(i * 48 * 30 * 3, (i + 1) * 48 * 30 * 3);
  // Seen from behind it is another picture.
  expect(frame(0).filter((value, i) => Math.abs(value - frame(3)[i]!) > 20).length).toBeGreaterThan(100);
});

test('a clip runs on in a folder of PNGs, which begins as the single shot does', async () => {
  const out = join(folder, 'flaps');
  const args = ['--animation', 'flap', '--at', '0.1', '--seconds', '0.5', ...small];
  expect((await umberCommand('shoot', GULL, '--out', out, ...args)).code).toBe(0);
  expect(readdirSync(out)).toEqual(['0001.png', '0002.png', '0003.png', '0004.png']);
  const single = join(folder, 'single.png');
  await umberCommand('shoot', GULL, '--out', single, '--animation', 'flap', '--at', '0.1', '--size', '48x30');
  const [first, third, still] = await Promise.all(
    [join(out, '0001.png'), join(out, '0003.png'), single].map((png) => sharp(png).raw().toBuffer()),
  );
  const off = (picture: Buffer): number =>
    picture.filter((value, i) => Math.abs(value - still![i]!) > 4).length;
  expect(off(first!)).toBe(0);
  expect(off(third!)).toBeGreaterThan(50);
});

test.each([
  [['--out', 'x.png', '--seconds', '1'], /"x\.png" holds no film/],
  [['--out', 'x.webp'], /not how long/],
  [['--out', 'x.png', '--turn', '2'], /--turn asks for a film/],
  [['--out', 'x.webp', '--seconds', '500', '--fps', '60'], /30000 pictures[^]*At most 2000/],
  [['--out', 'x.webp', '--seconds', 'long'], /Give a number from/],
])('%s is refused', async (args, message) => {
  const { code, err } = await umberCommand('shoot', TUG, ...args);
  expect([code, err]).toEqual([1, expect.stringMatching(message)]);
});
