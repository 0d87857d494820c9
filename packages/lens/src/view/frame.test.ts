import { jest } from '@jest/globals';
import type { LensError, MaterialShader, SceneNode } from '@umber-lens/core/engine';
import { TraceDevice } from '../device.js';
import { box, captureLight, type Lens, lensOn, type Look, Scene, SHOWS } from '../index.js';
import type { PassClock } from '../ledger/pass-clock.js';
import { openers } from '../resources/packing.js';
import { compileMaterialShader } from '../shaders/index.js';

interface Stage {
  lens: Lens;
  scene: Scene;
  camera: SceneNode;
  heard: LensError[];
}

function stage(look: Look = {}): Stage {
  const heard: LensError[] = [];
  const lens = lensOn(new TraceDevice(), { look, onMessage: (message) => void heard.push(message) });
  const scene = new Scene();
  const camera = scene.createNode({
    translation: [0, 2, 12],
    camera: { type: 'perspective', yfov: 0.8, znear: 0.1 },
  });
  return { lens, scene, camera, heard };
}

/** Draws so often and gives how many shadow maps each frame drew anew. */
const mapsDrawn = ({ lens, scene, camera }: Stage, between: (() => void)[]): number[] =>
  between.map((change) => {
    change();
    lens.draw(scene, camera);
    return lens.ledger.shadows.drawn;
  });

const nothing = (): void => undefined;
const lifting = (by: string): MaterialShader =>
  compileMaterialShader(
    `import { frame } from 'umber/frame.wgsl';
struct Settings { lift: f32, // 0..2 = 0.5
}
fn displace(v: Vertex, s: Settings) -> Vertex { var out = v; out.position.y += ${by}; return out; }`,
  );

test('shadow maps of what a shader moves are drawn when its settings are written, and each frame where it asks for the time', async () => {
  const still = stage();
  const settings = { lift: 0.5 };
  still.scene.createNode({ mesh: { geometry: box(), material: { shader: lifting('s.lift'), settings } } });
  still.scene.createNode({ light: { type: 'spot', intensity: 50, shadow: true } });
  await still.lens.load(still.scene);
  expect(mapsDrawn(still, [nothing, nothing, nothing])).toEqual([1, 0, 0]);
  expect(mapsDrawn(still, [() => (settings.lift = 1), nothing])).toEqual([1, 0]);
  const timed = stage();
  const shader = lifting('s.lift * sin(frame.time)');
  timed.scene.createNode({ mesh: { geometry: box(), material: { shader } } });
  timed.scene.createNode({ light: { type: 'spot', intensity: 50, shadow: true } });
  await timed.lens.load(timed.scene);
  expect(mapsDrawn(timed, [nothing, nothing, nothing])).toEqual([1, 1, 1]);
});

test('a shadow map in which something was missing is drawn once more when that is there', async () => {
  const held = stage();
  held.scene.createNode({ mesh: { geometry: box(), material: { shader: lifting('s.lift') } } });
  held.scene.createNode({ light: { type: 'spot', intensity: 50, shadow: true } });
  held.lens.draw(held.scene, held.camera);
  await held.lens.whenReady();
  // What its shader takes for shadows is asked for by the first picture that has some.
  expect(mapsDrawn(held, [nothing, nothing])).toEqual([1, 1]);
  await held.lens.whenReady();
  expect(mapsDrawn(held, [nothing, nothing, nothing])).toEqual([1, 0, 0]);
});

test('settings of instances that are written draw the shadow map anew', async () => {
  const held = stage();
  const shader = compileMaterialShader(
    `struct InstanceSettings { lift: f32, // 0..2 = 0.5
}
fn displace(v: Vertex, i: InstanceSettings) -> Vertex { var out = v; out.position.y += i.lift; return out; }`,
  );
  const node = held.scene.createNode({
    settings: { lift: 0.2 },
    mesh: { geometry: box(), material: { shader } },
  });
  held.scene.createNode({ light: { type: 'spot', intensity: 50, shadow: true } });
  await held.lens.load(held.scene);
  expect(mapsDrawn(held, [nothing, nothing, () => (node.settings!['lift'] = 1), nothing])).toEqual([
    1, 0, 1, 0,
  ]);
});

test('how far shadows reach is not measured anew because the camera moves', async () => {
  const held = stage();
  const thing = held.scene.createNode({ mesh: { geometry: box() } });
  held.scene.createNode({ light: { type: 'directional', shadow: true } });
  await held.lens.load(held.scene);
  const measured = jest.spyOn(held.scene.root, 'worldBounds');
  mapsDrawn(held, [nothing, nothing]);
  expect(measured).toHaveBeenCalledTimes(1);
  let x = 0;
  const moves = (node: SceneNode) => () => node.setTranslation((x += 0.1), 2, 12);
  mapsDrawn(held, [moves(held.camera), moves(held.camera), moves(held.camera)]);
  expect(measured).toHaveBeenCalledTimes(1);
  mapsDrawn(held, [moves(thing), nothing]);
  expect(measured).toHaveBeenCalledTimes(2);
  mapsDrawn(held, [() => thing.remove(), nothing]);
  expect(measured).toHaveBeenCalledTimes(3);
});

test('materials are looked through for what changed once a frame, however many lists it has', async () => {
  const held = stage();
  held.scene.createNode({ mesh: { geometry: box() } });
  held.scene.createNode({ light: { type: 'directional', shadow: { cascades: 4 } } });
  await held.lens.load(held.scene);
  held.lens.draw(held.scene, held.camera);
  const regroup = jest.spyOn(held.scene.drawables, 'regroup');
  mapsDrawn(held, [nothing, nothing, nothing]);
  expect(held.lens.ledger.shadows.maps).toBe(4);
  expect(regroup).toHaveBeenCalledTimes(3);
});

test('light is captured with no view and look but its own, and the lens keeps its own', async () => {
  const held = stage({ contrast: 1.2 });
  held.scene.createNode({ mesh: { geometry: box() } });
  Object.assign(held.lens.view, { minPixels: 40, renderPath: 'prepass', show: 'clay' });
  held.lens.view.culling.clusters = false;
  const seen: unknown[] = [];
  const { renderer } = held.lens;
  const draw = renderer.draw.bind(renderer);
  renderer.draw = (...given) => {
    const { culling, look, minPixels, renderPath, show } = given[3];
    seen.push({ culling, look, minPixels, renderPath, show });
    draw(...given);
  };
  await captureLight(held.lens, held.scene, [0, 0, 0], { side: 4 });
  expect(seen).toHaveLength(9);
  for (const settings of seen)
    expect(settings).toEqual({
      culling: {},
      look: { exposure: -10, toneMapping: 'none' },
      minPixels: 0,
      renderPath: 'forward',
      show: 'shaded',
    });
  const { minPixels, show, culling } = held.lens.view;
  expect([minPixels, show, culling, held.lens.look]).toEqual([
    40,
    'clay',
    { clusters: false },
    { contrast: 1.2 },
  ]);
});

test('what cannot be shown is refused by itself, whatever messages say', () => {
  const { lens, scene, camera } = stage();
  expect(() => (lens.view.show = 'normals' as never)).toThrow(/"normals" cannot be shown[^]*one of shaded/);
  expect(() => lens.draw(scene, camera, { show: 'normals' as never })).toThrow('cannot be shown');
  for (const show of SHOWS) lens.view.show = show;
  expect(lens.view.show).toBe(SHOWS.at(-1));
});

test('what a frame leaves open is as the lens has it', () => {
  const { lens, scene, camera } = stage();
  lens.view.minPixels = 3;
  const seen: unknown[] = [];
  const { renderer } = lens;
  const draw = renderer.draw.bind(renderer);
  renderer.draw = (...given) => {
    const { minPixels, renderPath, show } = given[3];
    seen.push([minPixels, renderPath, show]);
    draw(...given);
  };
  lens.draw(scene, camera, { show: undefined, renderPath: undefined, minPixels: undefined } as never);
  lens.draw(scene, camera, { look: { exposure: 1 } });
  expect(seen).toEqual([
    [3, 'forward', 'shaded'],
    [3, 'forward', 'shaded'],
  ]);
});

test('what goes wrong beside the script is heard where messages are', async () => {
  const said = jest.spyOn(console, 'warn').mockImplementation(nothing);
  const held = stage();
  const bytes = Uint8Array.of(1, 2, 3);
  const image = { name: 'rust', content: { kind: 'encoded' as const, bytes, mimeType: 'image/png' } };
  held.scene.createNode({
    mesh: { geometry: box(), material: { baseColorTexture: { texture: { image } } } },
  });
  held.lens.draw(held.scene, held.camera);
  const damages = (): number => held.heard.filter(({ code }) => code === 'image/damaged').length;
  // A busy machine may take its time.
  for (let i = 0; i < 100 && damages() === 0; i++) await new Promise((resolve) => setTimeout(resolve, 50));
  held.lens.draw(held.scene, held.camera);
  expect(damages()).toBe(1);
  expect(said).not.toHaveBeenCalled();
  said.mockRestore();
});

test('disposing of a lens disposes of what times its passes', () => {
  const { lens } = stage();
  const dispose = jest.fn();
  lens.renderer.clock = { dispose } as unknown as PassClock;
  lens.dispose();
  expect(dispose).toHaveBeenCalledTimes(1);
  expect(lens.timesPasses).toBe(false);
});

test('a lens that is gone has no say in how packed pictures are decoded', () => {
  const before = openers.size;
  const [a, b] = [stage(), stage()];
  expect(openers.size).toBe(before + 2);
  a.lens.dispose();
  b.lens.dispose();
  expect(openers.size).toBe(before);
});
