import { LensError } from '../../errors/lens-error.js';
import { attributeFloats } from '../../geometry/geometry.js';
import type { ModelAsset } from '../asset/asset.js';
import { readObj } from './read-obj.js';

const bytesOf = (text: string): Uint8Array => new TextEncoder().encode(text);
const read = (text: string, files: Record<string, string | Uint8Array> = {}): Promise<ModelAsset> =>
  readObj(bytesOf(text), {
    file: 'quay.obj',
    resolve: (path) => {
      const found = files[path];
      if (found === undefined) return Promise.reject(new LensError('file/missing', 'gone'));
      return Promise.resolve(typeof found === 'string' ? bytesOf(found) : found);
    },
  });
const PNG = Uint8Array.of(0x89, 0x50, 0x4e, 0x47, 0x0d, 0x0a, 0x1a, 0x0a, 0);

/** Area of a mesh's triangles, and how much of it looks along +Z. */
function areas(asset: ModelAsset, mesh = 0): { area: number; up: number } {
  let [area, up] = [0, 0];
  for (const { geometry } of asset.meshes[mesh]!.primitives) {
    const p = attributeFloats(geometry.attributes['position']!);
    const at = (i: number) => [0, 1, 2].map((k) => p[geometry.indices![i]! * 3 + k]!);
    for (let i = 0; i < geometry.indices!.length; i += 3) {
      const [a, b, c] = [at(i), at(i + 1), at(i + 2)] as [number[], number[], number[]];
      const [u, v] = [b, c].map((to) => to.map((x, k) => x - a[k]!)) as [number[], number[]];
      const n = [u[1]! * v[2]! - u[2]! * v[1]!, u[2]! * v[0]! - u[0]! * v[2]!, u[0]! * v[1]! - u[1]! * v[0]!];
      area += Math.hypot(...n) / 2;
      up += n[2]! / 2;
    }
  }
  return { area, up };
}

test('a crate: objects, shared corners, numbers counted back, coordinates turned over', async () => {
  const asset = await read(
    '# a crate\r\no crate lid\r\nv 0 0 0\r\nv 2 0 0\r\nv 2 1 0\r\nv 0 1 0\r\nvt 0 0\r\nvt 1 0\r\nvt 1 1\r\nvt 0 1\r\nvn 0 0 2\r\nf -4/-4/1 -3/-3/1 -2/-2/1 -1/-1/1\r\no rope\r\nl 1 2 3\r\np 1 4\r\n',
  );
  expect(asset.nodes.map(({ name }) => name)).toEqual(['crate lid', 'rope']);
  expect(areas(asset)).toEqual({ area: 2, up: 2 });
  const { geometry } = asset.meshes[0]!.primitives[0]!;
  expect(geometry.attributes['position']!.count).toBe(4);
  expect([...attributeFloats(geometry.attributes['texcoord0']!)]).toEqual([0, 1, 1, 1, 1, 0, 0, 0]);
  expect([...attributeFloats(geometry.attributes['normal']!)].slice(0, 3)).toEqual([0, 0, 1]);
  expect(asset.meshes[1]!.primitives.map((p) => [p.geometry.mode, [...p.geometry.indices!]])).toEqual([
    ['lines', [0, 1, 1, 2]],
    ['points', [0, 1]],
  ]);
  expect(asset.warnings).toEqual([]);
});

test.each<[string, [number, number][], number]>([
  [
    'an L',
    [
      [0, 0],
      [3, 0],
      [3, 1],
      [1, 1],
      [1, 3],
      [0, 3],
    ],
    5,
  ],
  [
    'an arrow',
    [
      [0, 0],
      [4, 2],
      [0, 4],
      [1, 2],
    ],
    6,
  ],
  [
    'a comb',
    [
      [0, 0],
      [5, 0],
      [5, 3],
      [4, 3],
      [4, 1],
      [3, 1],
      [3, 3],
      [2, 3],
      [2, 1],
      [1, 1],
      [1, 3],
      [0, 3],
    ],
    11,
  ],
])('%s is cut into triangles that cover it, whichever way it faces', async (_, corners, area) => {
  const sides: [number, number, number][] = [
    [0, 1, 2],
    [1, 2, 0],
    [2, 0, 1],
  ];
  for (const way of [1, -1])
    for (const [x, y, z] of sides) {
      const own = way === 1 ? corners : [...corners].reverse();
      const text = own.map(([a, b]) => {
        const v = [0, 0, 0];
        v[x] = a;
        v[y] = b;
        v[z] = 7;
        return `v ${v.join(' ')}`;
      });
      const asset = await read(`${text.join('\n')}\nf ${own.map((_corner, i) => i + 1).join(' ')}`);
      const found = areas(asset);
      expect(found.area).toBeCloseTo(area, 6);
      if (z === 2) expect(found.up).toBeCloseTo(area * way, 6);
    }
});

test('colours behind places are sRGB, continued lines go on, groups are nodes where there are no objects', async () => {
  const asset = await read(
    'v 0 0 0 1 0.5 0\nv 1 0 \\\n0 1 0.5 0\nv 0 1 0 1 0.5 0\ng left\nf 1 2 3\ng right\nf 3 2 1\n',
  );
  expect(asset.nodes.map(({ name }) => name)).toEqual(['left', 'right']);
  const color = [...attributeFloats(asset.meshes[0]!.primitives[0]!.geometry.attributes['color0']!)].slice(
    0,
    4,
  );
  // 0.5 of sRGB is ((0.5 + 0.055) / 1.055) ^ 2.4.
  expect(color).toEqual([1, Math.fround(((0.5 + 0.055) / 1.055) ** 2.4), 0, 1]);
});

test('smoothing groups share normals, faces without one are flat, and without any word edges decide', async () => {
  const roof = 'v 0 0 0\nv 1 0 1\nv 1 2 1\nv 0 2 0\nv 2 0 0\nv 2 2 0\n';
  const normalsOf = async (text: string): Promise<number[][]> => {
    const asset = await read(roof + text);
    const { geometry } = asset.meshes[0]!.primitives[0]!;
    const p = attributeFloats(geometry.attributes['position']!);
    const n = attributeFloats(geometry.attributes['normal']!);
    // Those at the ridge.
    return Array.from({ length: p.length / 3 }, (_, v) => v)
      .filter((v) => p[v * 3] === 1)
      .map((v) => [0, 1, 2].map((k) => Math.round(n[v * 3 + k]! * 1000) / 1000 + 0));
  };
  const faces = ['f 1 2 3 4', 'f 2 5 6 3'];
  expect(await normalsOf(`s 1\n${faces.join('\n')}`)).toEqual([
    [0, 0, 1],
    [0, 0, 1],
  ]);
  const flat = [
    [-0.707, 0, 0.707],
    [0.707, 0, 0.707],
  ];
  for (const text of [`s off\n${faces.join('\n')}`, `s 1\n${faces[0]}\ns 2\n${faces[1]}`, faces.join('\n')]) {
    const found = await normalsOf(text);
    expect(found).toHaveLength(4);
    for (const normal of found) expect(flat).toContainEqual(normal);
  }
});

test('materials become metal and roughness, with the pictures that their words name', async () => {
  const asset = await read(
    'mtllib paints of the quay.mtl\nv 0 0 0\nv 1 0 0\nv 0 1 0\nvt 0 0\nusemtl old paint\nf 1/1 2/1 3/1\nusemtl brass\nf 1 2 3\nusemtl nobody\nf 1 2 3',
    {
      'paints of the quay.mtl':
        'newmtl old paint\nKd 0 0 0\nNs 30\nmap_Kd -s 2 3 1 -o 0.25 0 0 -clamp on tex\\\\Old Planks.png\nbump -bm 0.4 tex\\planks_normal.png\nd 0.5\n\nnewmtl brass\nKd 0.8 0.6 0.2\nPr 0.3\nPm 1\nKe 4 2 0\nNi 1.45\nPc 0.7\nPcr 0.1\nmap_Ks shine.png\n',
      'tex/Old Planks.png': PNG,
      'tex/planks_normal.png': PNG,
    },
  );
  const [paint, brass, nobody] = asset.materials;
  expect(paint).toMatchObject({
    name: 'old paint',
    baseColorFactor: [1, 1, 1, 0.5],
    metallicFactor: 0,
    alphaMode: 'blend',
  });
  // (2 / 32) ^ 1/4
  expect(paint!.roughnessFactor).toBe(0.5);
  expect(paint!.baseColorTexture!.transform).toEqual({ offset: [0.25, -2], rotation: 0, scale: [2, 3] });
  expect(paint!.baseColorTexture!.texture.sampler).toEqual({
    wrapS: 'clamp-to-edge',
    wrapT: 'clamp-to-edge',
  });
  expect(paint!.normalTexture).toMatchObject({ strength: 0.4 });
  expect(asset.images.map(({ uri }) => uri)).toEqual(['tex/Old Planks.png', 'tex/planks_normal.png']);
  expect(brass).toMatchObject({
    baseColorFactor: [0.8, 0.6, 0.2, 1],
    roughnessFactor: 0.3,
    metallicFactor: 1,
    emissiveFactor: [1, 0.5, 0],
    emissiveStrength: 4,
    ior: 1.45,
    clearcoatFactor: 0.7,
    clearcoatRoughnessFactor: 0.1,
  });
  expect(nobody).toMatchObject({ name: 'nobody' });
  expect(asset.warnings.map(({ code, where }) => `${code} ${where.file}:${where.line ?? ''}`)).toEqual([
    'mtl/map paints of the quay.mtl:16',
    'obj/material quay.obj:',
  ]);
});

test('the same model comes of any pieces, and what is left out is told', async () => {
  const text = 'mtllib gone.mtl\nv 1 2 3 # a place\nv 4 5 6\nv 7 8 10\ncurv 1 2\nfrob 7\nf 1 2\nf 1 2 3\n';
  const whole = await read(text);
  expect(whole.warnings.map(({ code, where }) => `${code} ${where.line}`)).toEqual([
    'obj/free-form 5',
    'obj/statement 6',
    'obj/corners 7',
    'obj/library 1',
  ]);
  async function* pieces(): AsyncGenerator<Uint8Array> {
    for (const byte of bytesOf(text)) yield Uint8Array.of(byte);
  }
  const asset = await readObj(pieces(), { file: 'quay.obj' });
  expect(attributeFloats(asset.meshes[0]!.primitives[0]!.geometry.attributes['position']!)).toEqual(
    attributeFloats(whole.meshes[0]!.primitives[0]!.geometry.attributes['position']!),
  );
});

test.each<[string, string, string, number, number]>([
  ['no number', 'v 0 0 0\nv 1 x 0', 'obj/number', 2, 5],
  ['too few numbers', 'v 0 0', 'obj/number', 1, 6],
  ['a place that never comes', 'v 0 0 0\nv 1 0 0\n\nf 1 2 3', 'obj/index', 4, 7],
  ['a number counted back too far', 'v 0 0 0\nf -2 1 1', 'obj/index', 2, 3],
  ['number 0', 'v 0 0 0\nf 1 1 0', 'obj/index', 2, 7],
  ['no coordinate', 'v 0 0 0\nf 1/7 1/7 1/7', 'obj/index', 2, 3],
  ['four numbers', 'v 0 0 0\nf 1/1/1/1 1 1', 'obj/index', 2, 3],
  ['no group', 'v 0 0 0\ns many', 'obj/number', 2, 3],
  ['infinite', 'v 0 0 inf', 'obj/number', 1, 7],
])('%s is refused at its place', async (_, text, code, line, column) => {
  await expect(read(text)).rejects.toMatchObject({ code, where: { file: 'quay.obj', line, column } });
});

test('a file without places is refused', async () => {
  await expect(read('# nothing\n')).rejects.toMatchObject({ code: 'obj/empty' });
});
