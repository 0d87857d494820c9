import fc from 'fast-check';
import { holds } from '../../../../tests/holds.js';
import { placeAsset } from '../formats/asset/place.js';
import { readGltf } from '../formats/gltf/read/read.js';
import { writeGlb } from '../formats/gltf/write/write.js';
import type { AssetNode } from '../formats/asset/asset.js';
import { attributeFloats, attributeFrom, type Geometry, geometryFrom } from '../geometry/geometry.js';
import { axisAngle } from '../math/rotation.js';
import { emptyBounds } from '../math/bounds.js';
import { Scene } from '../scene/scene.js';
import type { SceneNode } from '../scene/scene-node.js';
import { bendGeometry, Records } from './bend-geometry.js';
import { poseNode, poseOf } from './pose-node.js';
import { Poses } from './poses.js';
import { posedGeometry } from './posed-geometry.js';

/** A bar along X from 0 to 2: its first vertices held by joint 0, its last by joint 1, those in the middle by both. */
function bar(): Geometry {
  const geometry = geometryFrom({
    position: [0, 0, 0, 1, 0, 0, 2, 0, 0],
    normal: [0, 1, 0, 0, 1, 0, 0, 1, 0],
    joints0: [0, 0, 0, 0, 0, 1, 0, 0, 1, 0, 0, 0],
    weights0: [1, 0, 0, 0, 0.5, 0.5, 0, 0, 1, 0, 0, 0],
  });
  geometry.targets = [
    { name: 'lift', attributes: { position: attributeFrom([0, 0, 0, 0, 1, 0, 0, 0, 0], 3) } },
    { name: 'tilt', attributes: { normal: attributeFrom([0, 0, 0, 1, -1, 0, 0, 0, 0], 3) } },
  ];
  return geometry;
}
const places = (node: SceneNode): number[] =>
  [...attributeFloats(posedGeometry(node).attributes['position']!)].map((v) => Math.round(v * 1e4) / 1e4 + 0);
const bind = (x: number): number[] => [1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0, -x, 0, 0, 1];

function stage(): { scene: Scene; node: SceneNode; joints: SceneNode[] } {
  const scene = new Scene();
  const joints = [scene.createNode({ name: 'a' }), scene.createNode({ name: 'b', translation: [1, 0, 0] })];
  joints[1]!.setParent(joints[0]);
  // The mesh hangs elsewhere, and its own transform does not count.
  const node = scene.createNode({ name: 'bar', translation: [7, 0, 0], mesh: { geometry: bar() } });
  const inverseBindMatrices = Float32Array.from([...bind(0), ...bind(1)]);
  poseNode(node, { skin: { joints, inverseBindMatrices } });
  return { scene, node, joints };
}

test('vertices go with their joints, wherever the mesh hangs', () => {
  const { node, joints } = stage();
  expect(places(node)).toEqual([-7, 0, 0, -6, 0, 0, -5, 0, 0]);
  joints[1]!.setRotation(...axisAngle([0, 0, 1], Math.PI / 2));
  // The end turns about x = 1; the middle stands on the axis.
  expect(places(node)).toEqual([-7, 0, 0, -6, 0, 0, -6, 1, 0]);
  joints[0]!.setTranslation(0, 5, 0);
  joints[0]!.setScale(2);
  expect(places(node)).toEqual([-7, 5, 0, -5, 5, 0, -5, 7, 0]);
  const normals = attributeFloats(posedGeometry(node).attributes['normal']!);
  // Half upright, half lying: the cofactors of the mean of both.
  expect([...normals].map((v) => Math.round(v * 1e4) / 1e4)).toEqual([0, 1, 0, -0.7071, 0.7071, 0, -1, 0, 0]);
});

test('targets are named, add up, and come before the joints', () => {
  const { node, joints } = stage();
  joints[0]!.setTranslation(7, 0, 0);
  node.setWeight('lift', 0.5);
  expect(places(node)).toEqual([0, 0, 0, 1, 0.5, 0, 2, 0, 0]);
  node.setWeight('lift', -1).setWeight('tilt', 1);
  expect(node.weights).toMatchObject({ lift: -1, tilt: 1 });
  expect(places(node)).toEqual([0, 0, 0, 1, -1, 0, 2, 0, 0]);
  expect([...attributeFloats(posedGeometry(node).attributes['normal']!)]).toEqual([
    0, 1, 0, 1, 0, 0, 0, 1, 0,
  ]);
  expect(() => node.setWeight('lfit', 1)).toThrow(
    expect.objectContaining({
      code: 'scene/no-target',
      hint: 'Did you mean "lift"? There is "lift", "tilt".',
    }),
  );
  expect(() => node.setWeight('lift', NaN)).toThrow(/weight of "lift" is NaN/);
  expect(() => new Scene().createNode().setWeight('lift', 1)).toThrow(/no morph targets/);
});

test('nodes of one geometry are one batch, and another geometry stays apart', () => {
  const { scene, node } = stage();
  for (let i = 0; i < 5; i++) node.clone();
  scene.createNode({ mesh: { geometry: node.mesh!.primitives[0]!.geometry } });
  scene.update();
  expect(scene.drawables.batches.filter(Boolean).map((batch) => batch!.items)).toEqual([6, 1]);
});

test('copies of a whole rig are bent by their own joints', () => {
  const { scene, joints, node } = stage();
  const rig = scene.createNode({ name: 'rig' });
  joints[0]!.setParent(rig);
  node.setParent(rig);
  node.setWeight('lift', 0.25);
  const copy = rig.clone();
  copy.find('a')!.setTranslation(0, 3, 0);
  expect(places(node)).toEqual([-7, 0, 0, -6, 0.25, 0, -5, 0, 0]);
  expect(places(copy.find('bar')!)).toEqual([-7, 3, 0, -6, 3.25, 0, -5, 3, 0]);
  rig.remove();
  scene.update();
  expect(places(copy.find('bar')!)).toEqual([-7, 3, 0, -6, 3.25, 0, -5, 3, 0]);
});

test('a copy in another scene belongs to that one', () => {
  const { scene, joints, node } = stage();
  const rig = scene.createNode({ name: 'rig' });
  joints[0]!.setParent(rig);
  node.setParent(rig);
  const other = new Scene();
  for (let i = 0; i < 9; i++) other.createNode();
  const copy = rig.clone({ parent: other.root });
  copy.find('a')!.setTranslation(0, 2, 0);
  expect(places(copy.find('bar')!)).toEqual([-7, 2, 0, -6, 2, 0, -5, 2, 0]);
  expect(places(node)).toEqual([-7, 0, 0, -6, 0, 0, -5, 0, 0]);
  // Without its joints it keeps its targets alone.
  const alone = node.clone({ parent: other.root });
  alone.setWeight('lift', 1);
  expect(places(alone)).toEqual([0, 0, 0, 1, 1, 0, 2, 0, 0]);
  expect([scene.guests.get(Poses)!.of(copy.find('bar')!), poseOf(alone)?.skin]).toEqual([
    undefined,
    undefined,
  ]);
});

test('another mesh brings its own bounds', () => {
  const { scene, node } = stage();
  const long = bar();
  long.attributes['position'] = attributeFrom([0, 0, 0, 1, 0, 0, 90, 0, 0], 3);
  const [short, wide] = [node.mesh!, { primitives: [{ geometry: long }] }];
  const radius = (): number => {
    scene.update();
    return scene.columns.worldSphere[scene.columns.firstItem[node.row]! * 4 + 3]!;
  };
  const before = radius();
  node.setMesh(wide);
  expect(radius()).toBeGreaterThan(40);
  node.setMesh(short);
  expect(radius()).toBeCloseTo(before, 4);
});

test('bounds hold the mesh in any pose', () => {
  holds(
    fc.property(
      fc.array(fc.double({ min: -3, max: 3, noNaN: true }), { minLength: 14, maxLength: 14 }),
      (n) => {
        const { scene, node, joints } = stage();
        for (const [i, joint] of joints.entries()) {
          const [x, y, z, a, b, c] = n.slice(i * 6) as [number, number, number, number, number, number];
          joint.setTranslation(x, y, z).setScale(a, b, c);
          joint.setRotation(...axisAngle([x + 0.1, y, z], a));
        }
        node.setWeight('lift', n[12]!).setWeight('tilt', n[13]!);
        scene.update();
        const { columns } = scene;
        const item = columns.firstItem[node.row]!;
        const [x, y, z, radius] = columns.worldSphere.slice(item * 4, item * 4 + 4) as unknown as number[];
        const box = emptyBounds();
        expect(scene.guests.get(Poses)!.growBounds(node, box)).toBe(true);
        const posed = attributeFloats(posedGeometry(node).attributes['position']!);
        for (let v = 0; v < posed.length; v += 3) {
          const world = [posed[v]! + 7, posed[v + 1]!, posed[v + 2]!];
          const distance = Math.hypot(world[0]! - x!, world[1]! - y!, world[2]! - z!);
          expect(distance).toBeLessThanOrEqual(Math.abs(radius!) * (1 + 1e-4) + 1e-4);
          world.forEach((value, k) => {
            expect(value).toBeGreaterThanOrEqual(box.min[k]! - 1e-3);
            expect(value).toBeLessThanOrEqual(box.max[k]! + 1e-3);
          });
        }
      },
    ),
    { numRuns: 60 },
  );
});

test('a mirrored skeleton is drawn as mirrored; a hidden mesh is not drawn', () => {
  const { scene, node, joints } = stage();
  const radius = (): number => {
    scene.update();
    return scene.columns.worldSphere[scene.columns.firstItem[node.row]! * 4 + 3]!;
  };
  expect(radius()).toBeGreaterThan(0);
  joints[0]!.setScale(-1, 1, 1);
  expect(radius()).toBeLessThan(0);
  node.setVisible(false);
  expect(radius()).toBe(Infinity);
  node.setVisible(true);
  expect(radius()).toBeLessThan(0);
});

test('a vertex that no target moves costs four words', () => {
  const records = new Records();
  const bent = bendGeometry(bar(), records, false);
  // Three heads; the middle one is moved by two targets, whose entries have a place and a normal each.
  expect(records.count).toBe(4 * (3 + 2 * 2));
  expect([...attributeFloats(bent.attributes['#bend']!)]).toEqual([0, 1, 6]);
  expect([...records.words.subarray(4, 8)]).toEqual([2, 1, 0, 0]);
});

test('weights of joints are brought to a sum of one; what nothing holds goes with the first', () => {
  const geometry = bar();
  geometry.attributes['weights0'] = attributeFrom([2, 0, 0, 0, 3, 1, 0, 0, 0, 0, 0, 0], 4);
  const scene = new Scene();
  const joints = [scene.createNode(), scene.createNode({ translation: [0, 4, 0] })];
  const node = scene.createNode({ mesh: { geometry } });
  poseNode(node, { skin: { joints } });
  expect(places(node)).toEqual([0, 0, 0, 1, 1, 0, 2, 4, 0]);
});

test('a model comes back from its file bent as it was', async () => {
  const tip: AssetNode = {
    name: 'tip',
    children: [],
    translation: [1, 0, 0],
    rotation: axisAngle([0, 0, 1], Math.PI / 2),
  };
  const hip: AssetNode = { name: 'hip', children: [tip] };
  const skin = { joints: [hip, tip], inverseBindMatrices: Float32Array.from([...bind(0), ...bind(1)]) };
  const body: AssetNode = {
    name: 'body',
    children: [],
    mesh: { primitives: [{ geometry: bar() }], weights: [0.5, 0] },
    skin,
  };
  const glb = writeGlb({ nodes: [body, hip, tip], skins: [skin] });
  const asset = await readGltf(glb);
  expect(asset.warnings).toEqual([]);
  const scene = new Scene();
  const { node } = placeAsset(asset, scene);
  expect(places(node.find('body')!)).toEqual(
    [0, 0, 0, 1, 0.5, 0, 1, 1, 0].map((v, k) => (k === 3 ? 0.75 : k === 4 ? 0.25 : v)),
  );
});

test('a pose that comes or goes leaves the others where they are, until most of the room is holes', () => {
  const { scene, node } = stage();
  const slots = (nodes: readonly SceneNode[]): number[] => nodes.map(({ row }) => scene.guests.slotOf(row));
  const poses = scene.guests.get(Poses)!;
  const copies = Array.from({ length: 500 }, () => node.clone());
  scene.update();
  const before = slots([node, ...copies]);
  expect(new Set(before).size).toBe(501);
  const { end } = poses.log;
  const last = node.clone();
  scene.update();
  expect(slots([node, ...copies])).toEqual(before);
  // It alone is taken.
  expect([poses.log.holds(end), poses.log.end - end]).toEqual([true, 1]);
  expect(slots([last])[0]).toBeGreaterThan(Math.max(...before));
  const [gone] = copies.splice(7, 1);
  gone!.remove();
  scene.update();
  expect(slots([node.clone()])[0]).toBe(before[8]);
  // All the others go: who comes then finds the room closed up.
  for (const copy of copies.splice(0, 490)) copy.remove();
  scene.update();
  const late = [node.clone(), node.clone()];
  scene.update();
  const after = slots([node, ...copies, last, ...late]);
  expect(new Set(after).size).toBe(after.length);
  for (const posed of [node, ...copies, ...late]) expect(places(posed)).toEqual(places(node));
});
