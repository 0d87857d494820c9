import {
  box,
  type Geometry,
  lensOn,
  type Lens,
  Scene,
  type SceneNode,
  scatterOnGrid,
  sphere,
  Swarm,
} from './index.js';
import { keptBy } from '../../../tests/heap.js';
import { TraceDevice } from './device.js';

function stage(): { device: TraceDevice; lens: Lens; scene: Scene; camera: SceneNode } {
  const device = new TraceDevice();
  const scene = new Scene();
  const camera = scene.createNode({
    translation: [0, 0, 30],
    camera: { type: 'perspective', yfov: 0.8, znear: 0.1 },
  });
  return { device, lens: lensOn(device, { onMessage: () => undefined }), scene, camera };
}

test('nodes that share geometry and material become one draw call', () => {
  const { lens, scene, camera } = stage();
  const [geometry, material] = [box(), { name: 'crate' }];
  for (let i = 0; i < 413; i++)
    scene.createNode({ translation: [(i % 20) - 10, 0, -(i / 20)], mesh: { geometry, material } });
  lens.draw(scene, camera);
  const opaque = lens.ledger.passes.find((pass) => pass.name === 'opaque')!;
  expect(opaque).toMatchObject({ draws: 1, triangles: 413 * 12 });
  // The finish's triangle stands apart from the scene's own figures.
  expect(lens.ledger).toMatchObject({ draws: 1, instances: 413, triangles: 413 * 12 });
  expect(lens.ledger.added).toEqual({ draws: 1, triangles: 1 });
});

test('a still frame uploads no transforms; a moved node uploads its own bytes alone', () => {
  const { device, lens, scene, camera } = stage();
  const geometry = box();
  const nodes = Array.from({ length: 100 }, (_, i) =>
    scene.createNode({ translation: [i % 10, 0, i / 10], mesh: { geometry } }),
  );
  lens.draw(scene, camera);
  device.commands.length = 0;
  lens.draw(scene, camera);
  const uploads = (): unknown[] =>
    device.commands.filter(
      ([name, label]) => name === 'writeBuffer' && /transforms|instances/.test(String(label)),
    );
  expect(uploads()).toEqual([]);
  nodes[50]!.setTranslation(0, 1, 5);
  lens.draw(scene, camera);
  expect(uploads()).toEqual([['writeBuffer', 'transforms', nodes[50]!.row * 48, 48]]);
});

test('a written material is uploaded by itself, with no word from the user', () => {
  const { device, lens, scene, camera } = stage();
  const material = { baseColorFactor: [1, 0, 0, 1] as [number, number, number, number] };
  scene.createNode({ mesh: { geometry: box(), material } });
  lens.draw(scene, camera);
  device.commands.length = 0;
  lens.draw(scene, camera);
  expect(device.commands.filter(([, label]) => label === 'materials')).toHaveLength(0);
  material.baseColorFactor[1] = 0.5;
  lens.draw(scene, camera);
  expect(device.commands.filter(([, label]) => label === 'materials')).toHaveLength(1);
});

test('a steady frame of moving nodes allocates nothing that grows', () => {
  const { device, lens, scene, camera } = stage();
  device.recording = false;
  const [a, b]: Geometry[] = [box(), sphere({ slices: 8, stacks: 4 })];
  const nodes = Array.from({ length: 200 }, (_, i) =>
    scene.createNode({
      translation: [(i % 25) - 12, 0, -i / 25],
      mesh: { geometry: i % 2 ? a! : b!, material: i % 3 ? { alphaMode: 'blend' } : {} },
    }),
  );
  scene.createNode({ light: { type: 'point', intensity: 5 } });
  let time = 0;
  const frame = (): void => {
    time += 0.01;
    for (let i = 0; i < nodes.length; i++)
      nodes[i]!.setTranslation((i % 25) - 12, Math.sin(time + i), -i / 25);
    lens.draw(scene, camera);
  };
  for (let i = 0; i < 120; i++) frame();
  const kept = keptBy(() => {
    for (let i = 0; i < 300; i++) frame();
  }, 6_000);
  expect(kept).toBeLessThan(6_000);
});

test('1,000 frames over a swarm past which the camera moves keep nothing', async () => {
  const { device, lens, scene, camera } = stage();
  device.recording = false;
  const { translations } = scatterOnGrid({ width: 60, depth: 60, spacing: 0.5 });
  const levels = [{ geometry: box(), minPixels: 20 }, { geometry: sphere({ slices: 4, stacks: 2 }) }];
  scene.createNode({ mesh: new Swarm({ levels, transforms: { translations }, density: { minPixels: 8 } }) });
  await lens.load(scene);
  let at = 0;
  const frame = (): void => {
    camera.setTranslation(Math.sin(++at * 0.01) * 10, 2, 20);
    lens.draw(scene, camera);
  };
  for (let i = 0; i < 700; i++) frame();
  expect(lens.ledger.draws).toBeGreaterThan(0);
  const kept = keptBy(() => {
    for (let i = 0; i < 1000; i++) frame();
  }, 6_000);
  expect(kept).toBeLessThan(6_000);
});

test('everything is freed on disposing, and the ledger shows it', () => {
  const { device, lens, scene, camera } = stage();
  const image = {
    content: { kind: 'pixels' as const, width: 1, height: 1, data: new Uint8Array([1, 2, 3, 4]) },
  };
  scene.createNode({ mesh: { geometry: box(), material: { baseColorTexture: { texture: { image } } } } });
  const target = lens.createTarget({ width: 8, height: 8 });
  lens.draw(scene, camera, { target });
  expect(lens.ledger.living.total).toBeGreaterThan(10);
  lens.dispose();
  lens.dispose();
  expect(lens.ledger.living).toMatchObject({ total: 0, bufferBytes: 0, textureBytes: 0 });
  expect(device.counts.living).toBe(0);
  expect(() => lens.draw(scene, camera)).toThrow('has been disposed of');
});

test('geometry and materials that are no longer drawn leave the GPU after a while', () => {
  const { lens, scene, camera } = stage();
  lens.draw(scene, camera);
  const bare = lens.ledger.living.bufferBytes;
  const node = scene.createNode({ mesh: { geometry: sphere({ slices: 64, stacks: 64 }) } });
  lens.draw(scene, camera);
  const full = lens.ledger.living.bufferBytes;
  node.remove();
  for (let i = 0; i < 300; i++) lens.draw(scene, camera);
  expect(full - bare).toBeGreaterThan(190_000);
  expect(lens.ledger.living.bufferBytes - bare).toBeLessThan(30_000);
});

test('lights beyond what one picture can have are counted, not lost in silence', () => {
  const { lens, scene, camera } = stage();
  for (let i = 0; i < 70; i++) scene.createNode({ light: { type: 'point' } });
  lens.draw(scene, camera);
  expect(lens.ledger.lightsLeftOut).toBe(6);
});

test('interleaved attributes become one buffer, lines loops and fans become what every GPU draws', () => {
  const { device, lens, scene, camera } = stage();
  const source = box();
  const loop: Geometry = { ...source, mode: 'line-loop' };
  delete loop.indices;
  scene.createNode({ mesh: { geometry: loop } });
  lens.draw(scene, camera);
  expect(
    device.commands.filter(([name, , usage]) => name === 'createBuffer' && usage === 'index'),
  ).toHaveLength(1);
  expect(device.commands).toContainEqual(['drawIndexed', 25, 1, 0]);
});

test.each([
  [
    'a node without a camera',
    (l: Lens, s: Scene) => l.draw(s, s.createNode({ name: 'rock' })),
    '"rock" carries no camera',
  ],
  [
    'a render path that is not there',
    (l: Lens) => (l.view.renderPath = 'defered' as never),
    'no render path "defered"',
  ],
  ['a target without size', (l: Lens) => l.createTarget({ width: 0, height: 5 }), 'cannot be 0 x 5'],
])('%s is refused', (_, act, message) => {
  const { lens, scene } = stage();
  expect(() => act(lens, scene)).toThrow(message);
});

test('what is new is uploaded by a budget of milliseconds, one thing a frame at least', () => {
  const lens = lensOn(new TraceDevice(), { uploadMilliseconds: 0, onMessage: () => undefined });
  const scene = new Scene();
  for (let i = 0; i < 5; i++) scene.createNode({ mesh: { geometry: box() }, translation: [i - 2, 0, 0] });
  const camera = scene.createNode({
    translation: [0, 0, 9],
    camera: { type: 'perspective', yfov: 1, znear: 0.1 },
  });
  const seen = [1, 2, 3, 4, 5, 6].map(() => {
    lens.draw(scene, camera);
    return [lens.ledger.draws, lens.ledger.waiting];
  });
  expect(seen).toEqual([
    [1, 4],
    [2, 3],
    [3, 2],
    [4, 1],
    [5, 0],
    [5, 0],
  ]);
});

test('a frame may be drawn with another view and look, and the next is as before', () => {
  const { lens, scene, camera } = stage();
  lens.view.minPixels = 2;
  lens.view.culling.clusters = false;
  lens.look.contrast = 1.1;
  const seen: unknown[] = [];
  const { renderer } = lens;
  const draw = renderer.draw.bind(renderer);
  renderer.draw = (...given) => {
    const { show, minPixels, culling, look } = given[3];
    seen.push([show, minPixels, { ...culling }, { ...look }]);
    draw(...given);
  };
  const target = lens.createTarget({ width: 8, height: 8 });
  lens.draw(scene, camera, { target, show: 'clay', culling: { occlusion: true }, look: { exposure: 1 } });
  lens.draw(scene, camera, { target });
  expect(seen).toEqual([
    ['clay', 2, { clusters: false, occlusion: true }, { contrast: 1.1, exposure: 1 }],
    ['shaded', 2, { clusters: false }, { contrast: 1.1 }],
  ]);
  expect(() => lens.draw(scene, camera, { target, renderPath: 'defered' as never })).toThrow(
    'no render path',
  );
  expect([lens.view.show, lens.view.minPixels, lens.look]).toEqual(['shaded', 2, { contrast: 1.1 }]);
});

test('listeners hear what they asked for until they are stopped, each by itself', () => {
  const heard: string[] = [];
  const device = new TraceDevice();
  const lens = lensOn(device);
  const listen = (message: { code: string }): void => void heard.push(message.code);
  const stop = lens.on('message', listen);
  lens.on('message', listen);
  const scene = new Scene();
  const camera = scene.createNode({
    translation: [0, 0, 5],
    camera: { type: 'perspective', yfov: 0.8, znear: 0.1 },
  });
  scene.createNode({ mesh: { geometry: box(), material: { metallicFactor: 0 } } });
  lens.draw(scene, camera, { target: lens.createTarget({ width: 8, height: 8 }) });
  expect(heard).toEqual(['scene/dark', 'scene/dark']);
  stop();
  lens.look.contrast = -1;
  lens.draw(scene, camera, { target: lens.createTarget({ width: 8, height: 8 }) });
  expect(heard).toEqual(['scene/dark', 'scene/dark', 'lens/look']);
  expect(() => lens.on('restore' as never, () => undefined)).toThrow(/no event "restore"[^]*restored/);
});

test('a lens on a device that was handed in frees what it made, and nothing else', () => {
  const device = new TraceDevice();
  const mine = device.createTexture({ label: 'mine', width: 4, height: 4, format: 'rgba8unorm' });
  const before = device.counts.living;
  const lens = lensOn(device, { onMessage: () => undefined });
  expect(lens.device).toBe(device);
  const scene = new Scene();
  const camera = scene.createNode({
    translation: [0, 0, 5],
    camera: { type: 'perspective', yfov: 0.8, znear: 0.1 },
  });
  scene.createNode({ light: { type: 'directional' } });
  scene.createNode({ mesh: { geometry: box(), material: { metallicFactor: 0 } } });
  const target = lens.createTarget({ width: 8, height: 8 });
  for (let i = 0; i < 3; i++) lens.draw(scene, camera, { target });
  const during = device.createBuffer({ label: 'during', usage: 'vertex', size: 16 });
  lens.dispose();
  expect(device.counts.living).toBe(before + 1);
  // Both are still there to be used.
  device.writeBuffer(during, 0, new Float32Array(4));
  device.writeTexture(mine, new Uint8Array(64));
  lens.dispose();
});
