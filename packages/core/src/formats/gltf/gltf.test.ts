import { readFileSync } from 'node:fs';
import fc from 'fast-check';
import validator from 'gltf-validator';
import {
  attributeFloats,
  box,
  withTangents,
  facing,
  LensError,
  type Material,
  type ModelAsset,
  placeAsset,
  readGltf,
  Scene,
  sphere,
  triangleCount,
  turning,
  type WritableAsset,
  writeGlb,
  writeGltf,
} from '../../index.js';

const text = (value: unknown): Uint8Array =>
  new TextEncoder().encode(typeof value === 'string' ? value : JSON.stringify(value));
const base64 = (bytes: ArrayBufferView): string =>
  Buffer.from(bytes.buffer, bytes.byteOffset, bytes.byteLength).toString('base64');
const asset = { version: '2.0' };

/** A document whose one buffer holds the given arrays one after the other, a view each. */
function documentOf(arrays: ArrayBufferView[], rest: Record<string, unknown>): Record<string, unknown> {
  const chunks = arrays.map((a) => new Uint8Array(a.buffer, a.byteOffset, a.byteLength));
  let at = 0;
  const bufferViews = chunks.map((chunk) => {
    const view = { buffer: 0, byteOffset: at, byteLength: chunk.length };
    at += (chunk.length + 3) & ~3;
    return view;
  });
  const whole = new Uint8Array(at);
  chunks.forEach((chunk, i) => whole.set(chunk, bufferViews[i]!.byteOffset));
  return {
    asset,
    buffers: [{ byteLength: at, uri: `data:application/octet-stream;base64,${base64(whole)}` }],
    bufferViews,
    ...rest,
  };
}

const TRIANGLE = new Float32Array([0, 0, 0, 1, 0, 0, 0, 1, 0]);
const positions = {
  bufferView: 0,
  componentType: 5126,
  count: 3,
  type: 'VEC3',
  min: [0, 0, 0],
  max: [1, 1, 0],
};
const triangle = (more: Record<string, unknown> = {}): Record<string, unknown> =>
  documentOf([TRIANGLE], {
    accessors: [positions],
    meshes: [{ primitives: [{ attributes: { POSITION: 0 } }] }],
    nodes: [{ mesh: 0 }],
    scenes: [{ nodes: [0] }],
    scene: 0,
    ...more,
  });

const read = (document: unknown, options = {}): Promise<ModelAsset> =>
  readGltf(text(document), { file: 'test.gltf', ...options });
const onlyPrimitive = (model: ModelAsset): ModelAsset['meshes'][0]['primitives'][0] =>
  model.meshes[0]!.primitives[0]!;

describe('reading', () => {
  test('a triangle from a data URI', async () => {
    const model = await read(triangle());
    const { geometry } = onlyPrimitive(model);
    expect([...attributeFloats(geometry.attributes['position']!)]).toEqual([...TRIANGLE]);
    expect(geometry.bounds).toEqual({ min: [0, 0, 0], max: [1, 1, 0] });
    expect(model.warnings).toEqual([]);
  });

  test('external files with percent-encoded names, resolved relative to the model', async () => {
    const asked: string[] = [];
    const document = triangle();
    document['buffers'] = [{ byteLength: 36, uri: 'old%20dock/ropes%2Bcrates.bin' }];
    await read(document, {
      resolve: (path: string) => {
        asked.push(path);
        return Promise.resolve(new Uint8Array(TRIANGLE.buffer));
      },
    });
    expect(asked).toEqual(['old dock/ropes+crates.bin']);
  });

  test.each([
    [5120, new Int8Array([127, -128, 64]), true, [1, -1, 64 / 127]],
    [5121, new Uint8Array([255, 0, 51]), true, [1, 0, 0.2]],
    [5122, new Int16Array([32767, -32768, 0]), true, [1, -1, 0]],
    [5123, new Uint16Array([65535, 13107, 0]), true, [1, 0.2, 0]],
    [5121, new Uint8Array([255, 7, 0]), false, [255, 7, 0]],
    [5126, new Float32Array([0.5, -2, 9]), false, [0.5, -2, 9]],
  ])('component type %i', async (componentType, values, normalized, expected) => {
    const stride = Math.max(4, values.BYTES_PER_ELEMENT);
    const spread = new Uint8Array(stride * 3);
    for (let i = 0; i < 3; i++) {
      spread.set(
        new Uint8Array(values.buffer, i * values.BYTES_PER_ELEMENT, values.BYTES_PER_ELEMENT),
        i * stride,
      );
    }
    const document = documentOf([TRIANGLE, spread], {
      accessors: [positions, { bufferView: 1, componentType, normalized, count: 3, type: 'SCALAR' }],
      meshes: [{ primitives: [{ attributes: { POSITION: 0, _SWAY_PHASE: 1 } }] }],
    });
    (document['bufferViews'] as Record<string, unknown>[])[1]!['byteStride'] = stride;
    const attribute = onlyPrimitive(await read(document)).geometry.attributes['swayPhase']!;
    attributeFloats(attribute).forEach((value, i) => expect(value).toBeCloseTo(expected[i]!, 6));
  });

  test('interleaved attributes share one region of bytes', async () => {
    const vertex = (x: number): number[] => [x, 0, 0, 0, 0, 1];
    const document = documentOf([new Float32Array([...vertex(0), ...vertex(1), ...vertex(2)])], {
      accessors: [
        { ...positions, max: [2, 0, 0] },
        { bufferView: 0, byteOffset: 12, componentType: 5126, count: 3, type: 'VEC3' },
      ],
      meshes: [{ primitives: [{ attributes: { POSITION: 0, NORMAL: 1 } }] }],
    });
    (document['bufferViews'] as Record<string, unknown>[])[0]!['byteStride'] = 24;
    const { position, normal } = onlyPrimitive(await read(document)).geometry.attributes;
    expect(position!.bytes).toBe(normal!.bytes);
    expect([...attributeFloats(position!)]).toEqual([0, 0, 0, 1, 0, 0, 2, 0, 0]);
    expect([...attributeFloats(normal!)]).toEqual([0, 0, 1, 0, 0, 1, 0, 0, 1]);
  });

  test('sparse accessors, over a view and over nothing', async () => {
    const sparse = {
      count: 1,
      indices: { bufferView: 1, componentType: 5123 },
      values: { bufferView: 2 },
    };
    const document = documentOf([TRIANGLE, new Uint16Array([2]), new Float32Array([7, 8, 9])], {
      accessors: [
        { ...positions, max: [7, 8, 9], sparse },
        { componentType: 5126, count: 3, type: 'VEC3', sparse },
      ],
      meshes: [{ primitives: [{ attributes: { POSITION: 0, NORMAL: 1 } }] }],
    });
    const { position, normal } = onlyPrimitive(await read(document)).geometry.attributes;
    expect([...attributeFloats(position!)]).toEqual([0, 0, 0, 1, 0, 0, 7, 8, 9]);
    expect([...attributeFloats(normal!)]).toEqual([0, 0, 0, 0, 0, 0, 7, 8, 9]);
  });

  test.each([
    [5121, new Uint8Array([0, 1, 2]), Uint16Array],
    [5123, new Uint16Array([0, 1, 2]), Uint16Array],
    [5125, new Uint32Array([0, 1, 2]), Uint32Array],
  ])('indices of component type %i', async (componentType, values, Kind) => {
    const document = documentOf([TRIANGLE, values], {
      accessors: [positions, { bufferView: 1, componentType, count: 3, type: 'SCALAR' }],
      meshes: [{ primitives: [{ attributes: { POSITION: 0 }, indices: 1 }] }],
    });
    const { indices } = onlyPrimitive(await read(document)).geometry;
    expect(indices).toBeInstanceOf(Kind);
    expect([...indices!]).toEqual([0, 1, 2]);
  });

  test.each(['points', 'lines', 'line-loop', 'line-strip', undefined, 'triangle-strip', 'triangle-fan'])(
    'mode %s',
    async (mode) => {
      const number = [
        'points',
        'lines',
        'line-loop',
        'line-strip',
        undefined,
        'triangle-strip',
        'triangle-fan',
      ].indexOf(mode);
      const model = await read(
        triangle({ meshes: [{ primitives: [{ attributes: { POSITION: 0 }, mode: number }] }] }),
      );
      expect(onlyPrimitive(model).geometry.mode).toBe(mode);
      expect(triangleCount(onlyPrimitive(model).geometry)).toBe(number >= 4 ? 1 : 0);
    },
  );

  test('morph targets, skins and animations', async () => {
    const matrices = new Float32Array([1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0, 0, -1, 0, 1]);
    const document = documentOf(
      [TRIANGLE, matrices, new Float32Array([0, 1.5]), new Float32Array([0, 1, 1, 0])],
      {
        accessors: [
          positions,
          { bufferView: 1, componentType: 5126, count: 1, type: 'MAT4' },
          { bufferView: 2, componentType: 5126, count: 2, type: 'SCALAR', min: [0], max: [1.5] },
          { bufferView: 3, componentType: 5126, count: 4, type: 'SCALAR' },
        ],
        meshes: [
          {
            primitives: [{ attributes: { POSITION: 0 }, targets: [{ POSITION: 0 }, { POSITION: 0 }] }],
            extras: { targetNames: ['open', 'shut'] },
          },
        ],
        nodes: [{ mesh: 0, skin: 0, weights: [0.25, 0.75] }, { name: 'claw' }],
        scenes: [{ nodes: [0, 1] }],
        skins: [{ joints: [1], inverseBindMatrices: 1 }],
        animations: [
          {
            name: 'snap',
            samplers: [{ input: 2, output: 3, interpolation: 'STEP' }],
            channels: [{ sampler: 0, target: { node: 0, path: 'weights' } }],
          },
        ],
      },
    );
    const model = await read(document);
    expect(onlyPrimitive(model).geometry.targets!.map((t) => t.name)).toEqual(['open', 'shut']);
    expect(model.nodes[0]!.skin!.joints).toEqual([model.nodes[1]]);
    expect([...model.skins[0]!.inverseBindMatrices!]).toEqual([...matrices]);
    expect(model.animations[0]).toMatchObject({ name: 'snap', duration: 1.5 });
    expect(model.animations[0]!.channels[0]).toMatchObject({
      path: 'weights',
      sampler: { interpolation: 'step', components: 2, input: new Float32Array([0, 1.5]) },
    });
    expect(model.warnings).toEqual([]);
  });

  test('an unknown extension only warns; an unnormalised rotation is brought to length 1', async () => {
    const model = await read(
      triangle({ extensionsUsed: ['ACME_foam'], nodes: [{ mesh: 0, rotation: [0, 0, 0, 2] }] }),
    );
    expect(model.warnings.map((w) => [w.code, w.where.pointer])).toEqual([
      ['gltf/extension-unknown', '/extensionsUsed/0'],
      ['gltf/rotation', '/nodes/0/rotation'],
    ]);
    expect(model.nodes[0]!.rotation).toEqual([0, 0, 0, 1]);
  });

  test('unused parts are warned about, and which', async () => {
    const model = await read(
      triangle({ materials: [{ name: 'spare' }], nodes: [{ mesh: 0 }, { name: 'adrift' }] }),
    );
    expect(model.warnings.map((w) => w.message)).toEqual([
      '1 node is never used, the first is node 1',
      '1 material is never used, the first is material 0',
    ]);
  });

  test('a model placed twice shares its vertex data', async () => {
    const model = await read(triangle());
    const scene = new Scene();
    const [a, b] = [placeAsset(model, scene, { name: 'a' }), placeAsset(model, scene, { name: 'b' })];
    const mesh = (placed: typeof a): unknown =>
      [...placed.node.children()][0]!.mesh!.primitives[0]!.geometry.attributes['position']!.bytes;
    expect(mesh(a)).toBe(mesh(b));
    expect(mesh(a)).toBe(onlyPrimitive(model).geometry.attributes['position']!.bytes);
  });

  test('a chain of 20,000 nodes is placed without running out of stack', async () => {
    const nodes = Array.from({ length: 20_000 }, (_, i) =>
      i < 19_999 ? { children: [i + 1] } : { mesh: 0 },
    );
    const scene = new Scene();
    placeAsset(await read(triangle({ nodes })), scene);
    expect(scene.nodeCount).toBe(20_001);
  });
});

/** Everything the writer knows, by the standard body's validator and by our own reader. */
function richAsset(): WritableAsset {
  const png = readFileSync(new URL('../../../../../tests/fixtures/pixel.png', import.meta.url));
  const texture = {
    name: 'tint',
    image: {
      name: 'pixel',
      content: { kind: 'encoded' as const, mimeType: 'image/png', bytes: new Uint8Array(png) },
    },
    sampler: {
      magFilter: 'nearest' as const,
      minFilter: 'linear' as const,
      mipmapFilter: 'nearest' as const,
      wrapS: 'clamp-to-edge' as const,
      wrapT: 'mirror-repeat' as const,
    },
  };
  const material: Material = {
    name: 'glaze',
    baseColorFactor: [0.5, 0.25, 0.125, 0.5],
    baseColorTexture: { texture, transform: { offset: [0.5, 0.25], rotation: 0.5, scale: [2, 3] } },
    metallicFactor: 0.5,
    roughnessFactor: 0.25,
    metallicRoughnessTexture: { texture },
    normalTexture: { texture, strength: 0.5 },
    occlusionTexture: { texture, strength: 0.75 },
    emissiveFactor: [1, 0.5, 0],
    emissiveStrength: 4,
    alphaMode: 'mask',
    alphaCutoff: 0.25,
    doubleSided: true,
    extras: { glazed: true },
  };
  const mesh = {
    name: 'pot',
    primitives: [
      { geometry: withTangents(box()), material },
      { geometry: sphere(), material: { name: 'flat', unlit: true } },
    ],
  };
  const child = { name: 'twin', children: [], mesh, scale: [1, 2, -1] as [number, number, number] };
  const top = {
    name: 'top',
    children: [child],
    mesh,
    rotation: turning([0, 1, 0], 1),
    translation: [1, 2, 3] as [number, number, number],
    extras: [1, 'two'],
  };
  const eye = {
    name: 'eye',
    children: [],
    camera: { type: 'perspective' as const, yfov: 0.5, znear: 0.25, zfar: 50, aspectRatio: 2 },
  };
  const flat = {
    name: 'plan',
    children: [],
    camera: { type: 'orthographic' as const, xmag: 2, ymag: 3, znear: 0, zfar: 9 },
  };
  const lamp = {
    name: 'lamp',
    children: [],
    rotation: facing([0, -1, 0]),
    light: {
      type: 'spot' as const,
      color: [1, 0.5, 0.25] as [number, number, number],
      intensity: 8,
      range: 5,
      innerConeAngle: 0.25,
      outerConeAngle: 0.5,
    },
  };
  const animation = {
    name: 'spin',
    duration: 2,
    channels: [
      {
        target: top,
        path: 'translation' as const,
        sampler: {
          interpolation: 'linear' as const,
          input: new Float32Array([0, 2]),
          output: new Float32Array([0, 0, 0, 1, 1, 1]),
          components: 3,
        },
      },
    ],
  };
  return {
    nodes: [top, child, eye, flat, lamp],
    scenes: [{ name: 'all', nodes: [top, eye, flat, lamp] }],
    animations: [animation],
  };
}

describe('writing', () => {
  test("what is written passes the standard body's validator without errors or warnings", async () => {
    const report = await validator.validateBytes(writeGlb(richAsset()));
    expect(report.issues.messages.filter((m: { severity: number }) => m.severity <= 1)).toEqual([]);
  });

  test.each(['glb', 'gltf'])('reading it back as %s gives the same model', async (form) => {
    const before = richAsset();
    const files = writeGltf(before, 'pot');
    const after =
      form === 'glb'
        ? await readGltf(writeGlb(before))
        : await readGltf(files.get('pot.gltf')!, { resolve: (path) => Promise.resolve(files.get(path)!) });
    expect(after.warnings).toEqual([]);
    expect(after.nodes.map((n) => n.name)).toEqual(before.nodes.map((n) => n.name));
    expect(after.nodes[0]).toMatchObject({ translation: [1, 2, 3], extras: [1, 'two'] });
    expect(after.nodes[0]!.mesh).toBe(after.nodes[1]!.mesh);
    const [material] = after.materials;
    const given = before.nodes[0]!.mesh!.primitives[0]!.material!;
    const { baseColorTexture: a, ...plain } = given;
    const withoutTextures = Object.fromEntries(Object.entries(plain).filter(([k]) => !k.endsWith('Texture')));
    expect(material).toMatchObject(withoutTextures);
    expect(material!.baseColorTexture!.transform).toEqual(a!.transform);
    expect(material!.baseColorTexture!.texture.sampler).toEqual(a!.texture.sampler);
    expect(material!.normalTexture!.strength).toBe(0.5);
    expect(after.materials[1]!.unlit).toBe(true);
    expect(after.cameras).toEqual([before.nodes[2]!.camera, before.nodes[3]!.camera]);
    expect(after.lights).toEqual([before.nodes[4]!.light]);
    expect(after.animations[0]!.channels[0]!.target).toBe(after.nodes[0]);
    for (const [name, attribute] of Object.entries(
      before.nodes[0]!.mesh!.primitives[0]!.geometry.attributes,
    )) {
      expect(attributeFloats(onlyPrimitive(after).geometry.attributes[name]!)).toEqual(
        attributeFloats(attribute),
      );
    }
  });

  test('the same asset gives the same bytes', () => {
    expect(writeGlb(richAsset())).toEqual(writeGlb(richAsset()));
  });
});

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
    await fc.assert(
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
    await fc.assert(
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
