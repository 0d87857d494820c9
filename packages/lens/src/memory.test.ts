import { box, type Lens, lensOn, Scene, type SceneNode, sphere, Swarm } from './index.js';
import { TraceDevice } from './device.js';

interface Stage {
  device: TraceDevice;
  lens: Lens;
  scene: Scene;
  camera: SceneNode;
}

function stage(onDemand = false): Stage {
  const device = new TraceDevice();
  const scene = new Scene();
  const camera = scene.createNode({
    translation: [0, 0, 30],
    camera: { type: 'perspective', yfov: 0.8, znear: 0.1 },
  });
  return { device, lens: lensOn(device, { onMessage: () => undefined, view: { onDemand } }), scene, camera };
}

const bytesOf = (device: TraceDevice, label: RegExp): number =>
  device
    .owners()
    .filter((owner) => label.test(owner.label))
    .reduce((sum, { bytes }) => sum + bytes, 0);

/** Bytes written to a buffer since the last call. */
function uploaded(device: TraceDevice, wanted: string): number {
  let sum = 0;
  for (const [name, label, , bytes] of device.commands)
    if (name === 'writeBuffer' && label === wanted) sum += Number(bytes);
  device.commands.length = 0;
  return sum;
}

const swarmOf = (count: number): Swarm =>
  new Swarm({
    geometry: box(),
    transforms: { translations: Float32Array.from({ length: count * 3 }, (_, i) => (i % 13) - 6) },
  });

test('a swarm that takes the place of another takes its room, and is uploaded alone', async () => {
  const { device, lens, scene, camera } = stage();
  scene.createNode({ mesh: swarmOf(500) });
  let node = scene.createNode({ mesh: swarmOf(1000) });
  await lens.load(scene);
  for (let i = 0; i < 4; i++) lens.draw(scene, camera);
  const before = bytesOf(device, /^swarms$/);
  // 1,500 records of three steps of 16 bytes, and a head of each.
  expect(before).toBeGreaterThanOrEqual(1500 * 48);
  uploaded(device, 'swarms');
  for (let swap = 0; swap < 50; swap++) {
    node.remove();
    node = scene.createNode({ mesh: swarmOf(1000) });
    lens.draw(scene, camera);
    const bytes = uploaded(device, 'swarms');
    expect(bytes).toBeGreaterThanOrEqual(1000 * 48);
    expect(bytes).toBeLessThan(1010 * 48);
  }
  expect(bytesOf(device, /^swarms$/)).toBeLessThanOrEqual(before * 1.7);
});

test('a swarm that comes back in the next frame is not uploaded again; a larger one moves nothing but itself', async () => {
  const { device, lens, scene, camera } = stage();
  const swarm = swarmOf(1000);
  const node = scene.createNode({ mesh: swarm });
  await lens.load(scene);
  lens.draw(scene, camera);
  uploaded(device, 'swarms');
  node.setMesh(undefined);
  lens.draw(scene, camera);
  node.setMesh(swarm);
  lens.draw(scene, camera);
  expect(uploaded(device, 'swarms')).toBe(0);
  scene.createNode({ mesh: swarmOf(4000) });
  lens.draw(scene, camera);
  const copies = device.commands.filter(([name]) => name === 'copyBuffer');
  expect(copies).toEqual([['copyBuffer', 'swarms', 'swarms']]);
  const bytes = uploaded(device, 'swarms');
  expect(bytes).toBeGreaterThanOrEqual(4000 * 48);
  expect(bytes).toBeLessThan(4010 * 48);
});

test.each([false, true])(
  'a removed mesh is freed two frames later, also where only changes are drawn: %s',
  (only) => {
    const { device, lens, scene, camera } = stage(only);
    scene.createNode({ mesh: { geometry: { ...box(), name: 'kept' } } });
    const node = scene.createNode({ mesh: { geometry: { ...sphere(), name: 'gone' } } });
    lens.draw(scene, camera);
    expect(bytesOf(device, /^gone/)).toBeGreaterThan(0);
    node.remove();
    for (let i = 0; i < 3; i++) lens.draw(scene, camera);
    expect(bytesOf(device, /^gone/)).toBe(0);
    expect(bytesOf(device, /^kept/)).toBeGreaterThan(0);
  },
);

test('what another scene holds stays, though that is not drawn at the moment', () => {
  const { device, lens, scene, camera } = stage();
  const other = new Scene();
  const otherCamera = other.createNode({ camera: { type: 'perspective', yfov: 0.8, znear: 0.1 } });
  other.createNode({ translation: [0, 0, -5], mesh: { geometry: { ...box(), name: 'of the other' } } });
  lens.draw(other, otherCamera);
  const node = scene.createNode({ mesh: { geometry: { ...box(), name: 'gone' } } });
  lens.draw(scene, camera);
  node.remove();
  for (let i = 0; i < 5; i++) lens.draw(scene, camera);
  expect(bytesOf(device, /^gone/)).toBe(0);
  const there = bytesOf(device, /^of the other/);
  expect(there).toBeGreaterThan(0);
  device.commands.length = 0;
  lens.draw(other, otherCamera);
  expect(
    device.commands.filter(
      ([name, label]) => name === 'writeBuffer' && String(label).startsWith('of the other'),
    ),
  ).toEqual([]);
  lens.release(other);
  expect(bytesOf(device, /^of the other/)).toBe(0);
});

test('what goes after the last frame is freed without another; release does so at once', async () => {
  const { device, lens, scene, camera } = stage();
  const nodes = [1, 2].map((i) => scene.createNode({ mesh: { geometry: { ...box(), name: `gone ${i}` } } }));
  lens.draw(scene, camera);
  nodes[0]!.remove();
  lens.release();
  expect(bytesOf(device, /^gone 1/)).toBe(0);
  expect(bytesOf(device, /^gone 2/)).toBeGreaterThan(0);
  nodes[1]!.remove();
  await new Promise((resolve) => setTimeout(resolve, 500));
  expect(bytesOf(device, /^gone/)).toBe(0);
});

test('a thousand lenses leave nothing behind', () => {
  const scene = new Scene();
  const camera = scene.createNode({ camera: { type: 'perspective', yfov: 0.8, znear: 0.1 } });
  scene.createNode({ translation: [0, 0, -5], mesh: { geometry: box() } });
  for (let i = 0; i < 1000; i++) {
    const device = new TraceDevice();
    const lens = lensOn(device, { onMessage: () => undefined });
    lens.draw(scene, camera);
    lens.dispose();
    expect(device.owners()).toEqual([]);
  }
  expect(scene.drawables.onLeave.size).toBe(0);
});
