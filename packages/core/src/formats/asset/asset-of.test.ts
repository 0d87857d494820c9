import { readFileSync } from 'node:fs';
import { validateBytes } from 'gltf-validator';
import { box } from '../../geometry/flat-shapes.js';
import { attributeFloats } from '../../geometry/geometry.js';
import { axisAngle } from '../../math/rotation.js';
import { Scene } from '../../scene/scene.js';
import { Swarm } from '../../swarm/swarm.js';
import { compileHooks } from '../../shading/index.js';
import { readGltf } from '../gltf/read/read.js';
import { writeGlb } from '../gltf/write/write.js';
import { assetOf } from './asset-of.js';
import type { ModelAsset } from './asset.js';
import { flatParts } from './flatten.js';
import { placeAsset } from './place.js';

const bytesOf = (file: string): Uint8Array => new Uint8Array(readFileSync(`examples/public/models/${file}`));

/** What is drawn, by node's name: bytes of its places, and where it stands. */
const drawn = (asset: ModelAsset): [string, number[]][] =>
  flatParts(asset).map(({ name = '', geometry }) => [
    name,
    [...attributeFloats(geometry.attributes['position']!).subarray(0, 30)],
  ]);
const places = (asset: ModelAsset): number[] => flatParts(asset).flatMap(({ matrix }) => [...matrix]);

test.each(['tug.glb', 'crab.glb', 'gull.glb', 'figurehead.glb', 'harbour.glb'])(
  '%s, placed in a scene and written, is what it was, and the standard has nothing against it',
  async (file) => {
    const before = await readGltf(bytesOf(file));
    const scene = new Scene();
    const { node } = placeAsset(before, scene, { name: 'placed' });
    const bytes = writeGlb(assetOf(node));
    const { issues } = await validateBytes(bytes);
    expect(issues.messages.filter(({ severity }) => severity < 1)).toEqual([]);
    const after = await readGltf(bytes);
    expect(drawn(after)).toEqual(drawn(before));
    // A scene keeps its transforms in 32 bits.
    const [own, others] = [places(after), places(before)];
    expect(Math.max(...own.map((value, i) => Math.abs(value - others[i]!)))).toBeLessThan(1e-5);
    const told = (asset: ModelAsset): unknown => ({
      skins: asset.skins.map(({ joints }) => joints.map(({ name }) => name)),
      clips: asset.animations.map(({ name, duration, channels }) => [name, duration, channels.length]),
      materials: asset.materials.map(({ name }) => name).sort(),
      lights: asset.lights.map(({ type }) => type).sort(),
      cameras: asset.cameras.length,
      targets: asset.meshes.map(({ primitives }) => primitives[0]!.geometry.targets?.length ?? 0).sort(),
    });
    expect(told(after)).toEqual(told(before));
  },
);

test('a subtree, swarms as copies, sheared nodes as matrices, and what has no place is told', async () => {
  const scene = new Scene();
  scene.fog = { type: 'exponential', density: 0.1, color: [1, 1, 1] };
  const yard = scene.createNode({ name: 'yard', translation: [1, 2, 3] });
  const sheared = [1, 0, 0, 0, 0.5, 1, 0, 0, 0, 0, 1, 0, 4, 0, 0, 1];
  scene.createNode({
    name: 'leaning',
    parent: yard,
    matrix: sheared,
    mesh: { geometry: box() },
    visible: false,
  });
  const transforms = {
    translations: [0, 0, 0, 5, 0, 0],
    rotations: [0, 0, 0, 1, ...axisAngle([0, 1, 0], 0.7)],
    scales: [1, 2],
  };
  scene.createNode({ name: 'crates', parent: yard, mesh: new Swarm({ geometry: box(), transforms }) });
  scene.createNode({ name: 'elsewhere', mesh: { geometry: box() } });
  const whole = assetOf(scene);
  expect(whole.warnings.map(({ code }) => code)).toEqual(['asset/around']);
  const after = await readGltf(writeGlb(assetOf(yard)));
  const [root] = after.defaultScene!.nodes;
  expect(root).toMatchObject({ name: 'yard', translation: [1, 2, 3] });
  const [leaning, crates] = root!.children;
  expect(leaning).toMatchObject({ name: 'leaning', matrix: sheared, visible: false });
  const { instances } = crates!.children[0]!;
  expect(instances!.count).toBe(2);
  expect([...instances!.translations!].sort((a, b) => a - b)).toEqual([0, 0, 0, 0, 0, 5]);
  expect([...instances!.scales!].map((part) => Math.round(part * 1e5) / 1e5).sort()).toEqual([
    1, 1, 1, 2, 2, 2,
  ]);
});

test('what materials have that files of models cannot hold is told once each', () => {
  const scene = new Scene();
  const shader = compileHooks('fn outputColor(p: Fragment, color: vec4f) -> vec4f { return color.bgra; }', {
    file: 'rim.wgsl',
  });
  const [wood, shine, salt] = [{ name: 'wood' }, { name: 'shine', shader }, { name: 'salt' }];
  for (let i = 0; i < 3; i++) {
    scene.createNode({ mesh: { geometry: box(), material: wood, overlays: [salt] } });
    scene.createNode({ mesh: { geometry: box(), material: shine } });
  }
  const asset = assetOf(scene);
  expect(asset.warnings.map(({ code, message }) => [code, message])).toEqual([
    ['asset/overlays', expect.stringContaining('what lies over material "wood"')],
    ['asset/shader', expect.stringContaining('rim.wgsl of material "shine"')],
  ]);
  expect(flatParts(asset)).toHaveLength(6);
});
