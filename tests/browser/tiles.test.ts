import type * as Umber from 'umber-lens';
import type { Backend } from 'umber-lens';
import { inTurn, testPage } from './stage.js';

/** Pixels of a picture, and of a side of the textures that there are: too small for it. */
const SIZES = [200, 130, 96] as const;

interface Case {
  look?: Umber.Look;
  finish?: Umber.Effect[];
  camera?: Umber.Camera;
  renderPath?: Umber.RenderPath;
  /** What else is in the scene, by name. */
  with?: string[];
  sizes?: readonly [width: number, height: number, small: number];
}

const CASES: Record<string, Case> = {
  'an orthographic camera, many lights and a marched shape': {
    camera: { type: 'orthographic', xmag: 3, ymag: 2, znear: 0.1, zfar: 40 },
    with: ['march', 'lights'],
  },
  'a camera cut off by a plane, and shaders that go by pixels of the picture': {
    camera: { type: 'perspective', yfov: 0.8, znear: 0.1, nearPlane: [0, 0, -1, 2.7] },
    with: ['stripes'],
  },
  'light that is added later, before a backdrop in fog': {
    with: ['lights', 'backdrop', 'march'],
    renderPath: 'deferred',
  },
  'a swarm whose levels change, blended things and nodes with effects': {
    with: ['swarm', 'glass', 'blurred'],
  },
  'frosted glass, a vignette, and exposure that was measured': {
    with: ['frosted', 'backdrop'],
    look: { vignette: { size: 0.3, weight: 0.8 }, contrast: 1.2, automaticExposure: true },
  },
  'effects on what is shown': {
    with: ['own effect'],
    finish: [
      { type: 'turbulence', baseFrequency: 0.05, result: 'noise' },
      {
        type: 'displacement',
        in: 'SourceGraphic',
        map: 'noise',
        scale: 8,
        xChannel: 'red',
        yChannel: 'green',
      },
      { type: 'blur', stdDeviation: 2 },
      { type: 'lens-distortion', amount: 0.05 },
      { type: 'chromatic-aberration', amount: 6 },
    ],
  },
  'effects on light': {
    finish: [
      { type: 'ambient-occlusion', radius: 0.3 },
      { type: 'depth-of-field', focus: 6, fStop: 1.4, sensorHeight: 0.4 },
    ],
  },
  bloom: { finish: [{ type: 'bloom', amount: 0.4 }], sizes: [420, 100, 256] },
};

/** Made in the page: the same scene for all, besides what a case asks for. */
const STAGE = `globalThis.tilesOf = async (one, [width, height, small]) => {
  const { box, compileMaterialShader, plane, Scene, sphere, Swarm } = umber;
  const lens = await keptLens({});
  const scene = new Scene({ clearColor: [0.1, 0.12, 0.2, 0.5], imageLight: undefined });
  const shaderOf = (text) => compileMaterialShader(text);
  const paint = (r, g, b, more = {}) => ({ baseColorFactor: [r, g, b, 1], metallicFactor: 0, roughnessFactor: 0.6, ...more });
  scene.createNode({ translation: [0, -0.8, 0], mesh: { geometry: plane({ width: 14, depth: 14 }), material: paint(0.6, 0.55, 0.5) } });
  const shapes = [box({ width: 0.7, height: 0.7, depth: 0.7 }), sphere({ radius: 0.45 })];
  for (let i = 0; i < 15; i++)
    scene.createNode({
      translation: [((i % 5) - 2) * 1.2, -0.3 + 0.2 * (i % 3), (Math.floor(i / 5) - 1) * 1.6],
      rotation: [0, Math.sin(i), 0, Math.cos(i)],
      mesh: { geometry: shapes[i % 2], material: paint(0.3 + 0.05 * i, 0.9 - 0.05 * i, (i % 4) / 4) },
    });
  scene.createNode({ rotation: [-0.45, 0.25, 0.1, 0.85], light: { type: 'directional', intensity: 2.5, angle: 0.03, shadow: true } });
  scene.createNode({ light: { type: 'hemisphere', intensity: 0.4, color: [0.6, 0.7, 1], groundColor: [0.3, 0.25, 0.2] } });
  const finish = [...(one.finish ?? [])];
  for (const what of one.with ?? [])
    switch (what) {
      case 'lights':
        for (let i = 0; i < 60; i++)
          scene.createNode({
            translation: [((i * 37) % 60) / 10 - 3, -0.5 + ((i * 13) % 10) / 10, ((i * 17) % 40) / 10 - 2],
            light: { type: 'point', range: 0.9, intensity: 1.5, color: [i % 2, (i % 3) / 2, (i % 5) / 4] },
          });
        break;
      case 'backdrop': {
        const data = new Float32Array(64 * 32 * 4);
        for (let i = 0; i < 64 * 32; i++) data.set([(i % 64) / 64, Math.floor(i / 64) / 32, 0.4, 1], i * 4);
        const panorama = { width: 64, height: 32, data };
        scene.imageLight = { panorama, intensity: 0.6 };
        scene.backdrop = { panorama };
        scene.fog = { type: 'exponential', density: 0.06, color: [0.4, 0.5, 0.6] };
        break;
      }
      case 'march':
        scene.createNode({
          translation: [0.3, 0.7, 1],
          mesh: {
            geometry: box({ width: 1.4, height: 1.4, depth: 1.4 }),
            material: { shader: shaderOf(\`fn march(ray: Ray) -> Hit {
              let b = dot(ray.origin, ray.direction);
              let c = dot(ray.origin, ray.origin) - 0.36;
              let d = b * b - c;
              if d < 0 { return miss(); }
              let at = ray.origin + ray.direction * (-b - sqrt(d));
              return hitAt(at, normalize(at));
            }\`), ...paint(0.9, 0.3, 0.2) },
          },
        });
        break;
      case 'stripes':
        scene.createNode({
          translation: [0, 0.3, 2.2],
          mesh: {
            geometry: box({ width: 3, height: 1, depth: 0.1 }),
            material: {
              alphaMode: 'blend',
              shader: shaderOf(\`fn outputColor(c: vec4f, p: Fragment) -> vec4f {
                let s = step(0.5, fract(p.screenPosition.x / 10));
                let behind = sceneColor(p.screenPosition + vec2f(3, 0)).rgb;
                return vec4f(mix(behind, vec3f(p.screenPosition / p.screenSize, s), 0.5), 1);
              }\`),
            },
          },
        });
        break;
      case 'swarm': {
        const translations = Array.from({ length: 400 }, (_, i) => [((i * 7) % 40) / 6 - 3.3, 0.4 + (i % 3) * 0.3, ((i * 11) % 60) / 6 - 7]).flat();
        scene.createNode({
          mesh: new Swarm({
            levels: [
              { geometry: sphere({ radius: 0.12 }), material: paint(1, 0, 0), minPixels: 9 },
              { geometry: box({ width: 0.2, height: 0.2, depth: 0.2 }), material: paint(0, 0.4, 1) },
            ],
            transforms: { translations },
          }),
        });
        break;
      }
      case 'glass':
      case 'frosted':
        for (let i = 0; i < 3; i++)
          scene.createNode({
            translation: [i * 1.4 - 1.4, 0.2, 2 + i * 0.2],
            mesh: {
              geometry: box({ width: 1.2, height: 1.2, depth: 0.2 }),
              material: what === 'glass' ? paint(0.2, 0.8, 0.9, { alphaMode: 'blend', baseColorFactor: [0.2, 0.8, 0.9, 0.4] }) : paint(1, 1, 1, { transmission: { factor: 1 }, roughnessFactor: 0.35 }),
            },
          });
        break;
      case 'blurred':
        for (let i = 0; i < 4; i++)
          scene.createNode({
            translation: [i * 1.3 - 1.9, 0.8, 1],
            mesh: { geometry: shapes[i % 2], material: paint(1, 0.8, 0.1) },
            effects: [{ type: 'blur', stdDeviation: 2 + i }, { type: 'drop-shadow', offset: [5, 4], stdDeviation: 2, color: [0, 0, 0, 0.7] }],
          });
        break;
      case 'own effect': {
        finish.push({ type: 'shader', shader: umber.compileEffect(\`fn effect(p: Pixel) -> vec4f {
          let ring = step(0.5, fract(length(p.position - p.size / 2) / 12));
          return vec4f(colorAt(p.place + vec2f(2, 1) / p.size).rgb * (0.6 + 0.4 * ring), p.color.a);
        }\`) });
        break;
      }
    }
  const camera = scene.createNode({
    translation: [0.4, 1.3, 6.5],
    rotation: [-0.09, 0.03, 0, 0.995],
    camera: one.camera ?? { type: 'perspective', yfov: 0.8, znear: 0.1 },
  });
  Object.assign(lens.look, one.look ?? {});
  lens.view.finish = finish;
  if (one.renderPath) lens.view.renderPath = one.renderPath;
  await lens.load(scene);
  const target = lens.createTarget({ width: 60, height: 38 });
  for (let i = 0; i < 3; i++) lens.draw(scene, camera, { target });
  await lens.whenReady();
  lens.draw(scene, camera, { target });
  const pixelsOf = async () => {
    const bitmap = await createImageBitmap(await lens.snapshot({ width, height }), { premultiplyAlpha: 'none' });
    const canvas = new OffscreenCanvas(bitmap.width, bitmap.height);
    const context = canvas.getContext('2d', { willReadFrequently: true });
    context.drawImage(bitmap, 0, 0);
    return context.getImageData(0, 0, bitmap.width, bitmap.height).data;
  };
  await pixelsOf();
  await lens.whenReady();
  const whole = await pixelsOf();
  const { limits } = lens.device;
  const before = limits.maxTextureSize;
  limits.maxTextureSize = small;
  let tiles;
  try { tiles = await pixelsOf(); } finally { limits.maxTextureSize = before; }
  const apart = [];
  const colors = new Set();
  for (let i = 0; i < whole.length; i += 4) {
    let most = 0;
    for (let k = 0; k < 4; k++) most = Math.max(most, Math.abs(whole[i + k] - tiles[i + k]));
    apart.push(most);
    colors.add((whole[i] << 16) | (whole[i + 1] << 8) | whole[i + 2]);
  }
  const last = [lens.renderer.last.target.width, lens.renderer.last.target.height];
  return { size: whole.length, apart, colors: colors.size, last };
};`;

declare const tilesOf: (
  one: Case,
  sizes: readonly number[],
) => Promise<{ size: number; apart: number[]; colors: number; last: number[] }>;

describe.each<Backend>(['webgl2', 'webgpu'])('a snapshot in tiles on %s', (backend) => {
  const held = testPage({ as: backend });
  beforeAll(() => held.page.evaluate(STAGE));

  test.each(inTurn(Object.entries(CASES), backend))('%s', async (_, one) => {
    const { sizes = SIZES } = one;
    const found = await held.page.evaluate(([given, sizes]) => tilesOf(given, sizes), [one, sizes] as const);
    expect(found.size).toBe(sizes[0] * sizes[1] * 4);
    expect(found.colors).toBeGreaterThan(500);
    // Edges lie otherwise between pixels by what is rounded: of a few of them the colors differ.
    expect(found.apart.filter((apart) => apart > 2).length / found.apart.length).toBeLessThan(2e-3);
    expect(found.last).toEqual([60, 38]);
  });

  test('effects that read across the picture are told of', async () => {
    const heard = await held.page.evaluate(async (small) => {
      const heard: string[] = [];
      const lens = await umber.openLens(undefined, {
        antialias: false,
        onMessage: ({ code, summary }) => heard.push(`${code}: ${summary}`),
      });
      const scene = new umber.Scene();
      const camera = scene.createNode({ camera: { type: 'perspective', yfov: 0.8, znear: 0.1 } });
      lens.view.finish = [{ type: 'light-shafts', from: [0, 0, -5] }];
      await lens.load(scene);
      lens.draw(scene, camera, { target: lens.createTarget({ width: 60, height: 38 }) });
      Object.assign(lens.device.limits, { maxTextureSize: small });
      for (let i = 0; i < 2; i++) await lens.snapshot({ width: 200, height: 20 });
      const said = await lens.snapshot({ width: 40_000 }).catch((error: unknown) => String(error));
      lens.dispose();
      return [...heard.filter((one) => one.startsWith('lens/tiles')), said];
    }, SIZES[2]);
    expect(heard).toEqual([
      'lens/tiles: this snapshot is drawn in tiles, and its effects read farther than what is around each of them: light-shafts',
      expect.stringContaining(
        'a snapshot cannot have 40000 x 25333 pixels\n  hint: Browsers keep pictures of 1 to 32767',
      ),
    ]);
  });
});
