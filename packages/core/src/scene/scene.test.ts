import type { quat, vec3 } from 'gl-matrix';
import { mat4 } from 'gl-matrix';
import fc from 'fast-check';
import { holds } from '../../../../tests/holds.js';
import type { LensError } from '../engine.js';
import {
  box,
  Scene,
  type SceneNode,
  setWorldTransforms,
  transformsChanged,
  axisAngle,
  worldTransformsChanged,
} from '../engine.js';

/** World transform by a second method: gl-matrix products of 4x4 up the parents. */
function worldBySecondMethod(node: SceneNode): mat4 {
  const local = mat4.fromRotationTranslationScale(
    mat4.create(),
    node.readRotation([0, 0, 0, 1]) as quat,
    node.readTranslation([0, 0, 0]) as vec3,
    node.readScale([1, 1, 1]) as vec3,
  );
  return node.parent ? mat4.multiply(mat4.create(), worldBySecondMethod(node.parent), local) : local;
}

function expectWorld(node: SceneNode): void {
  const rows = node.readWorld(new Float32Array(12));
  const matrix = worldBySecondMethod(node);
  for (let row = 0; row < 3; row++) {
    for (let column = 0; column < 4; column++) {
      expect(rows[row * 4 + column]).toBeCloseTo(matrix[column * 4 + row]!, 3);
    }
  }
}

const number = fc.double({ min: -3, max: 3, noNaN: true });
const scaleNumber = fc.oneof(
  fc.double({ min: 0.3, max: 2, noNaN: true }),
  fc.double({ min: -2, max: -0.3, noNaN: true }),
);
const transform = fc.record({
  translation: fc.tuple(number, number, number),
  angle: number,
  scale: fc.tuple(scaleNumber, scaleNumber, scaleNumber),
});

test('world transforms agree with 4x4 products, under rotation with non-uniform and negative scale', () => {
  holds(
    fc.property(fc.array(transform, { minLength: 1, maxLength: 5 }), (chain) => {
      const scene = new Scene();
      let parent: SceneNode | undefined;
      for (const { translation, angle, scale } of chain) {
        parent = scene.createNode({
          ...(parent ? { parent } : {}),
          translation,
          rotation: axisAngle([1, 2, -0.5], angle),
          scale,
        });
      }
      expectWorld(parent!);
    }),
    { numRuns: 60 },
  );
});

test('any order of creating, moving, re-parenting and removing leaves every world transform right', () => {
  const step = fc.record({
    kind: fc.constantFrom('create', 'move', 'parent', 'remove', 'update'),
    a: fc.nat(40),
    b: fc.nat(40),
    transform,
  });
  holds(
    fc.property(fc.array(step, { maxLength: 60 }), (steps) => {
      const scene = new Scene();
      let nodes: SceneNode[] = [scene.createNode()];
      for (const { kind, a, b, transform: t } of steps) {
        const node = nodes[a % nodes.length]!;
        const other = nodes[b % nodes.length]!;
        if (kind === 'create')
          nodes.push(scene.createNode({ parent: node, translation: t.translation, scale: t.scale }));
        if (kind === 'move')
          node.setTranslation(...t.translation).setRotation(...axisAngle([0, 1, 1], t.angle));
        if (kind === 'update') scene.update();
        if (
          kind === 'parent' &&
          ![other, ...other.descendants()].some((d) => d === node && d !== other) &&
          node !== other
        ) {
          const isBelow = [...node.descendants()].includes(other);
          if (isBelow) expect(() => node.setParent(other)).toThrow('cannot hang below itself');
          else node.setParent(other);
        }
        if (kind === 'remove' && nodes.length > 1) {
          node.remove();
          nodes = nodes.filter((n) => n.isAlive);
          if (nodes.length === 0) nodes = [scene.createNode()];
        }
      }
      expect(scene.nodeCount).toBe(nodes.length);
      expect(new Set(scene.nodes())).toEqual(new Set(nodes));
      for (const node of nodes) {
        expectWorld(node);
        const parent = node.parent;
        if (parent) expect(scene.columns.parent[node.row]).toBeLessThan(node.row);
      }
    }),
    { numRuns: 80 },
  );
});

test('an update visits only dirty subtrees', () => {
  const scene = new Scene();
  const left = scene.createNode();
  const right = scene.createNode();
  for (let i = 0; i < 10; i++) scene.createNode({ parent: left });
  for (let i = 0; i < 20; i++) scene.createNode({ parent: right });
  expect(scene.update()).toBe(32);
  expect(scene.update()).toBe(0);
  left.setTranslation(1, 0, 0);
  expect(scene.update()).toBe(11);
});

test('100,000 nodes are created, re-parented, moved and removed, the last of them right', () => {
  const scene = new Scene();
  const a = scene.createNode({ name: 'a' });
  const leaves: SceneNode[] = [];
  for (let i = 0; i < 1000; i++) {
    const branch = scene.createNode({ parent: a });
    for (let k = 0; k < 99; k++) leaves.push(scene.createNode({ parent: branch, translation: [0, k, 0] }));
  }
  const b = scene.createNode({ name: 'b', translation: [5, 0, 0] });
  for (const branch of [...a.children()]) branch.setParent(b);
  const last = leaves[98]!;
  expect(last.readWorldPosition([0, 0, 0])).toEqual([5, 98, 0]);
  b.remove();
  expect(scene.nodeCount).toBe(1);
  expect(last.isAlive).toBe(false);
  expect(scene.columns.count).toBeLessThan(100_000);
});

test('a sheared matrix is kept as it is; one without shear becomes its parts', () => {
  const scene = new Scene();
  const shear = [1, 0, 0, 0, 0.5, 1, 0, 0, 0, 0, 1, 0, 7, 8, 9, 1];
  const node = scene.createNode({ matrix: shear });
  expect([...node.readWorld(new Float32Array(12))]).toEqual([1, 0.5, 0, 7, 0, 1, 0, 8, 0, 0, 1, 9]);
  const twin = node.clone();
  expect([...twin.readWorld(new Float32Array(12))]).toEqual([1, 0.5, 0, 7, 0, 1, 0, 8, 0, 0, 1, 9]);
  node.setMatrix([0, 2, 0, 0, -3, 0, 0, 0, 0, 0, 4, 0, 1, 2, 3, 1]);
  expect(node.readScale([0, 0, 0]).map((v) => +v.toFixed(5))).toEqual([2, 3, 4]);
  const [x, y, z, w] = node.readRotation([0, 0, 0, 0]);
  expect([x, y]).toEqual([0, 0]);
  expect(z).toBeCloseTo(Math.SQRT1_2, 6);
  expect(w).toBeCloseTo(Math.SQRT1_2, 6);
});

test('keepWorld leaves a node in its place under a turned and scaled parent', () => {
  const scene = new Scene();
  const parent = scene.createNode({
    translation: [1, 2, 3],
    rotation: axisAngle([0, 0, 1], 0.7),
    scale: [2, 2, 2],
  });
  const node = scene.createNode({ translation: [4, 5, 6], rotation: axisAngle([1, 0, 0], 0.3) });
  const before = [...node.readWorld(new Float32Array(12))];
  node.setParent(parent, { keepWorld: true });
  node.readWorld(new Float32Array(12)).forEach((value, i) => expect(value).toBeCloseTo(before[i]!, 4));
});

test('visibility is inherited', () => {
  const scene = new Scene();
  const top = scene.createNode();
  const child = scene.createNode({ parent: top });
  expect(child.isShown).toBe(true);
  top.setVisible(false);
  expect([child.visible, child.isShown]).toEqual([true, false]);
  top.setVisible(true);
  expect(child.isShown).toBe(true);
});

test('names and paths lead to nodes, in order of creation, and follow renaming', () => {
  const scene = new Scene();
  const quay = scene.createNode({ name: 'quay' });
  const first = scene.createNode({ name: 'crate', parent: quay });
  const second = scene.createNode({ name: 'crate', parent: quay });
  expect(scene.find('crate')).toBe(first);
  expect(scene.findAll('crate')).toEqual([first, second]);
  expect(scene.findPath('quay/crate')).toBe(first);
  expect(second.path).toBe('quay/crate');
  first.name = 'chest';
  expect(scene.find('crate')).toBe(second);
  second.remove();
  expect(scene.find('crate')).toBeUndefined();
});

test('a clone has the subtree, shares what it carries and moves by itself', () => {
  const scene = new Scene();
  const mesh = { primitives: [{ geometry: box() }] };
  const buoy = scene.createNode({ name: 'buoy', translation: [1, 0, 0] });
  scene.createNode({ name: 'hull', parent: buoy, mesh });
  const twin = buoy.clone({ name: 'twin' });
  twin.setTranslation(3, 0, 0);
  expect([...twin.children()].map((n) => [n.name, n.mesh === mesh])).toEqual([['hull', true]]);
  expect(buoy.readWorldPosition([0, 0, 0])).toEqual([1, 0, 0]);
});

test('bounds of a subtree are in world space', () => {
  const scene = new Scene();
  const top = scene.createNode({ translation: [10, 0, 0], rotation: axisAngle([0, 1, 0], Math.PI / 4) });
  scene.createNode({ parent: top, mesh: { geometry: box() } });
  const { min, max } = top.worldBounds();
  // A unit box turned by 45 degrees about Y is sqrt(2) wide.
  expect(min.map((v) => +v.toFixed(5))).toEqual([+(10 - Math.SQRT1_2).toFixed(5), -0.5, -0.70711]);
  expect(max.map((v) => +v.toFixed(5))).toEqual([+(10 + Math.SQRT1_2).toFixed(5), 0.5, 0.70711]);
});

test.each([
  [
    'a translation that is not a number',
    (s: Scene) => s.createNode().setTranslation(Number.NaN, 0, 0),
    'scene/number',
  ],
  ['a rotation of zero length', (s: Scene) => s.createNode().setRotation(0, 0, 0, 0), 'scene/number'],
  ['too few numbers', (s: Scene) => s.createNode({ translation: [1, 2] }), 'scene/length'],
  [
    'a projective matrix',
    (s: Scene) => s.createNode({ matrix: Array.from({ length: 16 }, () => 1) }),
    'scene/matrix',
  ],
  [
    'a parent of another scene',
    (s: Scene) => s.createNode({ parent: new Scene().createNode() }),
    'scene/foreign-node',
  ],
  ['moving the root', (s: Scene) => s.root.setParent(s.createNode()), 'scene/root'],
])('%s is refused and leaves the scene usable', (_, act, code) => {
  const scene = new Scene();
  expect(() => act(scene)).toThrow(expect.objectContaining({ code }) as LensError);
  scene.createNode();
  expect(() => scene.update()).not.toThrow();
});

test('a removed node says so', () => {
  const scene = new Scene();
  const node = scene.createNode({ name: 'gone' });
  node.remove();
  node.remove();
  expect(() => node.setTranslation(0, 0, 0)).toThrow('"gone" has been removed');
});

const near = (a: ArrayLike<number>, b: readonly number[]): void =>
  b.forEach((v, k) => expect(a[k]).toBeCloseTo(v, 5));

describe('transforms in bulk', () => {
  test('world transforms place nodes, whatever their parents do, until a part is set again', () => {
    const scene = new Scene();
    const parent = scene.createNode({ translation: [10, 0, 0] });
    const nodes = Array.from({ length: 3 }, () => scene.createNode({ parent }));
    const child = scene.createNode({ parent: nodes[1]!, translation: [0, 1, 0] });
    const turned = [0, 0, 1, 5, 0, 1, 0, 6, -1, 0, 0, 7];
    setWorldTransforms(scene, [nodes[1]!.row], Float32Array.from(turned));
    near(nodes[1]!.readWorld([]), turned);
    near(child.readWorldPosition([]), [5, 7, 7]);
    parent.setTranslation(0, 50, 0);
    near(nodes[1]!.readWorldPosition([]), [5, 6, 7]);
    near(nodes[0]!.readWorldPosition([]), [0, 50, 0]);
    // Below its parent it stands where it must for that.
    near(nodes[1]!.readTranslation([]), [5, -44, 7]);
    near(nodes[1]!.readRotation([]), [0, Math.SQRT1_2, 0, Math.SQRT1_2]);
    nodes[1]!.setTranslation(1, 2, 3);
    near(nodes[1]!.readWorldPosition([]), [1, 52, 3]);
    near(child.readWorldPosition([]), [1, 53, 3]);
  });

  test('columns may be written in place, once the rows are told', () => {
    const scene = new Scene();
    const nodes = Array.from({ length: 5 }, (_, i) => scene.createNode({ translation: [i, 0, 0] }));
    const first = nodes[0]!.row;
    scene.update();
    for (let i = 0; i < 5; i++) scene.columns.translation[(first + i) * 3 + 1] = i * 10;
    expect(scene.update()).toBe(0);
    transformsChanged(scene, first + 1, 3);
    expect(scene.update()).toBe(3);
    near(nodes[3]!.readWorldPosition([]), [3, 30, 0]);
    near(nodes[4]!.readWorldPosition([]), [4, 0, 0]);
    const { world } = scene.columns;
    for (let i = 0; i < 2; i++) world.set([2, 0, 0, i, 0, 2, 0, i, 0, 0, 2, i], (first + i) * 12);
    worldTransformsChanged(scene, first, 2);
    near(nodes[1]!.readWorldPosition([]), [1, 1, 1]);
    near(nodes[1]!.readScale([]), [2, 2, 2]);
    // A clone stands in the same place.
    near(nodes[1]!.clone().readWorldPosition([]), [1, 1, 1]);
  });

  test('visibility, mirroring and bounds go on as ever', () => {
    const scene = new Scene();
    const group = scene.createNode();
    const node = scene.createNode({ parent: group, mesh: { geometry: box() } });
    setWorldTransforms(scene, [node.row], [-1, 0, 0, 4, 0, 1, 0, 0, 0, 0, 1, 0]);
    expect(node.worldBounds()).toEqual({ min: [3.5, -0.5, -0.5], max: [4.5, 0.5, 0.5] });
    expect(node.isShown).toBe(true);
    group.setVisible(false);
    expect(node.isShown).toBe(false);
    near(node.readWorldPosition([]), [4, 0, 0]);
  });

  test.each<[string, (scene: Scene, row: number) => void, string, RegExp]>([
    [
      'arrays that do not fit together',
      (s, r) => setWorldTransforms(s, [r, r], new Float32Array(12)),
      'scene/length',
      /2 rows take 24/,
    ],
    [
      'a row without a node',
      (s) => setWorldTransforms(s, [99], new Float32Array(12)),
      'scene/removed',
      /row 99/,
    ],
    ['the root', (s) => setWorldTransforms(s, [0], new Float32Array(12)), 'scene/removed', /row 0/],
    ['rows beyond the last', (s, r) => transformsChanged(s, r, 9), 'scene/length', /no rows/],
    [
      'a hole',
      (s, r) => {
        s.handles[r]!.remove();
        worldTransformsChanged(s, r, 1);
      },
      'scene/removed',
      /belongs to no node/,
    ],
    [
      'a number that is none',
      (s, r) => {
        setWorldTransforms(s, [r], new Float32Array(12).fill(Number.NaN));
        s.update();
      },
      'scene/number',
      /"crate"/,
    ],
  ])('%s is refused', (_, act, code, message) => {
    const scene = new Scene();
    const node = scene.createNode({ name: 'crate' });
    scene.createNode();
    let error: LensError | undefined;
    try {
      act(scene, node.row);
    } catch (caught) {
      error = caught as LensError;
    }
    expect(error?.code).toBe(code);
    expect(error?.message).toMatch(message);
  });
});

test('rows of removed nodes are used again, never ahead of a parent', () => {
  const scene = new Scene();
  const nodes = Array.from({ length: 50 }, (_, i) => scene.createNode({ name: `node ${i}` }));
  const rows = scene.columns.count;
  for (let round = 0; round < 200; round++) {
    const at = (round * 7) % 50;
    nodes[at]!.remove();
    const parent = nodes[(at + 13) % 50]!;
    nodes[at] = scene.createNode({ name: `node ${at}`, ...(round % 3 === 0 ? { parent } : {}) });
    for (const node of scene.nodes()) {
      if (node.parent) expect(node.row).toBeGreaterThan(node.parent.row);
    }
    // A parent that goes takes its children along: they are made anew at the top.
    nodes.forEach((node, i) => {
      if (!node.isAlive) nodes[i] = scene.createNode({ name: `node ${i}` });
    });
  }
  expect(scene.nodeCount).toBe(50);
  expect(scene.columns.count).toBeLessThan(rows * 3);
});

test('a name is found or not; where it has to be there, the near one is said', () => {
  const scene = new Scene();
  const quay = scene.createNode({ name: 'quay' });
  const crate = scene.createNode({ name: 'crate', parent: quay });
  expect([scene.find('crate'), quay.find('crate'), scene.find('crat')]).toEqual([crate, crate, undefined]);
  expect([scene.get('crate'), quay.get('crate')]).toEqual([crate, crate]);
  expect(() => scene.get('crat')).toThrow(/no node "crat" in the scene[^]*Did you mean "crate"/);
  expect(() => crate.get('quay')).toThrow(/no node "quay" below node "crate"[^]*No node has a name/);
});

test('the world matrix is read by columns, as it was given by columns', () => {
  const scene = new Scene();
  const given = [0, 2, 0, 0, -2, 0, 0, 0, 0, 0, 3, 0, 5, 6, 7, 1];
  const crate = scene.createNode({ matrix: given });
  expect([...crate.readWorldMatrix(new Float32Array(16))]).toEqual(
    given.map((n) => expect.closeTo(n, 6) as number),
  );
  const lid = scene.createNode({ parent: crate, translation: [1, 0, 0] });
  expect([...lid.readWorldMatrix(new Float64Array(16))].slice(12)).toEqual([5, 8, 7, 1]);
});
