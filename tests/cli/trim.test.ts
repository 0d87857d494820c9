import { existsSync, mkdirSync, readdirSync, readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { validateBytes } from 'gltf-validator';
import { readGltf, sphere, writeGlb } from '@umber-lens/core/engine';
import { temporaryFolder } from '../folders.js';
import { umberCommand } from './run.js';

const folder = temporaryFolder('trim');

async function errorsIn(file: string): Promise<unknown[]> {
  const { issues } = await validateBytes(new Uint8Array(readFileSync(file)));
  return issues.messages.filter(({ severity }) => severity < 2);
}

test('trim makes the tug smaller and cheaper, proves that it looks the same, and writes what the standard allows', async () => {
  const out = join(folder, 'tug.glb');
  const { code, out: text } = await umberCommand(
    ...[
      'trim',
      'examples/public/models/tug.glb',
      '--out',
      out,
      '--levels',
      '--draws',
      'named',
      '--json',
      '--backend',
      'webgl2',
    ],
  );
  expect(code).toBe(0);
  const found = JSON.parse(text) as {
    steps: { name: string; changed: boolean }[];
    before: Record<string, number>;
    after: Record<string, number>;
    look: { mean: number; sides: number[] };
  };
  expect(found.steps.filter(({ changed }) => changed).map(({ name }) => name)).toEqual(
    expect.arrayContaining(['unused', 'duplicates', 'draws', 'vertices', 'levels', 'order', 'precision']),
  );
  expect(found.after['bytes']).toBeLessThan(found.before['bytes']! * 0.3);
  expect(found.after['draws']).toBeLessThan(found.before['draws']! * 0.4);
  expect(found.after['triangles']).toBe(found.before['triangles']);
  expect(found.look.sides.length).toBe(6);
  expect(found.look.mean).toBeLessThan(0.5);
  expect(await errorsIn(out)).toEqual([]);
  const asset = await readGltf(new Uint8Array(readFileSync(out)));
  expect(asset.nodes.some(({ levels }) => levels)).toBe(true);
  // Trimmed once more, nothing is left to do.
  const again = await umberCommand('trim', out, '--out', join(folder, 'again.glb'), '--no-proof', '--json');
  const { steps } = JSON.parse(again.out) as typeof found;
  expect(
    steps
      .filter(({ name }) => ['unused', 'duplicates', 'vertices'].includes(name))
      .every(({ changed }) => !changed),
  ).toBe(true);
});

test('the proof is drawn in Node as well, after one reading, and leaves no folder behind', async () => {
  const out = join(folder, 'crate.glb');
  const before = process.env['TMPDIR'];
  const left = join(folder, 'temporary');
  mkdirSync(left);
  process.env['TMPDIR'] = left;
  try {
    const crate = 'examples/public/models/crate.glb';
    const { code, out: text } = await umberCommand('trim', crate, '--out', out, '--backend', 'node');
    expect(code).toBe(0);
    expect(text.match(/wrote /g)).toHaveLength(1);
  } finally {
    if (before === undefined) delete process.env['TMPDIR'];
    else process.env['TMPDIR'] = before;
  }
  expect(readdirSync(left)).toEqual([]);
});

test('where the look does not hold it writes nothing, says by how much, and ends with 1', async () => {
  const file = join(folder, 'rough.glb');
  // A ball whose levels are far coarser than anybody would allow.
  writeFileSync(
    file,
    writeGlb({
      nodes: [
        {
          name: 'ball',
          children: [],
          mesh: { primitives: [{ geometry: sphere({ slices: 64, stacks: 48 }) }] },
        },
      ],
    }),
  );
  const out = join(folder, 'rough-out.glb');
  const {
    code,
    err,
    out: text,
  } = await umberCommand(
    ...['trim', file, '--out', out, '--precision', 'positions', '--tolerance', '0', '--backend', 'webgl2'],
  );
  expect(code).toBe(1);
  expect(text).toMatch(/the look did not hold: mean difference [\d.]+ of 255/);
  expect(err).toMatch(/Nothing was written/);
  expect(existsSync(out)).toBe(false);
});
