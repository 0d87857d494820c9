import fc from 'fast-check';
import { holds } from '../../../../../tests/holds.js';
import { box, LensError, placeAsset, readGltf, Scene, type WritableAsset, writeGlb } from '../../engine.js';
import {
  text,
  asset,
  documentOf,
  TRIANGLE,
  positions,
  triangle,
  read,
} from '../../../../../tests/gltf-documents.js';

const glb = (change: (view: DataView, bytes: Uint8Array) => void): Uint8Array => {
  const bytes = writeGlb({
    nodes: [{ name: 'a', children: [], mesh: { primitives: [{ geometry: box() }] } }],
  });
  change(new DataView(bytes.buffer), bytes);
  return bytes;
};
const refused = async (bytes: Uint8Array | Record<string, unknown>, options = {}): Promise<LensError> => {
  const given = bytes instanceof Uint8Array ? bytes : text(bytes);
  return readGltf(given, { file: 'bad.gltf', ...options }).then(
    () => {
      throw new Error('it was read without an error');
    },
    (error: unknown) => error as LensError,
  );
};
const withAccessor = (change: Record<string, unknown>): Record<string, unknown> =>
  triangle({ accessors: [{ ...positions, ...change }] });
const withView = (change: Record<string, unknown>): Record<string, unknown> => {
  const document = triangle();
  Object.assign((document['bufferViews'] as Record<string, unknown>[])[0]!, change);
  return document;
};
const nan = new Float32Array([0, 0, 0, 1, Number.NaN, 0, 0, 1, 0]);
const indexed = (...indices: number[]): Record<string, unknown> =>
  documentOf([TRIANGLE, new Uint16Array(indices)], {
    accessors: [positions, { bufferView: 1, componentType: 5123, count: indices.length, type: 'SCALAR' }],
    meshes: [{ primitives: [{ attributes: { POSITION: 0 }, indices: 1 }] }],
  });

describe('refusing', () => {
  test.each<[string, Uint8Array | Record<string, unknown>, string, string | undefined]>([
    ['an empty file', new Uint8Array(0), 'gltf/empty', undefined],
    ['a picture', new Uint8Array([0x89, 0x50, 0x4e, 0x47, 13, 10, 26, 10]), 'gltf/not-gltf', undefined],
    ['a wrong GLB version', glb((v) => v.setUint32(4, 3, true)), 'glb/version', undefined],
    ['a GLB cut short', glb(() => undefined).subarray(0, 900), 'glb/length', undefined],
    ['a GLB of 12 bytes', glb(() => undefined).subarray(0, 12), 'glb/truncated', undefined],
    ['a chunk longer than the file', glb((v) => v.setUint32(12, 0x7fffffff, true)), 'glb/chunk', undefined],
    ['a first chunk that is not JSON', glb((v) => v.setUint32(16, 1, true)), 'glb/chunk', undefined],
    ['a missing asset', { scenes: [] }, 'gltf/missing', ''],
    ['glTF 1.0', { asset: { version: '1.0' } }, 'gltf/version', '/asset'],
    [
      'a required extension',
      { asset, extensionsRequired: ['ACME_foam'] },
      'gltf/extension-required',
      '/extensionsRequired/0',
    ],
    ['a missing componentType', withAccessor({ componentType: undefined }), 'gltf/missing', '/accessors/0'],
    [
      'an unknown componentType',
      withAccessor({ componentType: 5124 }),
      'gltf/choice',
      '/accessors/0/componentType',
    ],
    ['a count near 2^31', withAccessor({ count: 2147483647 }), 'gltf/accessor-out-of-bounds', '/accessors/0'],
    [
      'a count near 2^31 without a view',
      withAccessor({ count: 2147483647, bufferView: undefined }),
      'gltf/too-large',
      '/accessors/0',
    ],
    ['a count of half a vertex', withAccessor({ count: 2.5 }), 'gltf/type', '/accessors/0/count'],
    [
      'an infinite number',
      text(JSON.stringify(withAccessor({})).replace('"min":[0', '"min":[1e999')),
      'gltf/not-finite',
      '/accessors/0/min/0',
    ],
    ['a misaligned accessor', withAccessor({ byteOffset: 2, count: 2 }), 'gltf/alignment', '/accessors/0'],
    ['overlapping elements', withView({ byteStride: 8 }), 'gltf/stride', '/bufferViews/0'],
    ['a stride of 6', withView({ byteStride: 6 }), 'gltf/alignment', '/bufferViews/0/byteStride'],
    ['a view beyond its buffer', withView({ byteLength: 40 }), 'gltf/view-out-of-bounds', '/bufferViews/0'],
    [
      'a buffer shorter than it says',
      triangle({ buffers: [{ byteLength: 36, uri: 'data:;base64,AAAA' }] }),
      'gltf/buffer-short',
      '/buffers/0',
    ],
    [
      'damaged base64',
      triangle({ buffers: [{ byteLength: 36, uri: 'data:;base64,A*==' }] }),
      'gltf/data-uri',
      '/buffers/0/uri',
    ],
    [
      'NaN in the vertices',
      documentOf([nan], {
        accessors: [positions],
        meshes: [{ primitives: [{ attributes: { POSITION: 0 } }] }],
      }),
      'gltf/not-finite',
      '/accessors/0',
    ],
    ['an index naming no vertex', indexed(0, 1, 3), 'gltf/index-names-no-vertex', '/accessors/1'],
    [
      'a mesh that does not exist',
      triangle({ nodes: [{ mesh: 4 }] }),
      'gltf/index-out-of-range',
      '/nodes/0/mesh',
    ],
    ['a negative index', triangle({ nodes: [{ mesh: -1 }] }), 'gltf/range', '/nodes/0/mesh'],
    [
      'a texture that does not exist',
      triangle({ materials: [{ normalTexture: { index: 0 } }] }),
      'gltf/index-out-of-range',
      '/materials/0/normalTexture/index',
    ],
    ['a scene that does not exist', triangle({ scene: 9 }), 'gltf/index-out-of-range', '/scene'],
    [
      'a node below itself',
      triangle({ nodes: [{ children: [1] }, { children: [0] }], scenes: [], scene: undefined }),
      'gltf/cycle',
      '/nodes/0',
    ],
    [
      'a node with two parents',
      triangle({ nodes: [{ children: [2] }, { children: [2] }, {}] }),
      'gltf/two-parents',
      '/nodes/1/children/0',
    ],
    [
      'a rotation of zero length',
      triangle({ nodes: [{ rotation: [0, 0, 0, 0] }] }),
      'gltf/range',
      '/nodes/0/rotation',
    ],
    [
      'a matrix and a translation',
      triangle({
        nodes: [{ matrix: [1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1], translation: [0, 0, 0] }],
      }),
      'gltf/transform',
      '/nodes/0',
    ],
    [
      'a damaged image',
      triangle({ images: [{ uri: 'data:image/png;base64,AAAA' }] }),
      'gltf/image',
      '/images/0',
    ],
    [
      'a path upwards',
      triangle({ buffers: [{ byteLength: 36, uri: '..%2Fsecret.bin' }] }),
      'gltf/uri-outside',
      '/buffers/0/uri',
    ],
    [
      'an absolute path',
      triangle({ buffers: [{ byteLength: 36, uri: '/etc/passwd' }] }),
      'gltf/uri-outside',
      '/buffers/0/uri',
    ],
    [
      'a file: URI',
      triangle({ buffers: [{ byteLength: 36, uri: 'file:///etc/passwd' }] }),
      'gltf/uri-outside',
      '/buffers/0/uri',
    ],
    [
      'the network',
      triangle({ buffers: [{ byteLength: 36, uri: 'https://elsewhere.invalid/a.bin' }] }),
      'gltf/uri-outside',
      '/buffers/0/uri',
    ],
    [
      'attributes of different counts',
      documentOf([TRIANGLE, TRIANGLE], {
        accessors: [positions, { ...positions, bufferView: 1, count: 2 }],
        meshes: [{ primitives: [{ attributes: { POSITION: 0, NORMAL: 1 } }] }],
      }),
      'gltf/count',
      '/meshes/0/primitives/0/attributes/NORMAL',
    ],
    [
      'a string for a number',
      triangle({ nodes: [{ translation: [0, '1', 0] }] }),
      'gltf/type',
      '/nodes/0/translation/1',
    ],
    ['null for an object', triangle({ nodes: [null] }), 'gltf/type', '/nodes/0'],
    [
      'a camera that sees nothing',
      triangle({ cameras: [{ type: 'perspective', perspective: { yfov: 4, znear: 1 } }] }),
      'gltf/range',
      '/cameras/0/perspective/yfov',
    ],
  ])('%s', async (_, bytes, code, pointer) => {
    const error = await refused(bytes);
    expect(error).toBeInstanceOf(LensError);
    expect(error.code).toBe(code);
    expect(error.where.file).toBe('bad.gltf');
    if (pointer !== undefined) expect(error.where.pointer).toBe(pointer);
  });

  test('broken JSON, with line and column', async () => {
    const error = await refused(text('{\n  "asset": { "version": "2.0" },\n  "nodes": [ {} {} ]\n}'));
    expect(error).toMatchObject({ code: 'gltf/json', where: { line: 3, column: 17 } });
  });

  test('JSON nested a million deep', async () => {
    expect((await refused(text('{"a":' + '['.repeat(1_000_000)))).code).toBe('gltf/json');
  });

  test('a missing external file is the resolver’s own error', async () => {
    const document = triangle({ buffers: [{ byteLength: 36, uri: 'gone.bin' }] });
    expect((await refused(document)).message).toContain('"gone.bin"');
    const error = await refused(document, {
      resolve: () => Promise.reject(new LensError('file/missing', 'not there')),
    });
    expect(error.code).toBe('file/missing');
  });

  test('outside files are read when allowed', async () => {
    const document = triangle({ buffers: [{ byteLength: 36, uri: '../shared/a.bin' }] });
    const model = await read(document, {
      allowOutside: true,
      resolve: () => Promise.resolve(new Uint8Array(TRIANGLE.buffer)),
    });
    expect(model.meshes).toHaveLength(1);
  });

  const seed = writeGlb(richAssetWithoutFiles());
  test('bytes changed anywhere give a model or a LensError, in bounded time', async () => {
    await holds(
      fc.asyncProperty(
        fc.array(fc.tuple(fc.nat(seed.length - 1), fc.nat(255)), { minLength: 1, maxLength: 12 }),
        fc.option(fc.nat(seed.length)),
        async (changes, cut) => {
          const bytes = seed.slice(0, cut ?? seed.length);
          for (const [at, value] of changes) if (at < bytes.length) bytes[at] = value;
          try {
            const model = await readGltf(bytes);
            const scene = new Scene();
            placeAsset(model, scene);
            scene.update();
          } catch (error) {
            expect(error).toBeInstanceOf(LensError);
          }
        },
      ),
      { numRuns: 400 },
    );
  });

  test('JSON values exchanged anywhere give a model or a LensError', async () => {
    const original = Buffer.from(
      seed.subarray(20, 20 + new DataView(seed.buffer).getUint32(12, true)),
    ).toString();
    const binary = seed.subarray(28 + original.length);
    const strange = fc.constantFrom<unknown>(
      null,
      -1,
      0,
      1,
      2 ** 31,
      1.5,
      1e300,
      '',
      'POSITION',
      true,
      [],
      {},
      [0],
      [[]],
    );
    await holds(
      fc.asyncProperty(fc.nat(2000), strange, async (which, value) => {
        const document = JSON.parse(original) as Record<string, unknown>;
        (document['buffers'] as Record<string, unknown>[])[0]!['uri'] = 'a.bin';
        replaceNth(document, which, value);
        try {
          placeAsset(await read(document, { resolve: () => Promise.resolve(binary) }), new Scene());
        } catch (error) {
          expect(error).toBeInstanceOf(LensError);
        }
      }),
      { numRuns: 600 },
    );
  });
});

function richAssetWithoutFiles(): WritableAsset {
  const mesh = {
    name: 'pot',
    primitives: [{ geometry: box(), material: { name: 'm', metallicFactor: 0.5 } }],
  };
  const child = { name: 'b', children: [], mesh };
  return {
    nodes: [{ name: 'a', children: [child] }, child, { name: 'l', children: [], light: { type: 'point' } }],
  };
}

/** Exchanges the nth value met in a walk (modulo their number) for another. */
function replaceNth(document: unknown, which: number, value: unknown): void {
  const places: [Record<string, unknown>, string][] = [];
  const walk = (at: unknown): void => {
    if (typeof at !== 'object' || at === null) return;
    for (const key of Object.keys(at)) {
      places.push([at as Record<string, unknown>, key]);
      walk((at as Record<string, unknown>)[key]);
    }
  };
  walk(document);
  const [holder, key] = places[which % places.length]!;
  holder[key] = value;
}
