import type * as Umber from 'umber-lens';
import type { Backend, Effect, RenderPath } from 'umber-lens';
import { testPage } from './stage.js';

/** What a picture shows of things that are treated, and of the same things that are not. */
interface Apart {
  largest: number;
  mean: number;
  /** Pixels that are more than 8 of 255 apart. */
  wrong: number;
}

const KINDS = ['lit', 'glass', 'swarm', 'marched', 'skinned', 'hook', 'masked'] as const;
type Kind = (typeof KINDS)[number];

/**
 * A thing of a kind between a wall behind it, a post before it and two panes, one on either side; once with effects that leave
 * all as it is, and once without.
 */
async function untouched([kind, renderPath, antialias]: [Kind, RenderPath, boolean]): Promise<Apart> {
  const { box, compileMaterialShader, loadModel, plane, Scene, sphere, Swarm } = umber;
  const lens = await keptLens({ antialias });
  const target = lens.createTarget({ width: 160, height: 100 });
  const scene = new Scene({ clearColor: [0.1, 0.2, 0.3, 1] });
  scene.createNode({
    rotation: umber.axisAngle([1, 0.4, 0], -0.9),
    light: { type: 'directional', intensity: 3, shadow: {} },
  });
  scene.createNode({ light: { type: 'ambient', intensity: 0.4 } });
  const put = (geometry: Umber.Geometry, at: number[], material: Umber.Material): Umber.SceneNode =>
    scene.createNode({ translation: at, mesh: { geometry, material } });
  put(box({ width: 5, height: 4, depth: 0.2 }), [0, 0, -2], { baseColorFactor: [0.6, 0.5, 0.4, 1] });
  put(box({ width: 0.3, height: 4, depth: 0.3 }), [0.5, 0, 1], { baseColorFactor: [0.2, 0.6, 0.3, 1] });
  const pane = (at: number[], color: [number, number, number, number]): Umber.SceneNode =>
    put(box({ width: 1.6, height: 1, depth: 0.02 }), at, {
      baseColorFactor: color,
      alphaMode: 'blend',
    });
  pane([-0.6, 0.3, 1.4], [0.9, 0.2, 0.1, 0.5]);
  pane([0.3, -0.3, -1.2], [0.1, 0.3, 0.9, 0.5]);
  const group = scene.createNode({ name: 'treated', rotation: umber.axisAngle([0, 1, 0], 0.5) });
  const wgsl = {
    hook: 'fn surface(p: Fragment) -> Surface { var s = surfaceDefaults(p); s.emissive = vec3f(fract(p.screenPosition / 16), 0); return s; }',
    marched: `fn march(ray: Ray) -> Hit {
  let b = dot(ray.origin, ray.direction);
  let d = b * b - dot(ray.origin, ray.origin) + 0.81;
  if d < 0 { return miss(); }
  let p = ray.origin - ray.direction * (b + sqrt(d));
  return hitAt(p, normalize(p));
}`,
  };
  const material: Umber.Material = {
    baseColorFactor: [0.8, 0.7, 0.2, kind === 'glass' ? 0.6 : 1],
    ...(kind === 'glass' ? { alphaMode: 'blend' as const } : {}),
    ...(kind === 'masked' ? { alphaMode: 'mask' as const } : {}),
    ...(kind === 'hook' || kind === 'marched' ? { shader: compileMaterialShader(wgsl[kind]) } : {}),
  };
  if (kind === 'skinned') {
    const crab = await loadModel('models/crab.glb');
    const { min, max } = crab.placeIn(scene, { parent: group }).worldBounds();
    group.setScale(2.4 / Math.max(...max.map((most, k) => most - min[k]!)));
  } else if (kind === 'swarm')
    scene.createNode({
      parent: group,
      mesh: new Swarm({
        geometry: sphere({ radius: 0.35 }),
        material,
        transforms: { translations: [-0.8, 0, 0, 0.8, 0, 0, 0, 0.7, 0, 0, -0.7, 0] },
      }),
    });
  else
    scene.createNode({
      parent: group,
      mesh: { geometry: kind === 'marched' ? box({ width: 2, height: 2, depth: 2 }) : sphere(), material },
    });
  scene.createNode({ parent: group, mesh: { geometry: plane(), material }, translation: [0, -0.8, 0] });
  const camera = scene.createNode({
    translation: [0, 0.2, 4],
    camera: { type: 'perspective', yfov: 0.8, znear: 0.1 },
  });
  lens.view.renderPath = renderPath;
  const drawn = async (effects: Effect[]): Promise<Uint8Array> => {
    group.effects = effects;
    await lens.load(scene);
    lens.draw(scene, camera, { target });
    await lens.whenReady();
    lens.draw(scene, camera, { target });
    return target.read();
  };
  const plain = await drawn([]);
  const treated = await drawn([{ type: 'brightness', amount: 1 }]);
  const names = lens.ledger.passes.map(({ name }) => name);
  target.dispose();
  if (!names.includes('layer 1 treated')) throw new Error(`no layer: ${names.join(', ')}`);
  let [largest, sum, wrong] = [0, 0, 0];
  for (let i = 0; i < plain.length; i++) {
    const apart = Math.abs(plain[i]! - treated[i]!);
    sum += apart;
    largest = Math.max(largest, apart);
    if (apart > 8) wrong++;
  }
  return { largest, mean: sum / plain.length, wrong };
}

/** A group of flat things alone, treated; and the picture of the same treated as a whole. */
async function likePictures(lists: Effect[][]): Promise<Apart[]> {
  const { box, Scene, sphere } = umber;
  const lens = await keptLens({ antialias: false });
  const target = lens.createTarget({ width: 160, height: 100 });
  const scene = new Scene();
  const group = scene.createNode();
  const add = (geometry: Umber.Geometry, color: [number, number, number, number], at: number[]): void =>
    void scene.createNode({
      parent: group,
      translation: at,
      mesh: {
        geometry,
        material: {
          unlit: true,
          baseColorFactor: color,
          ...(color[3] < 1 ? { alphaMode: 'blend' as const } : {}),
        },
      },
    });
  add(box(), [0.9, 0.05, 0.02, 1], [-0.6, 0.2, 0]);
  add(sphere({ radius: 0.5 }), [0.05, 0.5, 0.1, 1], [0.4, 0.1, 0]);
  add(box(), [0.1, 0.2, 0.9, 0.5], [0.6, -0.3, 0.6]);
  const camera = scene.createNode({
    translation: [0, 0, 7],
    camera: { type: 'perspective', yfov: 0.7, znear: 0.1 },
  });
  const read = async (): Promise<Uint8Array> => {
    await lens.load(scene);
    lens.draw(scene, camera, { target });
    return target.read();
  };
  const found: Apart[] = [];
  for (const list of lists) {
    group.effects = [];
    lens.view.finish = list;
    const whole = await read();
    lens.view.finish = [];
    group.effects = list;
    const treated = await read();
    let [largest, sum, wrong] = [0, 0, 0];
    for (let i = 0; i < whole.length; i++) {
      const apart = Math.abs(whole[i]! - treated[i]!);
      sum += apart;
      largest = Math.max(largest, apart);
      if (apart > 8) wrong++;
    }
    found.push({ largest, mean: sum / whole.length, wrong });
  }
  target.dispose();
  return found;
}

const LISTS: Effect[][] = [
  [{ type: 'blur', stdDeviation: 2 }],
  [{ type: 'sepia' }, { type: 'contrast', amount: 1.4 }],
  [{ type: 'drop-shadow', offset: [6, 5], stdDeviation: 2, color: [0.2, 0, 0.4, 0.8] }],
  [
    { type: 'morphology', operator: 'dilate', radius: 2 },
    { type: 'hue-rotate', angle: 1 },
  ],
  [
    { type: 'offset', dx: 9, dy: -4, result: 'moved' },
    { type: 'blend', mode: 'multiply', in: 'SourceGraphic', in2: 'moved' },
    { type: 'opacity', amount: 0.6 },
  ],
];

/** Colors at places of a picture of boxes: a near one before a far one in a group, a post before both, one more behind. */
async function boxes(): Promise<Record<string, number[]>> {
  const { box, Scene } = umber;
  const lens = await keptLens({ antialias: false });
  const target = lens.createTarget({ width: 80, height: 60 });
  const scene = new Scene({ clearColor: [0, 0, 0, 1] });
  const put = (color: number[], at: number[], size: number, parent?: Umber.SceneNode): Umber.SceneNode =>
    scene.createNode({
      ...(parent ? { parent } : {}),
      translation: at,
      mesh: {
        geometry: box({ width: size, height: size, depth: 0.2 }),
        material: { unlit: true, baseColorFactor: [...color, 1] as [number, number, number, number] },
      },
    });
  const group = scene.createNode();
  const near = put([1, 0, 0], [0, 0, 1], 1, group);
  put([0, 1, 0], [0, 0, 0], 2, group);
  put([0, 0, 1], [1.2, 0, 2], 1);
  put([1, 1, 1], [0, 0.7, -1], 1.6);
  const camera = scene.createNode({
    translation: [0, 0, 10],
    camera: { type: 'orthographic', xmag: 2, ymag: 1.5, znear: 0.1, zfar: 20 },
  });
  const found: Record<string, number[]> = {};
  const look = async (name: string, x: number, y: number): Promise<void> => {
    await lens.load(scene);
    lens.draw(scene, camera, { target });
    const pixels = await target.read();
    const at = (Math.round(30 - y * 20) * 80 + Math.round(40 + x * 20)) * 4;
    found[name] = [...pixels.subarray(at, at + 3)];
  };
  group.effects = [{ type: 'opacity', amount: 0.5 }];
  await look('the near one, faded with what lies behind it', 0, 0);
  await look('the far one, faded before what is no part of it', 0.7, 0.85);
  await look('what hides it', 0.8, 0);
  near.effects = [{ type: 'invert' }];
  await look('inverted within what is faded', 0, 0);
  group.effects = [{ type: 'grayscale' }];
  await look('inverted, and grey with all else', 0, 0);
  group.setVisible(false);
  await look('hidden with its effects', -0.8, -0.8);
  group.setVisible(true);
  group.effects = [];
  await look('inverted alone', 0, 0);
  near.setParent(undefined, { keepWorld: true });
  near.effects = [];
  await look('as it was', 0, 0);
  group.effects = [{ type: 'outline', width: 3, color: [1, 0, 1, 1], occludedColor: [0, 1, 1, 1] }];
  await look('a line around it', -1.08, 0);
  await look('within the line it is as it was', -0.9, 0);
  await look('the line where it is hidden', 1.04, 0);
  await look('beyond the line', -1.3, 0);
  // Spread beyond the thing itself, it is hidden by what is nearer and hides what is farther.
  group.effects = [{ type: 'flood', floodColor: [1, 1, 0] }];
  await look('a flood behind what is nearer', 0.8, 0);
  await look('a flood before what is farther', 0.6, 0.9);
  target.dispose();
  return found;
}

/** Half of linear light is 188 of 255. */
const WANTED: Record<string, number[]> = {
  'the near one, faded with what lies behind it': [255, 188, 188],
  'the far one, faded before what is no part of it': [188, 255, 188],
  'what hides it': [0, 0, 255],
  'inverted within what is faded': [188, 255, 255],
  'inverted, and grey with all else': [201, 201, 201],
  'hidden with its effects': [0, 0, 0],
  'inverted alone': [0, 255, 255],
  'as it was': [255, 0, 0],
  'a line around it': [255, 0, 255],
  'within the line it is as it was': [0, 255, 0],
  'the line where it is hidden': [0, 255, 255],
  'beyond the line': [0, 0, 0],
  'a flood behind what is nearer': [0, 0, 255],
  'a flood before what is farther': [255, 255, 0],
};

const PATHS: [Kind, RenderPath, boolean][] = [
  ['lit', 'prepass', true],
  ['lit', 'deferred', false],
  ['glass', 'forward', false],
  ['swarm', 'deferred', true],
];

describe.each<Backend>(['webgl2', 'webgpu'])('effects on nodes on %s', (backend) => {
  const held = testPage({ as: backend });

  test.each<[Kind, RenderPath, boolean]>([
    ...KINDS.map((kind): [Kind, RenderPath, boolean] => [kind, 'forward', true]),
    // The paths are the same on both: one interface draws them all.
    ...(backend === 'webgl2' ? PATHS : []),
  ])('those that change nothing leave %s as they are, drawn by %s (antialiased: %s)', async (...given) => {
    const { mean, wrong } = await held.page.evaluate(untouched, given);
    // At edges, what is blended before its samples are averaged is not quite what is blended after.
    expect({ mean: mean < 0.25, wrong: wrong < 160 * 100 * 0.01 }).toEqual({ mean: true, wrong: true });
  });

  test('they do what they do to a whole picture', async () => {
    const found = await held.page.evaluate(likePictures, LISTS);
    expect(found.flatMap(({ largest }, i) => (largest > 2 ? [{ list: LISTS[i]!, largest }] : []))).toEqual(
      [],
    );
  });

  test('a group is faded as a whole, hides and is hidden, and may hold others', async () => {
    const found = await held.page.evaluate(boxes);
    const apart = Object.entries(WANTED).flatMap(([what, color]) =>
      color.some((part, k) => Math.abs(part - found[what]![k]!) > 2) ? [[what, found[what]]] : [],
    );
    expect(apart).toEqual([]);
  });
});
