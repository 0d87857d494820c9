import {
  box,
  createCameraView,
  DrawList,
  facing,
  type Material,
  Scene,
  type SceneNode,
  setWorldTransforms,
  sphere,
  updateCameraView,
} from '../engine.js';
import { fetchKernels } from '../columns/columns.js';

/** A small generator (Park and Miller, 1988), so that a failure can be had again. */
function random(seed: number): () => number {
  let state = seed;
  return () => (state = (state * 48271) % 2147483647) / 2147483647;
}

const camera = { type: 'perspective', yfov: 1, znear: 0.1 } as const;
const GEOMETRIES = [box(), sphere({ slices: 6, stacks: 4 }), box({ width: 3 })];

/** What is to be seen, found by looking at every node by itself. */
function expected(scene: Scene, cameraNode: SceneNode): Map<string, number> {
  const view = createCameraView();
  updateCameraView(view, cameraNode, 1.5);
  const seen = new Map<string, number>();
  const world = new Float32Array(12);
  for (const [node, mesh] of scene.meshes) {
    if (!node.isShown) continue;
    node.readWorld(world);
    const [a, b, c] = [0, 1, 2].map((k) => [world[k]!, world[4 + k]!, world[8 + k]!] as const);
    const determinant =
      a![0] * (b![1] * c![2] - b![2] * c![1]) -
      b![0] * (a![1] * c![2] - a![2] * c![1]) +
      c![0] * (a![1] * b![2] - a![2] * b![1]);
    for (const { geometry, material } of mesh.primitives) {
      const { min, max } = geometry.bounds;
      const p = [0, 1, 2].map((k) => (min[k]! + max[k]!) / 2);
      const radius = Math.hypot(...[0, 1, 2].map((k) => max[k]! - min[k]!)) / 2;
      const at = [0, 4, 8].map(
        (r) => world[r]! * p[0]! + world[r + 1]! * p[1]! + world[r + 2]! * p[2]! + world[r + 3]!,
      );
      const stretch = scene.columns.stretch[node.row]!;
      let nearest = Infinity;
      for (let k = 0; k < 24; k += 4) {
        const n = view.planes.subarray(k, k + 4);
        nearest = Math.min(
          nearest,
          n[0]! * at[0]! + n[1]! * at[1]! + n[2]! * at[2]! + n[3]! + radius * stretch,
        );
      }
      // Too near to a plane for two ways of rounding to agree.
      if (Math.abs(nearest) < 1e-4) return new Map([['undecided', 1]]);
      if (nearest < 0) continue;
      const number = scene.drawables.batches.findIndex(
        (one) => one?.geometry === geometry && one.materials.has(material!),
      );
      const key = `${node.row} ${number} ${material!.name} ${determinant < 0 ? 'mirrored' : ''}`;
      seen.set(key, (seen.get(key) ?? 0) + 1);
    }
  }
  return seen;
}

/** What a list would draw; checks on the way what holds for every list. */
function drawn(list: DrawList, copy: Uint32Array): Map<string, number> {
  const seen = new Map<string, number>();
  const wrong: object[] = [];
  let total = 0;
  for (let command = 0; command < list.commands; command++) {
    const batch = list.batches[list.commandBatch[command]!]!;
    const isBlended = batch.material.alphaMode === 'blend';
    expect(isBlended).toBe(command >= list.opaqueCommands);
    for (let i = 0; i < list.commandCount[command]!; i++) {
      const position = list.commandFirst[command]! + i;
      const row = list.rowAt(position);
      const instance = list.instances[position]!;
      const material = batch.kind.page.slots[instance >> 24]!;
      // Whoever takes over what changed alone has the same.
      const isRight =
        position < list.room &&
        (instance & 0xffffff) === row &&
        copy[position] === instance &&
        batch.materials.get(material)! > 0;
      if (!isRight)
        wrong.push({ position, room: list.room, row, instance, copied: copy[position], material });
      const key = `${row} ${list.commandBatch[command]!} ${material.name} ${list.commandMirrored[command] ? 'mirrored' : ''}`;
      seen.set(key, (seen.get(key) ?? 0) + 1);
      total++;
    }
  }
  expect(wrong).toEqual([]);
  expect(list.instanceCount).toBe(total);
  return seen;
}

beforeAll(fetchKernels);

/** A scene that is changed at random, and seen by two lists, of which one looks less often. */
function play(seed: number, start: number, steps: number): void {
  const next = random(seed);
  const int = (n: number): number => Math.floor(next() * n);
  const scene = new Scene();
  const materials: Material[] = [
    { name: 'plain' },
    { name: 'dull', metallicFactor: 0 },
    { name: 'clear', alphaMode: 'blend' },
    { name: 'cut', alphaMode: 'mask' },
  ];
  const place = (): [number, number, number] => [next() * 60 - 30, next() * 40 - 20, -next() * 60];
  const nodes: SceneNode[] = [];
  const create = (): void => {
    const primitive = (): { geometry: (typeof GEOMETRIES)[0]; material: Material } => ({
      geometry: GEOMETRIES[int(3)]!,
      material: materials[int(materials.length)]!,
    });
    const parent = nodes.length > 0 && next() < 0.2 ? nodes[int(nodes.length)] : undefined;
    nodes.push(
      scene.createNode({
        translation: place(),
        ...(parent?.isAlive ? { parent } : {}),
        ...(next() < 0.9 ? { mesh: next() < 0.2 ? [primitive(), primitive()] : primitive() } : {}),
      }),
    );
  };
  for (let i = 0; i < start; i++) create();
  const cameras = [0, 1].map(() => scene.createNode({ camera }));
  const lists = cameras.map(() => ({
    list: new DrawList(),
    view: createCameraView(),
    copy: new Uint32Array(0),
  }));
  const alive = (): SceneNode | undefined => {
    const node = nodes[int(nodes.length)];
    return node?.isAlive ? node : undefined;
  };
  const acts: (() => void)[] = [
    create,
    () => alive()?.setTranslation(...place()),
    () => alive()?.setTranslation(...place()),
    () => alive()?.setScale(next() < 0.5 ? 1 : -1, 1, 0.5 + next()),
    () => alive()?.setVisible(next() < 0.6),
    () => (next() < 0.3 ? alive()?.remove() : undefined),
    () =>
      alive()?.setMesh(
        next() < 0.3 ? undefined : { geometry: GEOMETRIES[int(3)]!, material: materials[int(4)]! },
      ),
    () => {
      const [node, parent] = [alive(), next() < 0.4 ? undefined : alive()];
      try {
        node?.setParent(parent);
      } catch (error) {
        // A node cannot hang below itself; that is told, and nothing has changed.
        expect(String(error)).toContain('cannot hang below itself');
      }
    },
    () => {
      if (next() < 0.1) materials[int(4)]!.alphaMode = next() < 0.5 ? 'blend' : 'opaque';
    },
    () => {
      if (next() < 0.05) materials[int(4)]!.batch = next() >= 0.5;
    },
    () => {
      const node = alive();
      if (node)
        setWorldTransforms(
          scene,
          [node.row],
          [1, 0, 0, next() * 9, 0, next() < 0.5 ? 1 : -1, 0, 0, 0, 0, 1, -9],
        );
    },
  ];
  for (let step = 0; step < steps; step++) {
    const changes = next() < 0.1 ? start / 2 : int(6);
    for (let i = 0; i < changes; i++) acts[int(acts.length)]!();
    if (next() < 0.3) cameras[0]!.setRotation(...facing([next() - 0.5, next() * 0.4 - 0.2, -1]));
    lists.forEach((state, k) => {
      if (k === 1 && step % 7 !== 0) return;
      const { list, view } = state;
      const viewChanged = updateCameraView(view, cameras[k]!, 1.5);
      list.update(scene, view, viewChanged);
      if (state.copy.length < list.instances.length) {
        const longer = new Uint32Array(list.instances.length);
        longer.set(state.copy);
        state.copy = longer;
      }
      for (let at = list.changedFrom; at < list.changedTo; at++) state.copy[at] = list.instances[at]!;
      const want = expected(scene, cameras[k]!);
      if (want.has('undecided')) return;
      expect([step, k, [...drawn(list, state.copy)].sort()]).toEqual([step, k, [...want].sort()]);
      const shown = [...scene.meshes].reduce(
        (sum, [node, mesh]) => sum + (node.isShown ? mesh.primitives.length : 0),
        0,
      );
      expect([step, list.culledCount]).toEqual([step, shown - list.instanceCount]);
    });
  }
}

test.each([11, 13, 16])('a list that is mended draws what one made anew would (seed %i)', (seed) => {
  play(seed, 60, 100);
});

test('the same in a scene whose columns lie in WebAssembly', () => {
  play(21, 2600, 7);
});

test('blended instances run back to front after any change', () => {
  const next = random(5);
  const scene = new Scene();
  const material: Material = { alphaMode: 'blend' };
  const cameraNode = scene.createNode({ camera });
  const nodes = Array.from({ length: 80 }, (_, i) =>
    scene.createNode({
      translation: [0, 0, -1 - next() * 50],
      mesh: { geometry: GEOMETRIES[i % 3]!, material },
    }),
  );
  const list = new DrawList();
  const view = createCameraView();
  for (let step = 0; step < 60; step++) {
    for (let i = 0; i < 3; i++) nodes[Math.floor(next() * 80)]!.setTranslation(next(), 0, -1 - next() * 50);
    list.update(scene, view, updateCameraView(view, cameraNode, 1.5));
    const depths: number[] = [];
    for (let command = 0; command < list.commands; command++) {
      for (let i = 0; i < list.commandCount[command]!; i++) {
        depths.push(-scene.columns.world[list.rowAt(list.commandFirst[command]! + i) * 12 + 11]!);
      }
    }
    expect(depths).toHaveLength(80);
    for (let i = 1; i < depths.length; i++) {
      // Depths are told apart to one part in 4096.
      expect(depths[i]! / depths[i - 1]!).toBeLessThan(1 + 1 / 2048);
    }
  }
});

test('opaque order decays no further than a quarter before it is sorted again', () => {
  const scene = new Scene();
  const cameraNode = scene.createNode({ camera });
  const nodes = Array.from({ length: 400 }, (_, i) =>
    scene.createNode({ translation: [0, 0, -2 - i], mesh: { geometry: GEOMETRIES[0]! } }),
  );
  const list = new DrawList();
  const view = createCameraView();
  let sorts = 0;
  for (let step = 0; step < 100; step++) {
    const node = nodes[(step * 37) % 400]!;
    node.setTranslation(0, 0, -2 - ((step * 91) % 400));
    list.update(scene, view, updateCameraView(view, cameraNode, 1.5));
    // A sort writes every position.
    if (list.changedTo - list.changedFrom >= 400) sorts++;
  }
  // The first, and one after each hundred changes at most.
  expect(sorts).toBeGreaterThanOrEqual(1);
  expect(sorts).toBeLessThanOrEqual(3);
});
