import { createRequire } from 'node:module';
import { plane, triangleCount } from '../../engine.js';
import { attributeFloats, type Geometry } from '../../geometry/geometry.js';
import { readGltf } from '../gltf/read/read.js';
import { decodeDraco } from './decode-draco.js';

/** The package's name of what puts a mesh together. */
const BUILDER = `Mesh${'Builder'}` as const;

/** The package's own encoder, as far as it is used here. */
interface Encoding {
  [BUILDER]: new () => Record<string, (mesh: object, ...rest: unknown[]) => number>;
  Mesh: new () => object;
  Encoder: new () => Record<string, (...rest: unknown[]) => number>;
  DracoInt8Array: new () => { GetValue(at: number): number };
  readonly POSITION: number;
  readonly NORMAL: number;
  readonly GENERIC: number;
}
const draco = await (
  createRequire(import.meta.url)('draco3dgltf') as {
    createEncoderModule(options: object): Promise<Encoding>;
  }
).createEncoderModule({});

const NORMAL_ID = 1;
const grid = plane({ width: 8, depth: 6, cells: [12, 9] });

/** A grid, packed by the package's own encoder. */
function packed(geometry: Geometry): Uint8Array {
  const mesh = new draco.Mesh();
  const builder = new draco[BUILDER]();
  const count = geometry.attributes['position']!.count;
  const indices = Uint32Array.from(geometry.indices!);
  builder['AddFacesToMesh']!(mesh, indices.length / 3, indices);
  builder['AddFloatAttribute']!(
    mesh,
    draco.POSITION,
    count,
    3,
    attributeFloats(geometry.attributes['position']!),
  );
  builder['AddFloatAttribute']!(
    mesh,
    draco.NORMAL,
    count,
    3,
    attributeFloats(geometry.attributes['normal']!),
  );
  builder['AddUInt16Attribute']!(
    mesh,
    draco.GENERIC,
    count,
    1,
    Uint16Array.from({ length: count }, (_, i) => i),
  );
  const encoder = new draco.Encoder();
  encoder['SetAttributeQuantization']!(draco.POSITION, 14);
  const out = new draco.DracoInt8Array();
  const length = encoder['EncodeMeshToDracoBuffer']!(mesh, out);
  return Uint8Array.from({ length }, (_, i) => out.GetValue(i));
}

/** glTF with one packed primitive. */
function document(
  bytes: Uint8Array,
  change: (json: Record<string, never>) => void = () => undefined,
): Uint8Array {
  const count = grid.attributes['position']!.count;
  const json = {
    asset: { version: '2.0' },
    extensionsUsed: ['KHR_draco_mesh_compression'],
    extensionsRequired: ['KHR_draco_mesh_compression'],
    buffers: [
      {
        byteLength: bytes.length,
        uri: `data:application/octet-stream;base64,${Buffer.from(bytes).toString('base64')}`,
      },
    ],
    bufferViews: [{ buffer: 0, byteLength: bytes.length }],
    accessors: [
      { componentType: 5126, type: 'VEC3', count, min: [-4, 0, -3], max: [4, 0, 3] },
      { componentType: 5126, type: 'VEC3', count },
      { componentType: 5123, type: 'SCALAR', count: grid.indices!.length },
      { componentType: 5123, type: 'SCALAR', count },
    ],
    meshes: [
      {
        primitives: [
          {
            attributes: { POSITION: 0, NORMAL: 1, _NUMBER: 3 },
            indices: 2,
            extensions: {
              KHR_draco_mesh_compression: {
                bufferView: 0,
                attributes: { POSITION: 0, NORMAL: NORMAL_ID, _NUMBER: 2 },
              },
            },
          },
        ],
      },
    ],
    nodes: [{ mesh: 0 }],
    scenes: [{ nodes: [0] }],
  };
  change(json as unknown as Record<string, never>);
  return new TextEncoder().encode(JSON.stringify(json));
}

test('a packed grid is the grid again, whatever the order of its vertices', async () => {
  const asset = await readGltf(document(packed(grid)));
  expect(asset.warnings).toEqual([]);
  const { geometry } = asset.meshes[0]!.primitives[0]!;
  expect(triangleCount(geometry)).toBe(12 * 9 * 2);
  expect(geometry.bounds.min.map((v) => Math.round(v))).toEqual([-4, 0, -3]);
  const places = attributeFloats(geometry.attributes['position']!);
  const normals = attributeFloats(geometry.attributes['normal']!);
  const numbers = attributeFloats(geometry.attributes['number']!);
  const given = attributeFloats(grid.attributes['position']!);
  for (let i = 0; i < numbers.length; i++) {
    // Each vertex says which it was: steps are 8 m over 16,384.
    const was = numbers[i]!;
    for (let c = 0; c < 3; c++)
      expect(Math.abs(places[i * 3 + c]! - given[was * 3 + c]!)).toBeLessThan(0.0005);
    expect(normals[i * 3 + 1]).toBeCloseTo(1, 2);
  }
  // And each triangle is one of the grid's, turned the same way.
  const key = (a: number, b: number, c: number): string => {
    const first = Math.min(a, b, c);
    return first === a ? `${a} ${b} ${c}` : first === b ? `${b} ${c} ${a}` : `${c} ${a} ${b}`;
  };
  const triangles = (indices: ArrayLike<number>, name: (i: number) => number): Set<string> => {
    const found = new Set<string>();
    for (let i = 0; i < indices.length; i += 3)
      found.add(key(name(indices[i]!), name(indices[i + 1]!), name(indices[i + 2]!)));
    return found;
  };
  expect(triangles(geometry.indices!, (i) => numbers[i]!)).toEqual(triangles(grid.indices!, (i) => i));
});

test('what is damaged, or of another mesh than the file says, is refused with its place', async () => {
  const bytes = packed(grid);
  const refusal = (file: Uint8Array): Promise<string> =>
    readGltf(file).then(
      () => 'was read',
      (error: { message: string; where: { pointer: string } }) => `${error.where.pointer}: ${error.message}`,
    );
  type Loose = Record<string, { count: number }[] & { primitives: { mode: number }[] }[]>;
  const cut = await refusal(document(bytes.slice(0, bytes.length >> 1)));
  expect(cut).toMatch(
    /^\/meshes\/0\/primitives\/0\/extensions\/KHR_draco_mesh_compression: the packed mesh is damaged/,
  );
  const fewer = await refusal(
    document(bytes, (json) => void ((json as unknown as Loose)['accessors']![0]!.count = 12)),
  );
  expect(fewer).toContain('130 vertices, and 12 were announced');
  const other = await refusal(
    document(bytes, (json) => void ((json as unknown as Loose)['accessors']![2]!.count = 3)),
  );
  expect(other).toContain(
    '/meshes/0/primitives/0/indices: the packed mesh has 648 indices, and the accessor says 3',
  );
  const strip = await refusal(
    document(bytes, (json) => void ((json as unknown as Loose)['meshes']![0]!.primitives[0]!.mode = 5)),
  );
  expect(strip).toContain('primitives of mode 5 are not unpacked');
  await expect(decodeDraco(new Uint8Array(64), [], 10)).rejects.toThrow();
  // And what is whole is read after all that.
  expect((await decodeDraco(bytes, [], 1000)).vertices).toBe(130);
});
