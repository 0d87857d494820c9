import validator from 'gltf-validator';
import { attributeFloats, attributeFrom, geometryFrom, readGltf, writeGlb, writeGltf } from '../../engine.js';
import { onlyPrimitive, richAsset } from '../../../../../tests/gltf-documents.js';

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

  test('morph targets that move little are written by what they move, and read back to the bit', async () => {
    const count = 399;
    const still = new Float32Array(count * 3);
    const some = still.slice();
    some.set([0.25, -0.5, 1e-7], 30);
    some.set([0, -0, 2], 900);
    const all = Float32Array.from(still, (_, i) => Math.sin(i + 1));
    const small = new Int16Array(count * 4);
    small.set([300, -20, 7, 0], 40);
    const quantised = {
      ...attributeFrom(still, 3),
      bytes: new Uint8Array(small.buffer),
      componentType: 'i16',
      normalized: true,
      byteStride: 8,
    } as const;
    const given = [attributeFrom(still, 3), attributeFrom(some, 3), attributeFrom(all, 3), quantised];
    const geometry = {
      ...geometryFrom({ position: all }),
      targets: given.map((position, i) => ({ name: `target ${i}`, attributes: { position } })),
    };
    const asset = { nodes: [{ name: 'face', children: [], mesh: { primitives: [{ geometry }] } }] };
    const glb = writeGlb(asset);
    const report = await validator.validateBytes(glb);
    expect(report.issues.messages.filter((m: { severity: number }) => m.severity <= 1)).toEqual([]);
    const json = JSON.parse(
      new TextDecoder().decode(glb.subarray(20, 20 + new DataView(glb.buffer).getUint32(12, true))),
    ) as {
      accessors: { bufferView?: number; sparse?: { count: number } }[];
      meshes: { primitives: { targets: { POSITION: number }[] }[] }[];
    };
    const accessors = json.meshes[0]!.primitives[0]!.targets.map(({ POSITION }) => json.accessors[POSITION]!);
    expect(accessors.map(({ bufferView, sparse }) => [bufferView !== undefined, sparse?.count])).toEqual([
      [false, undefined],
      [false, 2],
      [true, undefined],
      [false, 1],
    ]);
    const read = onlyPrimitive(await readGltf(glb)).geometry.targets!;
    read.forEach(({ attributes }, i) => {
      const [one, other] = [attributes['position']!, given[i]!].map(attributeFloats);
      expect(new Uint32Array(one!.slice().buffer)).toEqual(new Uint32Array(other!.slice().buffer));
    });
  });
});

test('pictures beside a model have names of their own, in its folder', async () => {
  const { readGltf } = await import('./read/read.js');
  const { writeGltf } = await import('./write/write.js');
  const picture = (more: object, last: number): object => ({
    ...more,
    content: {
      kind: 'encoded',
      mimeType: 'image/png',
      bytes: Uint8Array.of(0x89, 0x50, 0x4e, 0x47, 0x0d, 0x0a, 0x1a, 0x0a, last),
    },
  });
  const images = [
    picture({ name: 'rope' }, 1),
    picture({ name: 'rope' }, 2),
    picture({ name: '../../rope' }, 3),
    picture({ uri: '../outside.png', name: 'inside' }, 4),
    picture({ uri: 'maps/rope.png' }, 5),
    picture({}, 6),
  ] as never[];
  const files = writeGltf({ nodes: [], images }, 'quay');
  expect([...files.keys()]).toEqual([
    'quay.gltf',
    'quay-rope.png',
    'quay-rope 2.png',
    'quay---..-rope.png',
    'quay-inside.png',
    'maps/rope.png',
    'quay-5.png',
  ]);
  const again = await readGltf(files.get('quay.gltf')!, {
    resolve: (path) => Promise.resolve(files.get(path)!),
  });
  expect(again.images.map(({ content }) => content.kind === 'encoded' && content.bytes[8])).toEqual([
    1, 2, 3, 4, 5, 6,
  ]);
});
