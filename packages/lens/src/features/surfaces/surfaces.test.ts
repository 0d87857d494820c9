import { box, type Effect, type Lens, lensOn, Scene, type SceneNode } from '../../index.js';
import { keptBy } from '../../../../../tests/heap.js';
import { describeFrame } from '../../figures.js';
import { TraceDevice } from '../../device.js';
import { halton, shiftFrame } from './jitter.js';

interface Stage {
  device: TraceDevice;
  lens: Lens;
  scene: Scene;
  camera: SceneNode;
  node: SceneNode;
  heard: string[];
}

function stage(): Stage {
  const heard: string[] = [];
  const device = new TraceDevice({ width: 96, height: 64 });
  const lens = lensOn(device, { onMessage: ({ summary }) => heard.push(summary) });
  const scene = new Scene();
  scene.createNode({ light: { type: 'ambient', intensity: 1 } });
  const node = scene.createNode({ mesh: { geometry: box(), material: { metallicFactor: 0 } } });
  const camera = scene.createNode({
    translation: [0, 0, 5],
    camera: { type: 'perspective', yfov: 0.8, znear: 0.1 },
  });
  return { device, lens, scene, camera, node, heard };
}

const passes = (lens: Lens): string[] => lens.ledger.passes.map(({ name }) => name);

const ALL: Effect[] = [
  { type: 'ambient-occlusion' },
  { type: 'screen-space-reflections' },
  { type: 'temporal-antialiasing' },
  { type: 'motion-blur' },
  { type: 'dither' },
];

test('what effects ask of surfaces is drawn ahead, and only that; without them nothing is', async () => {
  const { device, lens, scene, camera, heard } = stage();
  const made = async (finish: Effect[]): Promise<[names: string[], targets: string[]]> => {
    lens.view.finish = finish;
    await lens.load(scene);
    for (let i = 0; i < 2; i++) lens.draw(scene, camera);
    const names = ['normals', 'mirrored', 'velocities', 'things'];
    return [passes(lens), names.filter((name) => describeFrame(lens).includes(name))];
  };
  expect(await made([])).toEqual([['list', 'opaque', 'blended', 'finish'], []]);
  expect((await made([{ type: 'ambient-occlusion' }]))[1]).toEqual(['normals']);
  expect((await made([{ type: 'screen-space-reflections' }]))[1]).toEqual(['normals', 'mirrored']);
  expect((await made([{ type: 'motion-blur' }]))[1]).toEqual(['normals', 'mirrored', 'velocities']);
  const [names, targets] = await made([...ALL, { type: 'sepia', sees: 1 }]);
  expect(targets).toHaveLength(4);
  expect(names.filter((name) => !/list|motion tiles|smooth|blended/.test(name))).toEqual([
    'surfaces',
    'ambient occlusion',
    'opaque',
    'keep places',
    'screen-space-reflections',
    '3 age',
    '3 temporal-antialiasing',
    '4 motion-blur',
    '5 dither',
    'finish',
    '1 sepia',
    '2 where sepia is',
  ]);
  expect(heard).toEqual([]);
  device.recording = false;
  lens.dispose();
  expect(device.owners()).toEqual([]);
});

test('frames keep nothing on the heap, and what was kept of frames before goes', async () => {
  const { device, lens, scene, camera, node, heard } = stage();
  device.recording = false;
  lens.view.finish = ALL;
  await lens.load(scene);
  let time = 0;
  const frame = (): void => {
    node.setTranslation(Math.sin(time++) * 0.1, 0, 0);
    lens.draw(scene, camera);
  };
  for (let i = 0; i < 300; i++) frame();
  const kept = keptBy(() => {
    for (let i = 0; i < 300; i++) frame();
  }, 12_000);
  expect(kept).toBeLessThan(12_000);
  const { buffers, textures } = lens.ledger.living;
  lens.view.finish = [];
  for (let i = 0; i < 400; i++) frame();
  expect(lens.ledger.living.textures).toBeLessThan(textures - 5);
  expect(lens.ledger.living.buffers).toBeLessThan(buffers - 3);
  expect(heard).toEqual([]);
});

test('views that take turns each know their own frame before', async () => {
  const { device, lens, scene, camera } = stage();
  const other = scene.createNode({ translation: [0, 1, 5], camera: camera.camera! });
  const target = lens.createTarget({ width: 64, height: 64 });
  lens.view.finish = [{ type: 'motion-blur' }];
  await lens.load(scene);
  const copies = (): number => {
    device.commands.length = 0;
    lens.draw(scene, camera);
    lens.draw(scene, other, { target });
    return device.commands.filter(([name]) => name === 'copyBuffer').length;
  };
  // Places and poses of each: as they are, where nothing is known of before, and for the next frame.
  expect(copies()).toBe(8);
  expect(copies()).toBe(4);
  // One that was drawn without meanwhile knows nothing.
  lens.draw(scene, other, { target, finish: [] });
  expect(copies()).toBe(6);
  // Who asks for normals alone has nothing kept, and who asks for more later begins with where things are.
  lens.view.finish = [{ type: 'ambient-occlusion' }];
  expect(copies()).toBe(0);
  lens.view.finish = [{ type: 'motion-blur' }];
  expect(copies()).toBe(8);
});

test('pictures on demand are drawn until they are as smooth as they get, and rest then', async () => {
  const { lens, scene, camera, node } = stage();
  lens.view.finish = [{ type: 'temporal-antialiasing' }];
  lens.view.onDemand = true;
  await lens.load(scene);
  const drawn = (frames: number): number => {
    const before = lens.ledger.unchanged;
    for (let i = 0; i < frames; i++) lens.draw(scene, camera);
    return frames - (lens.ledger.unchanged - before);
  };
  expect(drawn(60)).toBe(60);
  expect(drawn(40)).toBeLessThan(12);
  expect(drawn(10)).toBe(0);
  node.setTranslation(0.1, 0, 0);
  expect(drawn(60)).toBe(60);
});

test('half of the pixels along each side are drawn, and all are shown', async () => {
  const { device, lens, scene, camera } = stage();
  lens.view.finish = [
    { type: 'temporal-antialiasing', resolution: 0.5 },
    { type: 'bloom' },
    { type: 'depth-of-field', focus: 4 },
    { type: 'sepia' },
  ];
  await lens.load(scene);
  for (let i = 0; i < 2; i++) lens.draw(scene, camera);
  // What asks for depths comes before what makes more pixels.
  const names = passes(lens).filter((name) => /^\d/.test(name) && !/bloom (up|down)/.test(name));
  expect(names).toEqual(['3 depth-of-field', '1 age', '1 temporal-antialiasing', '2 bloom', '1 sepia']);
  const sizes = new Map(device.owners().map(({ label, bytes }) => [label, bytes]));
  expect([...sizes.keys()].some((label) => /before/.test(label))).toBe(true);
});

test.each<[Effect, RegExp]>([
  [{ type: 'ambient-occlusion' }, /ambient-occlusion, is of a whole picture, and does nothing here/],
  [{ type: 'light-shafts' } as Effect, /comes from nowhere/],
])('%j on a node is told, and nothing is drawn of it', async (effect, said) => {
  const { lens, scene, camera, node, heard } = stage();
  node.effects = [effect];
  await lens.load(scene);
  for (let i = 0; i < 2; i++) lens.draw(scene, camera);
  expect(heard.join('\n')).toMatch(said);
  expect(passes(lens).some((name) => /occlusion|air/.test(name))).toBe(false);
});

test('samples lie evenly in a pixel, and rays lean as the picture is shifted', () => {
  const places = Array.from({ length: 64 }, (_, i) => [halton(i + 1, 2), halton(i + 1, 3)] as const);
  // Of 16 squares each has about as many.
  const counts = new Array<number>(16).fill(0);
  for (const [x, y] of places) counts[Math.floor(x * 4) * 4 + Math.floor(y * 4)]!++;
  expect(Math.min(...counts)).toBeGreaterThanOrEqual(3);
  expect(Math.max(...counts)).toBeLessThanOrEqual(5);
  // A camera at the origin that looks along -Z: what was in the middle comes to lie at the shift.
  const frame = new Float32Array(64);
  frame.set([1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 0, -1, 0, 0, 0.1, 0]);
  const { forward, right, up } = { forward: 44, right: 48, up: 52 };
  frame.set([0, 0, -1], forward);
  frame.set([1, 0, 0], right);
  frame.set([0, 1, 0], up);
  shiftFrame(frame, 0.25, -0.5);
  const clip = [0, 1, 3].map((row) => -frame[8 + row]!);
  expect([clip[0]! / clip[2]!, clip[1]! / clip[2]!]).toEqual([0.25, -0.5]);
  // The ray through that place still goes there.
  const ray = [0, 1, 2].map((k) => frame[forward + k]! + frame[right + k]! * 0.25 - frame[up + k]! * 0.5);
  expect(ray.map((part) => Math.round(part * 1e6) / 1e6 + 0)).toEqual([0, 0, -1]);
});
