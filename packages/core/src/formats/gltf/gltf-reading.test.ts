import { attributeFloats, placeAsset, Scene, triangleCount } from '../../engine.js';
import {
  documentOf,
  TRIANGLE,
  positions,
  triangle,
  read,
  onlyPrimitive,
} from '../../../../../tests/gltf-documents.js';

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
