import { attributeFloats } from '../../geometry/geometry.js';
import { readModel } from '../read-model.js';
import { readStl } from './read-stl.js';

const bytesOf = (text: string): Uint8Array => new TextEncoder().encode(text);
const facet = (corners: string[]): string =>
  ` facet normal 0 0 1\n  outer loop\n${corners.map((corner) => `   vertex ${corner}\n`).join('')}  endloop\n endfacet\n`;
const QUAD = facet(['0 0 0', '1 0 0', '1 1 0']) + facet(['0 0 0', '1 1 0', '0 1 -0']);

function binary(header: string, colors: number[], corners = [0, 0, 0, 1, 0, 0, 1, 1, 0]): Uint8Array {
  const bytes = new Uint8Array(84 + colors.length * 50);
  bytes.set(bytesOf(header).subarray(0, 80));
  const view = new DataView(bytes.buffer);
  view.setUint32(80, colors.length, true);
  colors.forEach((color, i) => {
    corners.forEach((value, k) =>
      view.setFloat32(84 + i * 50 + 12 + k * 4, value + (k % 3 === 2 ? i : 0), true),
    );
    view.setUint16(84 + i * 50 + 48, color, true);
  });
  return bytes;
}

test('solids are nodes by their names, and corners at one place are one vertex', async () => {
  const asset = await readStl(
    bytesOf(`solid crate lid\r\n${QUAD}endsolid crate lid\nSOLID\n${QUAD}ENDSOLID\n`),
  );
  expect(asset.nodes.map(({ name }) => name)).toEqual(['crate lid', undefined]);
  const { geometry } = asset.meshes[0]!.primitives[0]!;
  expect([...geometry.indices!]).toEqual([0, 1, 2, 0, 2, 3]);
  expect([...attributeFloats(geometry.attributes['position']!)]).toEqual([
    0, 0, 0, 1, 0, 0, 1, 1, 0, 0, 1, 0,
  ]);
  // Without normals faces are flat.
  expect(geometry.attributes['normal']).toBeUndefined();
});

test('a binary file is one, whatever its header begins with, and however it comes', async () => {
  const lying = binary('solid but binary, as some write', [0, 0]);
  async function* pieces(): AsyncGenerator<Uint8Array> {
    for (let at = 0; at < lying.length; at += 11) yield lying.subarray(at, at + 11);
  }
  for (const asset of [
    await readStl(lying),
    await readStl(pieces()),
    await readModel(lying),
    await readModel(pieces()),
  ]) {
    expect(asset.format).toBe('STL');
    expect(asset.meshes[0]!.primitives[0]!.geometry.indices).toHaveLength(6);
  }
});

test('colours by face, in both orders of their bits', async () => {
  const linear = (x: number): number => Math.fround(((x / 31 + 0.055) / 1.055) ** 2.4);
  // 31, 16, 8 of 31 each.
  const low = await readStl(binary('made by hand', [0x8000 | (31 << 10) | (16 << 5) | 8, 0]));
  const colors = attributeFloats(low.meshes[0]!.primitives[0]!.geometry.attributes['color0']!);
  expect([...colors.subarray(0, 4)]).toEqual([1, linear(16), linear(8), 1]);
  expect([...colors.subarray(12, 16)]).toEqual([0.8, 0.8, 0.8, 1].map(Math.fround));
  const header = `painted COLOR=\u0040\u0000\u0000\u007f`;
  const high = await readStl(binary(header, [(8 << 10) | (16 << 5) | 31, 0x8000]));
  const others = attributeFloats(high.meshes[0]!.primitives[0]!.geometry.attributes['color0']!);
  expect([...others.subarray(0, 4)]).toEqual([1, linear(16), linear(8), 1]);
  expect([...others.subarray(12, 16)]).toEqual([Math.fround(((64 / 255 + 0.055) / 1.055) ** 2.4), 0, 0, 1]);
});

test.each<[string, Uint8Array, string, RegExp]>([
  ['cut off', binary('x', [0, 0]).subarray(0, 140), 'stl/truncated', /byte 140 with 1 of 2/],
  ['only a header', new Uint8Array(60), 'stl/truncated', /60 bytes are too few/],
  ['nowhere', binary('x', [0], [0, 0, 0, Infinity, 0, 0, 1, 1, 0]), 'stl/number', /byte 84/],
  ['a strange word', bytesOf('solid a\n facet normal 0 0 1\n  loops\n'), 'stl/word', /loops/],
  ['no number', bytesOf(`solid a\n${facet(['0 0 x', '1 0 0', '1 1 0'])}`), 'stl/number', /"x"/],
  [
    'four corners',
    bytesOf(`solid a\n${facet(['0 0 0', '1 0 0', '1 1 0', '0 1 0'])}`),
    'stl/facet',
    /three corners/,
  ],
  ['no end', bytesOf('solid a\n facet normal 0 0 1\n'), 'stl/truncated', /within a facet/],
])('%s is refused', async (_, bytes, code, message) => {
  const reading = readStl(bytes, { file: 'crate.stl' });
  await expect(reading).rejects.toMatchObject({ code, message: expect.stringMatching(message) as string });
});

test.each<[string, Uint8Array, string]>([
  ['a JSON text', bytesOf(' {"asset":{"version":"2.0"}}'), 'glTF'],
  ['an OBJ', bytesOf('\uFEFFv 0 0 0\nv 1 0 0\nv 0 1 0\nf 1 2 3\n'), 'OBJ'],
  [
    'a PLY',
    bytesOf(
      'ply\r\nformat ascii 1.0\r\nelement vertex 0\r\nproperty float x\r\nproperty float y\r\nproperty float z\r\nend_header\r\n',
    ),
    'PLY',
  ],
  ['an STL', bytesOf(`solid\n${QUAD}endsolid`), 'STL'],
])('%s is told by its contents', async (_, bytes, format) => {
  expect((await readModel(bytes, { file: 'whatever.bin' })).format).toBe(format);
});

test.each<[string, Uint8Array, RegExp]>([
  ['nothing', new Uint8Array(0), /empty/],
  ['a picture', Uint8Array.of(0xff, 0xd8, 0xff, 0xe0, 0, 0), /picture \(image\/jpeg\)/],
  ['a letter', bytesOf('Dear harbour master,\n'), /no model/],
])('%s is no model', async (_, bytes, message) => {
  await expect(readModel(bytes)).rejects.toMatchObject({
    code: 'model/format',
    message: expect.stringMatching(message) as string,
  });
});
