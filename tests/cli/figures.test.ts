import { writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { temporaryFolder } from '../folders.js';
import { umberCommand } from './run.js';

const TUG = 'examples/public/models/tug.glb';
const CRATE = 'examples/public/models/crate.glb';
const folder = temporaryFolder('figures');

test('budget says what is over and who takes most of it, with exit 1', async () => {
  const { code, out } = await umberCommand('budget', TUG, '--triangles', '5k', '--gpu-mb', '64');
  expect(code).toBe(1);
  expect(out).toMatch(/tug\.glb is over its budget/);
  expect(out).toMatch(/triangles that a frame draws\s+10,045\s+5,000\s+201%\s+over/);
  expect(out).toMatch(/most of triangles is taken by\n {2}tyre \(10 of that name\) 5,760/);
  const within = await umberCommand('budget', TUG, '--triangles', '20k', '--json');
  expect(within.code).toBe(0);
  expect(JSON.parse(within.out)).toMatchObject([
    { isOver: false, lines: [{ limit: 'triangles', value: 10_045 }] },
  ]);
});

test('budgets come from a file with comments, by file name; slips are told where they are', async () => {
  const config = join(folder, 'budgets.json');
  writeFileSync(config, '{\n  // for all\n  "draws": 10,\n  "files": { "tug.glb": { "draws": 100 } },\n}');
  const { code, out } = await umberCommand('budget', TUG, CRATE, '--config', config, '--json');
  expect([
    code,
    (JSON.parse(out) as { lines: { max: number }[] }[]).map(({ lines }) => lines[0]!.max),
  ]).toEqual([0, [100, 10]]);
  writeFileSync(config, '{\n  "draws": 10\n  "triangles": 2\n}');
  const broken = await umberCommand('budget', TUG, '--config', config);
  expect(broken.code).toBe(1);
  expect(broken.err).toMatch(/budgets\.json:3:3/);
  writeFileSync(config, '{ "trangles": 10 }');
  const slip = await umberCommand('budget', TUG, '--config', config);
  expect(slip.err).toMatch(/Did you mean "triangles"\?/);
  const none = await umberCommand('budget', TUG);
  expect([none.code, none.err]).toEqual([1, expect.stringContaining('no limits are given')]);
});

/** Several times as dear as the picture without, so that no busy machine hides it. */
const DEAR = [
  { type: 'blur', stdDeviation: 12 },
  { type: 'turbulence', baseFrequency: 0.05, numOctaves: 6 },
  { type: 'morphology', operator: 'dilate', radius: 6 },
];

test('compare finds effects and shadows slower, and says so as JSON', async () => {
  const how = ['--turns', '20', '--size', '200x120', '--backend', 'webgl2', '--json'];
  const drawn = ['--with', 'shadows', '--with', 'finish', '--finish', JSON.stringify(DEAR)];
  const { code, out } = await umberCommand('compare', TUG, ...drawn, ...how);
  expect(code).toBe(0);
  const found = JSON.parse(out) as {
    verdict: { kind: string; words: string; low: number };
    a: { name: string };
    b: { gpu: object };
  };
  expect(found.verdict.kind).toBe('slower');
  expect(found.verdict.low).toBeGreaterThan(1);
  expect(found.verdict.words).toMatch(/^with shadows, finish is slower than plain: \d/);
  expect(found.b.gpu).toMatchObject({ median: expect.any(Number) as number });
  const same = await umberCommand('compare', TUG);
  expect([same.code, same.err]).toEqual([1, expect.stringContaining('cannot be compared')]);
});
