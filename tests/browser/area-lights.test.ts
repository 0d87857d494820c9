import type { Backend } from 'umber-lens';
import { testPage } from './stage.js';

type Vec3 = [number, number, number];

interface Given {
  shape: 'rectangle' | 'disc';
  size: [number, number];
  /** Of the light; it shines straight down, or towards the origin when it leans. */
  at: Vec3;
  leans?: boolean;
  mirrored?: boolean;
  /** Of the surface, whose middle is looked at from this angle to its normal, radians. */
  roughness: number;
  metallic: number;
  angle: number;
  /** A shader whose answer to light is its direction's cosine alone. */
  hook?: boolean;
}

const BASE = 0.7;
const RADIANCE = 0.5;

/**
 * Radiance to the camera by summing the light's pieces one by one: GGX with height-correlated Smith and Schlick, and what
 * is not mirrored given back by a matt base.
 */
function summed(g: Given): number {
  const dot = (a: Vec3, b: Vec3): number => a[0] * b[0] + a[1] * b[1] + a[2] * b[2];
  const unit = (a: Vec3): Vec3 => {
    const n = Math.hypot(...a);
    return [a[0] / n, a[1] / n, a[2] / n];
  };
  const cross = (a: Vec3, b: Vec3): Vec3 => [
    a[1] * b[2] - a[2] * b[1],
    a[2] * b[0] - a[0] * b[2],
    a[0] * b[1] - a[1] * b[0],
  ];
  const way: Vec3 = g.leans ? unit([-g.at[0], -g.at[1], -g.at[2]]) : [0, -1, 0];
  // As `facing` turns a node: its +Y as near to up as can be, else by the axis that is least along it.
  const back: Vec3 = [-way[0], -way[1], -way[2]];
  let across = cross([0, 1, 0], back);
  if (Math.hypot(...across) < 1e-6) across = cross(back, cross([1, 0, 0], back));
  across = unit(across);
  const up = cross(back, across);
  const view: Vec3 = [0, Math.cos(g.angle), Math.sin(g.angle)];
  const a2 = Math.max(g.roughness, 0.045) ** 4;
  const f0 = 0.04 + (BASE - 0.04) * g.metallic;
  const diffuse = BASE * (1 - g.metallic);
  const nv = view[1];
  const STEPS = 200;
  let sum = 0;
  for (let i = 0; i < STEPS; i++)
    for (let j = 0; j < STEPS; j++) {
      const [x, y] = [((i + 0.5) / STEPS) * 2 - 1, ((j + 0.5) / STEPS) * 2 - 1];
      if (g.shape === 'disc' && x * x + y * y > 1) continue;
      const point = [0, 1, 2].map(
        (k) => g.at[k]! + (across[k]! * x * g.size[0] + up[k]! * y * g.size[1]) / 2,
      ) as Vec3;
      const squared = dot(point, point);
      const l = unit(point);
      const solid = (g.size[0] * g.size[1] * Math.max(0, -dot(l, way))) / (squared * STEPS * STEPS);
      const nl = l[1];
      if (nl <= 0) continue;
      const h = unit([l[0] + view[0], l[1] + view[1], l[2] + view[2]]);
      const fresnel = f0 + (1 - f0) * (1 - dot(h, view)) ** 5;
      const d = a2 / (Math.PI * (h[1] * h[1] * (a2 - 1) + 1) ** 2);
      const v = 0.5 / (nl * Math.sqrt(nv * nv * (1 - a2) + a2) + nv * Math.sqrt(nl * nl * (1 - a2) + a2));
      sum += (((1 - fresnel) * diffuse) / Math.PI + fresnel * d * v) * nl * solid;
    }
  return sum * RADIANCE;
}

describe.each<Backend>(['webgl2', 'webgpu'])('on %s', (backend) => {
  const stage = testPage({ as: backend });

  /** Linear radiance of the middle of the picture. */
  function seen(given: Given): Promise<number> {
    return stage.page.evaluate(
      async ({ g, BASE, RADIANCE }) => {
        const { openLens, Scene, plane, facing, compileMaterialShader } = umber;
        const held = window as unknown as { heldLens?: Awaited<ReturnType<typeof openLens>> };
        const lens = (held.heldLens ??= await openLens(document.createElement('canvas'), {
          pixelRatio: 1,
          look: { toneMapping: 'none' },
          onMessage: () => undefined,
        }));
        const scene = new Scene();
        scene.createNode({
          mesh: {
            geometry: plane({ width: 2, depth: 2 }),
            material: {
              name: JSON.stringify(g),
              baseColorFactor: [BASE, BASE, BASE, 1],
              roughnessFactor: g.roughness,
              metallicFactor: g.metallic,
              ...(g.hook
                ? {
                    shader: compileMaterialShader(
                      'fn light(s: Surface, l: Light) -> vec3f { return l.color * max(dot(s.normal, l.direction), 0); }',
                    ),
                  }
                : {}),
            },
          },
        });
        const way = g.leans ? (g.at.map((x) => -x) as [number, number, number]) : ([0, -1, 0] as const);
        scene.createNode({
          translation: g.at,
          rotation: facing([...way] as [number, number, number]),
          ...(g.mirrored ? { scale: [-1, 1, 1] } : {}),
          light: { type: 'area', shape: g.shape, size: g.size, intensity: RADIANCE },
        });
        const camera = scene.createNode({
          translation: [0, 4 * Math.cos(g.angle), 4 * Math.sin(g.angle)],
          rotation: facing([0, -Math.cos(g.angle), -Math.sin(g.angle)]),
          camera: { type: 'perspective', yfov: 0.004, znear: 0.1 },
        });
        const target = lens.createTarget({ width: 8, height: 8 });
        await lens.load(scene);
        lens.draw(scene, camera, { target });
        const pixels = await target.read();
        target.dispose();
        const value = pixels[(4 * 8 + 4) * 4]! / 255;
        return value <= 0.04045 ? value / 12.92 : ((value + 0.055) / 1.055) ** 2.4;
      },
      { g: given, BASE, RADIANCE },
    );
  }

  const over = { shape: 'rectangle', size: [2, 1], at: [0.2, 1.2, -0.3] } as const;

  test.each<[string, Given]>([
    [
      'matt, a rectangle overhead',
      { ...over, size: [2, 1], at: [0.2, 1.2, -0.3], roughness: 1, metallic: 0, angle: 0.5 },
    ],
    [
      'a rough metal',
      { ...over, size: [2, 1], at: [0.2, 1.2, -0.3], roughness: 0.7, metallic: 1, angle: 0.5 },
    ],
    [
      'a smoother metal',
      { ...over, size: [2, 1], at: [0.2, 1.2, -0.9], roughness: 0.35, metallic: 1, angle: 0.6 },
    ],
    [
      'lacquer seen flatly',
      { ...over, size: [2, 1], at: [0, 0.9, -1.4], roughness: 0.4, metallic: 0, angle: 1.1 },
    ],
    [
      'a disc',
      { shape: 'disc', size: [1.4, 1.4], at: [0.4, 1, 0.2], roughness: 0.8, metallic: 0, angle: 0.7 },
    ],
    [
      'a disc, mirrored',
      { shape: 'disc', size: [1.4, 1.4], at: [0, 1.2, -0.8], roughness: 0.4, metallic: 1, angle: 0.6 },
    ],
    [
      'a light that leans and is cut by the horizon',
      {
        shape: 'rectangle',
        size: [3, 3],
        at: [1.2, 0.6, 0],
        leans: true,
        roughness: 0.8,
        metallic: 0,
        angle: 0.4,
      },
    ],
    [
      'on a mirrored node',
      {
        ...over,
        size: [2, 1],
        at: [0.2, 1.2, -0.3],
        mirrored: true,
        roughness: 0.8,
        metallic: 0,
        angle: 0.5,
      },
    ],
  ])('%s is as bright as the sum of its pieces', async (_name, given) => {
    const expected = summed(given);
    const got = await seen(given);
    expect(expected).toBeGreaterThan(0.01);
    expect(Math.abs(got / expected - 1)).toBeLessThan(0.06);
  });

  test('nothing is lit from behind the light', async () => {
    const behind: Given = {
      shape: 'rectangle',
      size: [1, 1],
      at: [0, -1, 0],
      roughness: 1,
      metallic: 0,
      angle: 0.3,
    };
    expect(await seen(behind)).toBe(0);
  });

  test('hooks for light hear of it as of a point with what arrives', async () => {
    const small: Given = {
      shape: 'rectangle',
      size: [0.2, 0.2],
      at: [0, 1, 0],
      roughness: 1,
      metallic: 0,
      angle: 0.3,
    };
    // Area over squared distance, straight on.
    const expected = RADIANCE * 0.04;
    expect(Math.abs((await seen({ ...small, hook: true })) / expected - 1)).toBeLessThan(0.06);
  });

  test('ambient light and hemispheres add up with what the scene has', async () => {
    const told = await stage.page.evaluate(async () => {
      const { openLens, Scene, plane, facing } = umber;
      const lens = await openLens(document.createElement('canvas'), {
        pixelRatio: 1,
        look: { toneMapping: 'none' },
        onMessage: () => undefined,
      });
      const eachWay: number[][] = [];
      for (const isTurned of [false, true]) {
        const scene = new Scene();
        scene.createNode({
          name: 'sky light',
          light: { type: 'hemisphere', color: [0.1, 0, 0], groundColor: [0.1, 0, 0], intensity: Math.PI },
        });
        const material = {
          baseColorFactor: [1, 1, 1, 1] as [number, number, number, number],
          metallicFactor: 0,
        };
        scene.createNode({
          mesh: { geometry: plane({ width: 2, depth: 2 }), material },
          ...(isTurned ? { rotation: [1, 0, 0, 0] as [number, number, number, number] } : {}),
        });
        scene.createNode({ light: { type: 'ambient', color: [0, 1, 0], intensity: Math.PI * 0.2 } });
        // Wherever it is and however it is turned.
        scene.createNode({
          rotation: [0, 0, 1, 0],
          light: { type: 'hemisphere', color: [0, 0, 1], groundColor: [1, 0, 0], intensity: Math.PI * 0.3 },
        });
        scene.createNode({ visible: false, light: { type: 'ambient', intensity: 100 } });
        const way: [number, number, number] = isTurned ? [0, 1, 0] : [0, -1, 0];
        const camera = scene.createNode({
          translation: [0, -way[1] * 3, 0],
          rotation: facing(way),
          camera: { type: 'perspective', yfov: 0.01, znear: 0.1 },
        });
        const target = lens.createTarget({ width: 8, height: 8 });
        await lens.load(scene);
        lens.draw(scene, camera, { target });
        eachWay.push(
          [...(await target.read()).slice(0, 3)].map((v) => {
            const x = v / 255;
            return x <= 0.04045 ? x / 12.92 : ((x + 0.055) / 1.055) ** 2.4;
          }),
        );
      }
      lens.dispose();
      return eachWay;
    });
    const [above, below] = told;
    [0.1, 0.2, 0.3].forEach((x, k) => expect(above![k]).toBeCloseTo(x, 1.9));
    [0.4, 0.2, 0].forEach((x, k) => expect(below![k]).toBeCloseTo(x, 1.9));
  });
});
