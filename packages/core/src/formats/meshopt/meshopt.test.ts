import { MeshoptEncoder } from 'meshoptimizer/encoder';
import { torus } from '../../engine.js';
import type { Geometry } from '../../geometry/geometry.js';
import { attributeFloats } from '../../geometry/geometry.js';
import { assetFrom } from '../asset/asset.js';
import { readGltf } from '../gltf/read/read.js';
import { writeGltf } from '../gltf/write/write.js';

await MeshoptEncoder.ready;

/** A ring, packed; under the name of either extension. */
function packed(geometry: Geometry, name: string, version: number): { text: string; buffer: Uint8Array } {
  const asset = assetFrom('glTF', [{ name: 'ring', children: [], mesh: { primitives: [{ geometry }] } }], {});
  const files = writeGltf(asset, 'ring', {
    compress: {
      encodeGltfBuffer: (source, count, size, mode) =>
        MeshoptEncoder.encodeGltfBuffer(source, count, size, mode, version),
    },
  });
  const text = new TextDecoder().decode(files.get('ring.gltf')).replaceAll('EXT_meshopt_compression', name);
  return { text, buffer: files.get('ring.bin')! };
}

const read = ({ text, buffer }: { text: string; buffer: Uint8Array }): ReturnType<typeof readGltf> =>
  readGltf(new TextEncoder().encode(text), { resolve: () => Promise.resolve(buffer) });

test.each([
  // Larger than what is worth a thread, and smaller.
  ['EXT_meshopt_compression', 0, 200],
  ['EXT_meshopt_compression', 0, 12],
  // The newer version of the bytes belongs to the ratified extension.
  ['KHR_meshopt_compression', 1, 200],
] as const)(
  '%s, version %i, of %i segments, gives the ring back to the bit',
  async (name, version, segments) => {
    const ring = torus({ rings: segments, sides: segments / 2 });
    const asset = await read(packed(ring, name, version));
    expect(asset.extensionsRequired).toEqual([name]);
    const { geometry } = asset.meshes[0]!.primitives[0]!;
    for (const key of ['position', 'normal', 'texcoord0'])
      expect(attributeFloats(geometry.attributes[key]!)).toEqual(attributeFloats(ring.attributes[key]!));
    expect(geometry.indices!.length).toBe(ring.indices!.length);
  },
);

test('damage in a large view is told with its place, as in a small one', async () => {
  const whole = packed(torus({ rings: 200, sides: 100 }), 'EXT_meshopt_compression', 0);
  // The first byte of a packed view says what it is.
  whole.buffer[0] = 0;
  await expect(read(whole)).rejects.toMatchObject({
    code: 'gltf/meshopt',
    where: { pointer: expect.stringMatching(/^\/bufferViews\/\d+\/extensions\/EXT_meshopt_compression$/) },
  });
});
