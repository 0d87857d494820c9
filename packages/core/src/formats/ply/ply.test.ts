import { attributeFloats } from '../../geometry/geometry.js';
import { triangleCount } from '../../geometry/triangles.js';
import { readPly } from './read-ply.js';

const bytesOf = (text: string): Uint8Array => new TextEncoder().encode(text);
const joined = (...parts: Uint8Array[]): Uint8Array => Uint8Array.from(parts.flatMap((part) => [...part]));

/** Two triangles that share an edge, with everything out of order. */
const HEADER = (format: string): string =>
  `ply\nformat ${format} 1.0\ncomment a float\nobj_info by hand\nelement face 2\nproperty uchar flag\nproperty list uint8 int vertex_indices\nelement vertex 4\nproperty uchar blue\nproperty float y\nproperty double x\nproperty uchar red\nproperty uchar green\nproperty float32 z\nproperty short quality\nelement skin 1\nproperty list uchar float weights\nproperty int n\nend_header\n`;
const VERTICES: [
  blue: number,
  y: number,
  x: number,
  red: number,
  green: number,
  z: number,
  quality: number,
][] = [
  [0, 0, 0, 255, 128, 0, -7],
  [0, 0, 1, 255, 128, 0, 8],
  [0, 1, 1, 255, 128, 0, 9],
  [0, 1, 0, 255, 128, 0, 10],
];
const FACES = [
  [3, 0, 1, 2],
  [3, 0, 2, 3],
];

function binary(isLittle: boolean): Uint8Array {
  const view = new DataView(new ArrayBuffer(4096));
  let at = 0;
  const put = (kind: 'Uint8' | 'Int16' | 'Int32' | 'Float32' | 'Float64', value: number): void => {
    (view[`set${kind}`] as (at: number, value: number, isLittle: boolean) => void).call(
      view,
      at,
      value,
      isLittle,
    );
    at += Number(/\d+/.exec(kind)![0]) / 8;
  };
  for (const [count, ...corners] of FACES) {
    put('Uint8', 1);
    put('Uint8', count!);
    corners.forEach((corner) => put('Int32', corner));
  }
  for (const [blue, y, x, red, green, z, quality] of VERTICES) {
    put('Uint8', blue);
    put('Float32', y);
    put('Float64', x);
    put('Uint8', red);
    put('Uint8', green);
    put('Float32', z);
    put('Int16', quality);
  }
  put('Uint8', 2);
  put('Float32', 0.5);
  put('Float32', 0.25);
  put('Int32', 3);
  return new Uint8Array(view.buffer, 0, at);
}

const ASCII = joined(
  bytesOf(HEADER('ascii')),
  bytesOf(
    `${FACES.map((face) => `1 ${face.join(' ')}`).join('\n')}\n${VERTICES.map((v) => v.join(' ')).join('\r\n')}\n2 0.5 0.25 3\n`,
  ),
);

test.each<[string, Uint8Array]>([
  ['ascii', ASCII],
  ['little endian', joined(bytesOf(HEADER('binary_little_endian')), binary(true))],
  ['big endian', joined(bytesOf(HEADER('binary_big_endian')), binary(false))],
])('%s: properties in any order, faces before vertices, elements that are passed over', async (_, bytes) => {
  async function* pieces(): AsyncGenerator<Uint8Array> {
    for (let at = 0; at < bytes.length; at += 7) yield bytes.subarray(at, at + 7);
  }
  for (const source of [bytes, pieces()]) {
    const asset = await readPly(source, { file: 'float.ply' });
    const { geometry } = asset.meshes[0]!.primitives[0]!;
    expect([...geometry.indices!]).toEqual([0, 1, 2, 0, 2, 3]);
    expect([...attributeFloats(geometry.attributes['position']!)]).toEqual([
      0, 0, 0, 1, 0, 0, 1, 1, 0, 0, 1, 0,
    ]);
    const color = [...attributeFloats(geometry.attributes['color0']!)].slice(0, 4);
    expect(color).toEqual([1, Math.fround(((128 / 255 + 0.055) / 1.055) ** 2.4), 0, 1]);
    expect([...attributeFloats(geometry.attributes['_quality']!)]).toEqual([-7, 8, 9, 10]);
    expect([...attributeFloats(geometry.attributes['normal']!)].slice(0, 3)).toEqual([0, 0, 1]);
    expect(asset.extras).toEqual({ comments: ['a float', 'by hand'] });
    expect(asset.warnings.map(({ message }) => message)).toEqual(['elements "skin" are passed over']);
  }
});

test('clouds of points, edges and strips', async () => {
  const cloud = await readPly(
    bytesOf(
      'ply\nformat ascii 1.0\nelement vertex 2\nproperty float x\nproperty float y\nproperty float z\nend_header\n1 2 3\n4 5 6\n',
    ),
  );
  expect(cloud.meshes[0]!.primitives[0]!.geometry).toMatchObject({ mode: 'points' });
  expect(cloud.materials[0]).toMatchObject({ unlit: true });
  const vertices =
    'element vertex 5\nproperty float x\nproperty float y\nproperty float z\nproperty float s\nproperty float t\n';
  const places = '0 0 0 0 0\n0 1 0 0 1\n1 0 0 1 0\n1 1 0 1 1\n2 0 0 2 0\n';
  const mixed = await readPly(
    bytesOf(
      `ply\nformat ascii 1.0\n${vertices}element tristrips 1\nproperty list int int vertex_indices\nelement edge 1\nproperty int vertex1\nproperty int vertex2\nend_header\n${places}8 2 1 0 -1 0 2 1 3\n0 4\n`,
    ),
  );
  const [faces, edges] = mixed.meshes[0]!.primitives;
  // By places: x twice and y.
  const p = attributeFloats(faces!.geometry.attributes['position']!);
  expect([...faces!.geometry.indices!].map((v) => p[v * 3]! * 2 + p[v * 3 + 1]!)).toEqual([
    2, 1, 0, 0, 2, 1, 1, 2, 3,
  ]);
  expect(triangleCount(faces!.geometry)).toBe(3);
  expect([...edges!.geometry.indices!]).toEqual([0, 4]);
  // The second vertex of the first triangle: t = 1, turned over.
  expect([...attributeFloats(faces!.geometry.attributes['texcoord0']!)].slice(2, 4)).toEqual([0, 0]);
});

const SMALL =
  'ply\nformat ascii 1.0\nelement vertex 1\nproperty float x\nproperty float y\nproperty float z\n';
test.each<[string, string, string, number | undefined]>([
  ['no format', 'ply\nelement vertex 1\nend_header\n', 'ply/header', 2],
  ['another format', 'ply\nformat morse 1.0\nend_header\n', 'ply/header', 2],
  ['a property too early', 'ply\nformat ascii 1.0\nproperty int x\nend_header\n', 'ply/header', 3],
  [
    'a type that is none',
    'ply\nformat ascii 1.0\nelement vertex 1\nproperty float16 x\nend_header\n',
    'ply/header',
    4,
  ],
  ['no end of the header', 'ply\nformat ascii 1.0\n', 'ply/header', undefined],
  ['no places', 'ply\nformat ascii 1.0\nelement face 0\nend_header\n', 'ply/properties', undefined],
  ['a word for a number', `${SMALL}end_header\n1 two 3\n`, 'ply/number', 8],
  ['a short line', `${SMALL}end_header\n1 2\n`, 'ply/number', 8],
  ['a short file', `${SMALL}end_header\n`, 'ply/truncated', undefined],
  [
    'a vertex that is not there',
    `${SMALL}element face 1\nproperty list uchar int vertex_index\nend_header\n1 2 3\n3 0 0 1\n`,
    'ply/index',
    11,
  ],
  [
    'an endless list',
    `${SMALL}element face 1\nproperty list int int vertex_index\nend_header\n1 2 3\n-1 0 0 1\n`,
    'ply/number',
    11,
  ],
])('%s is refused', async (_, text, code, line) => {
  await expect(readPly(bytesOf(text), { file: 'float.ply' })).rejects.toMatchObject({
    code,
    where: { file: 'float.ply', ...(line === undefined ? {} : { line }) },
  });
});

test('binary files that lie about themselves end with the byte', async () => {
  const header = bytesOf(HEADER('binary_little_endian'));
  const data = binary(true);
  data[1] = 200;
  await expect(readPly(joined(header, data))).rejects.toThrow(/ends at byte \d+ with 0 of 2 elements "face"/);
  await expect(readPly(joined(header, binary(true).subarray(0, 30)))).rejects.toMatchObject({
    code: 'ply/truncated',
  });
});
