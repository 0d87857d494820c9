import { box } from '../../../geometry/flat-shapes.js';
import { Scene } from '../../../scene/scene.js';
import { Swarm } from '../../../swarm/swarm.js';
import type { AssetNode } from '../../asset/asset.js';
import { placeAsset } from '../../asset/place.js';
import { readGltf } from '../read/read.js';
import { writeGlb } from '../write/write.js';

const translations = Float32Array.of(0, 0, 0, 2, 0, 0, 4, 0, 0);
const node: AssetNode = {
  name: 'crates',
  children: [],
  mesh: {
    primitives: [
      { geometry: box(), material: {} },
      { geometry: box({ width: 0.2 }), material: {} },
    ],
  },
  instances: {
    count: 3,
    translations,
    scales: Float32Array.of(1, 1, 1, 2, 2, 2, 1, 3, 1),
    own: { _WEAR: { components: 1, values: Float32Array.of(0.5, 0.25, 1) } },
  },
};

test('copies in a file are swarms in a scene, and are written as they were', async () => {
  const bytes = writeGlb({ nodes: [node] });
  const asset = await readGltf(bytes);
  expect(asset.extensionsRequired).toContain('EXT_mesh_gpu_instancing');
  expect(asset.nodes[0]!.instances).toEqual(node.instances);
  const scene = new Scene();
  const { node: root } = placeAsset(asset, scene);
  scene.update();
  const swarms = [...scene.meshes.values()] as Swarm[];
  // One for each primitive.
  expect(swarms.map((swarm) => swarm instanceof Swarm && swarm.count)).toEqual([3, 3]);
  expect(root.worldBounds().max[0]).toBeCloseTo(4.5, 5);
  expect(writeGlb(asset)).toEqual(bytes);
});

test.each<[string, (json: { attributes: Record<string, number> }) => void, RegExp]>([
  [
    'of other numbers',
    ({ attributes }) => (attributes['ROTATION'] = attributes['SCALE']!),
    /ROTATION is VEC4/,
  ],
  ['of nothing', ({ attributes }) => (attributes['TRANSLATION'] = 99), /accessor/],
])('copies %s are refused', async (_, spoil, message) => {
  const bytes = writeGlb({ nodes: [node] });
  const length = new DataView(bytes.buffer).getUint32(12, true);
  const json = JSON.parse(new TextDecoder().decode(bytes.subarray(20, 20 + length))) as {
    nodes: { extensions: Record<string, { attributes: Record<string, number> }> }[];
  };
  spoil(json.nodes[0]!.extensions['EXT_mesh_gpu_instancing']!);
  const text = new TextEncoder().encode(JSON.stringify(json).padEnd(length + 64));
  const padded = text.subarray(0, (text.length >> 2) << 2);
  const whole = new Uint8Array(20 + padded.length + bytes.length - 20 - length);
  whole.set(bytes.subarray(0, 12));
  whole.set(padded, 20);
  whole.set(bytes.subarray(20 + length), 20 + padded.length);
  const view = new DataView(whole.buffer);
  view.setUint32(8, whole.length, true);
  view.setUint32(12, padded.length, true);
  view.setUint32(16, 0x4e4f534a, true);
  await expect(readGltf(whole)).rejects.toThrow(message);
});
