import { box, lensOn, type Lens, type Material, Scene, type SceneNode, sphere } from './index.js';
import { TraceDevice } from './device.js';

const camera = { type: 'perspective', yfov: 0.8, znear: 0.1 } as const;

interface Stage {
  device: TraceDevice;
  lens: Lens;
  scene: Scene;
  nodes: SceneNode[];
  cameras: SceneNode[];
}

/** A field of boxes and balls, seen whole by two cameras from two sides. */
function stage(count = 200): Stage {
  const device = new TraceDevice();
  const lens = lensOn(device, { onMessage: () => undefined });
  const scene = new Scene();
  const geometries = [box(), sphere({ slices: 6, stacks: 4 })];
  const materials: Material[] = [{}, { metallicFactor: 0 }];
  const nodes = Array.from({ length: count }, (_, i) =>
    scene.createNode({
      translation: [(i % 20) - 10, Math.floor(i / 20) - 5, 0],
      mesh: { geometry: geometries[i % 2]!, material: materials[(i >> 1) % 2]! },
    }),
  );
  scene.createNode({ light: { type: 'directional' } });
  const cameras = [
    scene.createNode({ translation: [0, 0, 40], camera }),
    scene.createNode({ translation: [0, 0, -40], rotation: [0, 1, 0, 0], camera }),
  ];
  return { device, lens, scene, nodes, cameras };
}

/** Labels of the buffers that a frame writes into, and of what it makes. */
function frame({ device }: Stage, draw: () => void): { writes: string[]; made: string[] } {
  device.commands.length = 0;
  draw();
  const of = (name: string | RegExp): string[] =>
    device.commands.filter(([command]) => new RegExp(name).test(command)).map(([, label]) => String(label));
  return { writes: of('^writeBuffer$'), made: of('^create') };
}

test('through two cameras a scene that stands still uploads the cameras alone, and makes nothing anew', () => {
  const all = stage();
  const { lens, scene, cameras } = all;
  const both = (): void => cameras.forEach((cameraNode) => lens.draw(scene, cameraNode));
  both();
  both();
  const { writes, made } = frame(all, both);
  expect(made).toEqual([]);
  expect(writes).toEqual(['frame', 'frame']);
  expect(lens.ledger).toMatchObject({ draws: 2, instances: 200, culled: 0 });
});

test('what moved goes up once, however many cameras look at it', () => {
  const all = stage();
  const { lens, scene, cameras, nodes } = all;
  const both = (): void => cameras.forEach((cameraNode) => lens.draw(scene, cameraNode));
  both();
  nodes[7]!.setTranslation(0, 0, 1);
  const { writes } = frame(all, both);
  expect(writes.filter((label) => label === 'transforms')).toHaveLength(1);
  expect(writes.filter((label) => label === 'instances')).toHaveLength(0);
});

test('one camera into three targets of their own shapes keeps a list for each', () => {
  const all = stage();
  const { lens, scene, cameras, nodes } = all;
  const targets = [
    lens.createTarget({ width: 64, height: 64 }),
    lens.createTarget({ width: 128, height: 32 }),
    lens.createTarget({ width: 20, height: 64 }),
  ];
  const three = (): number[] =>
    targets.map((target) => {
      lens.draw(scene, cameras[0]!, { target });
      return lens.ledger.instances;
    });
  const first = three();
  // The narrow one sees less of the field.
  expect(first[0]).toBe(200);
  expect(first[2]).toBeLessThan(200);
  expect(first[2]).toBeGreaterThan(20);
  three();
  const { writes, made } = frame(all, three);
  expect(made).toEqual([]);
  expect(writes.filter((label) => label !== 'frame')).toEqual([]);
  nodes[0]!.remove();
  expect(three()).toEqual([199, first[1]! - 1, first[2]]);
});

test('an camera that looks again after a while sees what happened meanwhile', () => {
  const { lens, scene, cameras, nodes } = stage();
  const see = (k: number): number => {
    lens.draw(scene, cameras[k]!);
    return lens.ledger.instances;
  };
  expect([see(0), see(1)]).toEqual([200, 200]);
  for (let i = 0; i < 30; i++) {
    nodes[i]!.setVisible(false);
    nodes[60 + i]!.setTranslation(0, 0, 1000 + i);
    see(0);
  }
  for (let i = 0; i < 10; i++) nodes[100 + i]!.remove();
  scene.createNode({ mesh: { geometry: box() } });
  // Those at z = 1000 are behind the first camera and before the second.
  expect(see(0)).toBe(200 - 30 - 30 - 10 + 1);
  expect(see(1)).toBe(200 - 30 - 10 + 1);
});

test('scenes in turn keep what they have on the GPU, and give it back when they are no longer drawn', () => {
  const device = new TraceDevice();
  const lens = lensOn(device, { onMessage: () => undefined });
  const scenes = [0, 1, 2].map((k) => {
    const scene = new Scene();
    for (let i = 0; i < 30 + k; i++)
      scene.createNode({ translation: [0, 0, -5 - i], mesh: { geometry: box() } });
    return { scene, camera: scene.createNode({ camera }) };
  });
  const round = (): number[] =>
    scenes.map(({ scene, camera: cameraNode }) => {
      lens.draw(scene, cameraNode);
      return lens.ledger.instances;
    });
  expect(round()).toEqual([30, 31, 32]);
  device.commands.length = 0;
  expect(round()).toEqual([30, 31, 32]);
  expect(device.commands.filter(([name]) => name.startsWith('create'))).toEqual([]);
  const full = device.counts.bufferBytes;
  for (let i = 0; i < 300; i++) lens.draw(scenes[0]!.scene, scenes[0]!.camera);
  expect(device.counts.bufferBytes).toBeLessThan(full - 2 * 30 * 48);
  expect(round()).toEqual([30, 31, 32]);
});

test('a node with several primitives is drawn by each of them, and leaves with all', () => {
  const { lens, scene, cameras } = stage(0);
  const [a, b]: Material[] = [{ name: 'hull' }, { name: 'glass', alphaMode: 'blend' }];
  const tug = scene.createNode({
    mesh: [
      { geometry: box(), material: a! },
      { geometry: box({ width: 2 }), material: b! },
      { geometry: sphere(), material: a! },
    ],
  });
  const parts = (): [number, number][] =>
    lens.ledger.passes
      .filter(({ name }) => /opaque|blended/.test(name))
      .map(({ draws, triangles }) => [draws, triangles]);
  lens.draw(scene, cameras[0]!);
  expect(lens.ledger).toMatchObject({ draws: 3, instances: 3 });
  expect(parts()[1]).toEqual([1, 12]);
  tug.setMesh({ geometry: box(), material: b! });
  lens.draw(scene, cameras[0]!);
  expect(parts()).toEqual([
    [0, 0],
    [1, 12],
  ]);
  b!.alphaMode = 'opaque';
  lens.draw(scene, cameras[0]!);
  expect(parts()).toEqual([
    [1, 12],
    [0, 0],
  ]);
  tug.setMesh(undefined);
  lens.draw(scene, cameras[0]!);
  expect(lens.ledger).toMatchObject({ draws: 0, instances: 0, culled: 0 });
});

test('what is hidden is not culled: the ledger tells the two apart', () => {
  const { lens, scene, cameras, nodes } = stage(20);
  nodes[0]!.setVisible(false);
  nodes[1]!.setTranslation(0, 0, 500);
  nodes[2]!.setTranslation(0, 0, 500).setVisible(false);
  lens.draw(scene, cameras[0]!);
  expect(lens.ledger).toMatchObject({ instances: 17, culled: 1 });
});

test('pipelines are all under way before the first of a frame is drawn with', () => {
  const all = stage();
  const { lens, scene, cameras, device } = all;
  scene.createNode({ scale: [-1, 1, 1], mesh: { geometry: box(), material: { unlit: true } } });
  device.commands.length = 0;
  lens.draw(scene, cameras[0]!);
  const names = device.commands.map(([name]) => name);
  expect(names.lastIndexOf('createRenderPipeline')).toBeGreaterThan(-1);
  const firstPass = names.indexOf('beginRenderPass');
  const made = device.commands.filter(([name]) => name === 'createRenderPipeline').map(([, label]) => label);
  expect(made).toEqual(expect.arrayContaining(['lit', 'unlit']));
  for (const [i, name] of names.entries()) {
    if (name === 'createRenderPipeline' && device.commands[i]![1] !== 'finish')
      expect(i).toBeLessThan(firstPass);
  }
});
