import { spawn } from 'node:child_process';
import { existsSync, mkdirSync, readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { validateBytes } from 'gltf-validator';
import { readModel } from '@umber-lens/core/engine';
import { temporaryFolder } from '../folders.js';
import { umberCommand } from './run.js';

const folder = temporaryFolder('recast');
const MODELS = 'examples/public/models';
const bytesOf = (file: string): Uint8Array => new Uint8Array(readFileSync(file));

/** Standard input in, standard output out. */
function piped(input: Uint8Array, ...args: string[]): Promise<{ code: number | null; out: Buffer }> {
  const child = spawn(process.execPath, ['packages/cli/bin/umber.mjs', 'recast', ...args], {
    env: { ...process.env, NODE_OPTIONS: '' },
  });
  const parts: Buffer[] = [];
  child.stdout.on('data', (part: Buffer) => parts.push(part));
  child.stdin.end(input);
  return new Promise((done) => child.on('close', (code) => done({ code, out: Buffer.concat(parts) })));
}

test('a crate goes to OBJ with its pictures and back, and the standard has nothing against it', async () => {
  const obj = join(folder, 'crate.obj');
  const glb = join(folder, 'crate again.glb');
  const there = await umberCommand('recast', `${MODELS}/crate.glb`, obj, '--json');
  expect(there.code).toBe(0);
  const told = JSON.parse(there.out) as {
    files: string[];
    triangles: number;
    warnings: { message: string }[];
  };
  expect(told.files[0]).toBe('crate.obj');
  expect(told.files.slice(1).sort()).toEqual([
    'crate-color.jpg',
    'crate-normal.jpg',
    'crate-surface.jpg',
    'crate.mtl',
  ]);
  expect(told.triangles).toBe(12);
  const back = await umberCommand('recast', obj, glb, '--meshopt');
  expect([back.code, back.err]).toEqual([0, '']);
  expect(back.out).toMatch(/OBJ .*\n.*GLB/);
  const { issues } = await validateBytes(bytesOf(glb));
  // OBJ has no tangents: readers make them, as ours does.
  expect(issues.messages.filter(({ severity }) => severity < 2).map(({ code }) => code)).toEqual([
    'MESH_PRIMITIVE_GENERATED_TANGENT_SPACE',
  ]);
  const asset = await readModel(bytesOf(glb));
  expect(asset.materials[0]).toMatchObject({
    baseColorTexture: {},
    normalTexture: {},
    metallicRoughnessTexture: {},
  });
});

test('millimetres with Z upwards stand upright in metres, whatever the file is called', async () => {
  const stl = join(folder, 'post.data');
  // A post of 100 x 200 x 1,000 mm, Z upwards: one face of it.
  writeFileSync(
    stl,
    'solid post\nfacet normal 0 0 0\nouter loop\nvertex 0 0 0\nvertex 100 0 1000\nvertex 0 200 0\nendloop\nendfacet\nendsolid post\n',
  );
  const out = join(folder, 'post.gltf');
  const { code } = await umberCommand('recast', stl, out, '--unit', 'mm', '--up', 'z', '--embed');
  expect(code).toBe(0);
  expect(existsSync(join(folder, 'post.bin'))).toBe(false);
  const survey = await umberCommand('survey', out, '--json');
  const { bounds } = JSON.parse(survey.out) as { bounds: { min: number[]; max: number[] } };
  [0, 0, -0.2].forEach((value, k) => expect(bounds.min[k]).toBeCloseTo(value, 6));
  [0.1, 1, 0].forEach((value, k) => expect(bounds.max[k]).toBeCloseTo(value, 6));
});

test('several models become one, and capitals and backslashes of other machines are understood', async () => {
  mkdirSync(join(folder, 'Tex'), { recursive: true });
  writeFileSync(
    join(folder, 'plank.obj'),
    'mtllib Plank.MTL\nv 0 0 0\nv 1 0 0\nv 0 1 0\nvt 0 0\nusemtl oak\nf 1/1 2/1 3/1\n',
  );
  writeFileSync(join(folder, 'plank.mtl'), 'newmtl oak\nmap_Kd tex\\OAK.png\n');
  writeFileSync(join(folder, 'Tex/oak.PNG'), readFileSync('tests/fixtures/pixel.png'));
  const out = join(folder, 'both.glb');
  const { code, out: text } = await umberCommand(
    'recast',
    join(folder, 'plank.obj'),
    `${MODELS}/gull.glb`,
    out,
    '--json',
  );
  expect(code).toBe(0);
  expect((JSON.parse(text) as { warnings: unknown[] }).warnings).toEqual([]);
  const asset = await readModel(bytesOf(out));
  expect(asset.defaultScene!.nodes.map(({ name }) => name)).toEqual(['plank', 'gull']);
  expect(asset.animations.length).toBeGreaterThan(0);
  expect(asset.materials.find(({ name }) => name === 'oak')!.baseColorTexture).toBeDefined();
});

test('standard input and output, and what cannot be', async () => {
  const { code, out } = await piped(bytesOf(`${MODELS}/crate.glb`), '-', '-', '--to', 'ply', '--ascii');
  expect(code).toBe(0);
  expect(out.toString()).toMatch(/^ply\nformat ascii 1.0\n/);
  const tooMany = await piped(bytesOf(`${MODELS}/crate.glb`), '-', '-', '--to', 'obj');
  expect(tooMany.code).toBe(1);
  const [alone, strange] = [
    await umberCommand('recast', 'x.obj'),
    await umberCommand('recast', `${MODELS}/crate.glb`, 'x.foo'),
  ];
  expect([alone.code, strange.code]).toEqual([1, 1]);
  expect(alone.err).toMatch(/none to write/);
  expect(strange.err).toMatch(/--to/);
});

test('diff finds nothing between a model and the same in another file, and what OBJ left out', async () => {
  const gltf = join(folder, 'gull.gltf');
  const obj = join(folder, 'gull.obj');
  for (const out of [gltf, obj])
    expect((await umberCommand('recast', `${MODELS}/gull.glb`, out)).code).toBe(0);
  const same = await umberCommand('diff', `${MODELS}/gull.glb`, gltf);
  expect([same.code, same.out]).toEqual([0, expect.stringMatching(/^nothing differs/)]);
  const other = await umberCommand('diff', `${MODELS}/gull.glb`, obj, '--json');
  expect(other.code).toBe(1);
  const { differences } = JSON.parse(other.out) as {
    differences: { kind: string; name: string; what: string }[];
  };
  expect(differences).toContainEqual({ kind: 'clip', name: 'flap', what: 'is only in the first' });
});

test('Draco and universal textures make a model smaller on the GPU, and it looks the same', async () => {
  const packed = join(folder, 'packed.glb');
  const run = await umberCommand('recast', `${MODELS}/crate.glb`, packed, '--draco', '--ktx2');
  expect([run.code, run.err]).toEqual([0, '']);
  const { issues } = await validateBytes(bytesOf(packed));
  // The validator does not know KHR_texture_basisu: KTX2 is no kind of picture to it.
  const grave = issues.messages.filter(({ severity }) => severity < 2).map(({ code }) => code);
  expect([...new Set(grave)].sort()).toEqual(['IMAGE_UNRECOGNIZED_FORMAT', 'VALUE_NOT_IN_LIST']);
  const { extensionsRequired } = await readModel(bytesOf(packed));
  expect(extensionsRequired).toEqual(['KHR_draco_mesh_compression', 'KHR_texture_basisu']);
  const facts = async (file: string): Promise<{ gpuBytes: number; triangles: number }> =>
    JSON.parse((await umberCommand('survey', file, '--json')).out) as { gpuBytes: number; triangles: number };
  const [before, after] = [await facts(`${MODELS}/crate.glb`), await facts(packed)];
  expect(after.triangles).toBe(before.triangles);
  // A byte a pixel instead of four.
  expect(after.gpuBytes).toBeLessThan(before.gpuBytes / 2.5);
  const difference = await umberCommand('diff', `${MODELS}/crate.glb`, packed, '--picture', '--json');
  const { look } = JSON.parse(difference.out) as { look: { mean: number } };
  expect(look.mean).toBeLessThan(2);
  const checked = await umberCommand('check', packed);
  expect([checked.code, checked.out]).toEqual([0, '1 file: 0 errors, 0 warnings\n']);
});

test('pictures are put apart where that is asked for, and options that do not fit are refused', async () => {
  const apart = join(folder, 'apart', 'crate.glb');
  const run = await umberCommand('recast', `${MODELS}/crate.glb`, apart, '--separate', '--json');
  const { files } = JSON.parse(run.out) as { files: string[] };
  expect(files).toEqual(['crate.glb', 'crate-color.jpg', 'crate-surface.jpg', 'crate-normal.jpg']);
  expect((await umberCommand('diff', `${MODELS}/crate.glb`, apart)).code).toBe(0);
  const refusals: [string[], string][] = [
    [['a.ply', '--draco'], '--draco is for glTF, and PLY is to be written'],
    [['a.glb', '--draco', '--meshopt'], '--draco and --meshopt exclude one another'],
    [['a.gltf', '--embed', '--separate'], '--embed and --separate exclude one another'],
  ];
  for (const [args, message] of refusals) {
    const refused = await umberCommand('recast', `${MODELS}/crate.glb`, ...args);
    expect([refused.code, refused.err.split('\n')[0]]).toEqual([1, expect.stringContaining(message)]);
  }
});
