import { writeGlb } from '../write/write.js';
import { readGltf } from '../read/read.js';

const PNG =
  'iVBORw0KGgoAAAANSUhEUgAAAAEAAAABCAYAAAAfFcSJAAAADUlEQVR42mNk+M9QDwADhgGAWjR9awAAAABJRU5ErkJggg==';

/** Tables of properties with strings, textures of properties, and what primitives say of them. */
const DOCUMENT = {
  asset: { version: '2.0' },
  extensionsUsed: ['EXT_structural_metadata', 'EXT_mesh_features'],
  buffers: [
    {
      byteLength: 72,
      uri: `data:application/octet-stream;base64,${Buffer.concat([
        Buffer.from(Float32Array.of(0, 0, 0, 1, 0, 0, 0, 1, 0).buffer),
        Buffer.from(Float32Array.of(0, 1, 1).buffer),
        Buffer.from('quaybuoy'),
        Buffer.from(Uint32Array.of(0, 4, 8).buffer),
        Buffer.alloc(4),
      ]).toString('base64')}`,
    },
  ],
  bufferViews: [
    { buffer: 0, byteLength: 36 },
    { buffer: 0, byteOffset: 36, byteLength: 12 },
    { buffer: 0, byteOffset: 48, byteLength: 8 },
    { buffer: 0, byteOffset: 56, byteLength: 12 },
  ],
  accessors: [
    { bufferView: 0, componentType: 5126, type: 'VEC3', count: 3, min: [0, 0, 0], max: [1, 1, 0] },
    { bufferView: 1, componentType: 5126, type: 'SCALAR', count: 3 },
  ],
  images: [{ uri: `data:image/png;base64,${PNG}` }],
  textures: [{ source: 0 }],
  extensions: {
    EXT_structural_metadata: {
      schema: { id: 'harbour', classes: { thing: { properties: { name: { type: 'STRING' } } } } },
      propertyTables: [{ class: 'thing', count: 2, properties: { name: { values: 2, stringOffsets: 3 } } }],
      propertyTextures: [{ class: 'wear', properties: { rust: { index: 0, texCoord: 0, channels: [0] } } }],
    },
  },
  meshes: [
    {
      primitives: [
        {
          attributes: { POSITION: 0, _FEATURE_ID_0: 1 },
          extensions: {
            EXT_mesh_features: { featureIds: [{ featureCount: 2, attribute: 0, propertyTable: 0 }] },
            EXT_structural_metadata: { propertyTextures: [0] },
          },
        },
      ],
    },
  ],
  nodes: [{ mesh: 0 }],
  scenes: [{ nodes: [0] }],
  scene: 0,
};

const read = (json: object): ReturnType<typeof readGltf> =>
  readGltf(new TextEncoder().encode(JSON.stringify(json)));

test('metadata goes through reading and writing untouched, with its bytes and textures', async () => {
  const asset = await read(DOCUMENT);
  expect(asset.warnings.map(({ message }) => message)).toEqual([]);
  const again = await readGltf(writeGlb(asset));
  for (const one of [asset, again]) {
    const { propertyTables, propertyTextures, schema } = one.kept!['EXT_structural_metadata'] as {
      propertyTables: { properties: { name: { values: Uint8Array; stringOffsets: Uint8Array } } }[];
      propertyTextures: { properties: { rust: { texture: unknown; channels: number[] } } }[];
      schema: unknown;
    };
    const { name } = propertyTables[0]!.properties;
    expect(Buffer.from(name.values).toString()).toBe('quaybuoy');
    expect([...new Uint32Array(name.stringOffsets.slice().buffer)]).toEqual([0, 4, 8]);
    expect(propertyTextures[0]!.properties.rust.texture).toBe(one.textures[0]);
    expect(schema).toEqual(DOCUMENT.extensions.EXT_structural_metadata.schema);
    const { kept, geometry } = one.meshes[0]!.primitives[0]!;
    expect(kept).toEqual(DOCUMENT.meshes[0]!.primitives[0]!.extensions);
    expect(geometry.attributes['featureId0']).toBeDefined();
    expect(one.extensionsUsed.sort()).toEqual(['EXT_mesh_features', 'EXT_structural_metadata']);
  }
});

test('a view or a texture that is not there is told', async () => {
  const broken = JSON.parse(JSON.stringify(DOCUMENT)) as typeof DOCUMENT;
  broken.extensions.EXT_structural_metadata.propertyTables[0]!.properties.name.values = 9;
  await expect(read(broken)).rejects.toMatchObject({
    code: 'gltf/index-out-of-range',
    where: { pointer: '/extensions/EXT_structural_metadata/propertyTables/0/properties/name/values' },
  });
});
