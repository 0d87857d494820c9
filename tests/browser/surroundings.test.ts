import type { Backend, Fog, Look, Panorama, ToneMapping } from 'umber-lens';
import { inTurn, testPage } from './stage.js';

type Vec3 = [number, number, number];

/** A scene in words, so that it can be sent to the page. */
interface Given {
  /** Uniform radiance, or one that tells directions apart. */
  light?: number | 'axes';
  intensity?: number;
  rotation?: number;
  backdrop?: { blur?: number; rotation?: number; intensity?: number };
  fog?: Fog;
  look?: Look;
  exposure?: number;
  ball?: { base: Vec3; metallic: number; roughness: number; unlit?: boolean };
  /** A shader of hooks for the ball. */
  shader?: string;
  /** Way the camera looks; it stands at the origin, or 4 before the ball of radius 1. */
  looks?: Vec3;
  distance?: number;
}

describe.each<Backend>(['webgl2', 'webgpu'])('on %s', (backend) => {
  const stage = testPage({ as: backend });

  /** Linear colour of the middle of the picture. */
  function middle(given: Given): Promise<number[]> {
    return stage.page.evaluate(async (g) => {
      const { openLens, Scene, sphere, facing, compileMaterialShader } = umber;
      const held = window as unknown as {
        heldLens?: Awaited<ReturnType<typeof openLens>>;
        skies?: Map<number | 'axes', Panorama>;
      };
      // One panorama for each light: what is made of it is kept.
      const skies = (held.skies ??= new Map<number | 'axes', Panorama>());
      const lens = (held.heldLens ??= await openLens(document.createElement('canvas'), {
        pixelRatio: 1,
        onMessage: () => undefined,
      }));
      lens.look.exposure = Math.log2(g.exposure ?? 1);
      Object.assign(lens.look, { toneMapping: 'soft', whiteBalance: 6504 }, g.look);
      const scene = new Scene();
      if (g.light !== undefined) {
        let panorama = skies.get(g.light);
        if (!panorama) {
          const [width, height] = [64, 32];
          const data = new Float32Array(width * height * 4);
          for (let row = 0; row < height; row++)
            for (let column = 0; column < width; column++) {
              const d = umber.panoramaDirection((column + 0.5) / width, (row + 0.5) / height);
              const color = g.light === 'axes' ? d.map((x) => 0.3 + 0.3 * x) : [g.light, g.light, g.light];
              data.set([...color, 1], (row * width + column) * 4);
            }
          skies.set(g.light, (panorama = { width, height, data }));
        }
        scene.imageLight = { panorama, intensity: g.intensity ?? 1, rotation: g.rotation ?? 0 };
        if (g.backdrop) scene.backdrop = { panorama, ...g.backdrop };
      }
      scene.fog = g.fog;
      const looks = g.looks ?? [0, 0, -1];
      const distance = g.distance ?? 4;
      if (g.ball) {
        scene.createNode({
          translation: looks.map((x) => x * distance),
          mesh: {
            geometry: sphere({ radius: 1, slices: 96, stacks: 64 }),
            material: {
              baseColorFactor: [...g.ball.base, 1],
              metallicFactor: g.ball.metallic,
              roughnessFactor: g.ball.roughness,
              ...(g.ball.unlit ? { unlit: true } : {}),
              ...(g.shader ? { shader: compileMaterialShader(g.shader) } : {}),
            },
          },
        });
      }
      const camera = scene.createNode({
        rotation: facing(looks),
        camera: { type: 'perspective', yfov: 0.02, znear: 0.1 },
      });
      const target = lens.createTarget({ width: 3, height: 3 });
      lens.draw(scene, camera, { target });
      await lens.whenReady();
      lens.draw(scene, camera, { target });
      await lens.whenReady();
      lens.draw(scene, camera, { target });
      const pixel = [...(await target.read()).slice(16, 19)];
      target.dispose();
      return pixel.map((byte) => {
        const x = byte / 255;
        return x <= 0.04045 ? x / 12.92 : ((x + 0.055) / 1.055) ** 2.4;
      });
    }, given);
  }

  const near = (actual: number[], expected: number[], by = 0.008): void =>
    actual.forEach((value, c) => expect(Math.abs(value - expected[c]!)).toBeLessThan(by));

  const WHITE: Vec3 = [1, 1, 1];

  test.each(
    inTurn(
      [
        [0, 0],
        [0, 1],
        [0.5, 1],
        [1, 0],
        [1, 1],
      ],
      backend,
    ),
  )('a white ball of roughness %f and metallic %f vanishes in uniform light', async (roughness, metallic) => {
    near(await middle({ light: 0.5, ball: { base: WHITE, metallic, roughness } }), [0.5, 0.5, 0.5]);
  });

  test('a mirror shows what lies behind the camera, a matt ball what lies before itself, both as the light is turned', async () => {
    const mirror = { base: WHITE, metallic: 1, roughness: 0 };
    // Looking along -Z, the ball mirrors +Z, where blue is brightest.
    near(await middle({ light: 'axes', ball: mirror }), [0.3, 0.3, 0.6], 0.015);
    near(await middle({ light: 'axes', ball: mirror, looks: [-1, 0, 0] }), [0.6, 0.3, 0.3], 0.015);
    near(await middle({ light: 'axes', ball: mirror, looks: [0, -1, 0] }), [0.3, 0.6, 0.3], 0.015);
    // A quarter turn counter-clockwise from above brings what was at +X to -Z, and what was at +Z to +X.
    near(await middle({ light: 'axes', ball: mirror, rotation: Math.PI / 2 }), [0, 0.3, 0.3], 0.015);
    near(
      await middle({ light: 'axes', ball: mirror, rotation: Math.PI / 2, looks: [-1, 0, 0] }),
      [0.3, 0.3, 0.6],
      0.015,
    );
    // Irradiance of 0.3 + 0.3 cos is 0.3 + 0.2 cos.
    const matt = { base: WHITE, metallic: 0, roughness: 1 };
    near(await middle({ light: 'axes', ball: matt }), [0.3, 0.3, 0.5], 0.03);
    near(await middle({ light: 'axes', intensity: 0.5, ball: matt }), [0.15, 0.15, 0.25], 0.02);
  });

  test('a backdrop is seen where it lies, turned with the light or by itself, dimmed and blurred', async () => {
    near(await middle({ light: 'axes', backdrop: {} }), [0.3, 0.3, 0], 0.015);
    near(await middle({ light: 'axes', backdrop: {}, looks: [1, 0, 0] }), [0.6, 0.3, 0.3], 0.015);
    near(await middle({ light: 'axes', backdrop: {}, looks: [0, 1, 0] }), [0.3, 0.6, 0.3], 0.015);
    near(await middle({ light: 'axes', backdrop: {}, rotation: Math.PI / 2 }), [0.6, 0.3, 0.3], 0.015);
    near(
      await middle({ light: 'axes', backdrop: { rotation: 0 }, rotation: Math.PI / 2 }),
      [0.3, 0.3, 0],
      0.015,
    );
    near(await middle({ light: 'axes', backdrop: { intensity: 0.5 } }), [0.15, 0.15, 0], 0.015);
    const blurred = await middle({ light: 'axes', backdrop: { blur: 1 } });
    expect(blurred[2]!).toBeGreaterThan(0.005);
    expect(blurred[2]!).toBeLessThan(0.2);
    // In front of it stands what is nearer.
    near(
      await middle({
        light: 'axes',
        backdrop: {},
        ball: { base: [0.2, 0.4, 0.6], metallic: 0, roughness: 1, unlit: true },
      }),
      [0.2, 0.4, 0.6],
    );
  });

  const black = { base: [0, 0, 0] as Vec3, metallic: 1, roughness: 1 };
  test.each<[string, Fog, number]>(
    inTurn<[string, Fog, number]>(
      [
        ['linear', { type: 'linear', color: [0.5, 0.5, 0.5], near: 2, far: 10 }, (9 - 2) / 8],
        ['exponential', { type: 'exponential', color: [0.5, 0.5, 0.5], density: 0.1 }, 1 - Math.exp(-0.9)],
        ['squared', { type: 'squared', color: [0.5, 0.5, 0.5], density: 0.1 }, 1 - Math.exp(-0.81)],
        [
          'thinning out with the height',
          { type: 'exponential', color: [0.5, 0.5, 0.5], density: 0.2, height: { base: -2, falloff: 2 } },
          1 - Math.exp(-0.2 * 9 * Math.exp(-1)),
        ],
      ],
      backend,
    ),
  )('%s fog takes what its formula says', async (_, fog, share) => {
    near(await middle({ fog, distance: 10, ball: black }), [0.5 * share, 0.5 * share, 0.5 * share]);
    // What is shown as it was given stands in the same air.
    const unlit = { base: [0.2, 0.2, 0.2] as Vec3, metallic: 0, roughness: 1, unlit: true };
    const mixed = 0.2 * (1 - share) + 0.5 * share;
    near(await middle({ fog, distance: 10, ball: unlit }), [mixed, mixed, mixed]);
  });

  test('fog that falls off with the height is the integral along a rising way', async () => {
    const up = [0, Math.SQRT1_2, -Math.SQRT1_2] as Vec3;
    const fog: Fog = {
      type: 'exponential',
      color: [0.5, 0.5, 0.5],
      density: 0.2,
      height: { base: 0, falloff: 3 },
    };
    const rise = 9 * Math.SQRT1_2;
    const share = 1 - Math.exp(-0.2 * 9 * ((1 - Math.exp(-rise / 3)) / (rise / 3)));
    near(await middle({ fog, distance: 10, ball: black, looks: up }), [
      0.5 * share,
      0.5 * share,
      0.5 * share,
    ]);
  });

  test('fog before the backdrop, and fog of the sky', async () => {
    const fog: Fog = { type: 'exponential', color: [0.1, 0.2, 0.3], density: 0.1 };
    near(await middle({ light: 0.5, backdrop: {}, fog }), [0.1, 0.2, 0.3]);
    near(await middle({ light: 0.5, backdrop: {}, fog: { ...fog, overBackdrop: 0.5 } }), [0.3, 0.35, 0.4]);
    near(await middle({ light: 0.5, backdrop: {}, fog: { ...fog, color: 'sky' } }), [0.5, 0.5, 0.5]);
    near(
      await middle({ light: 0.4, fog: { ...fog, color: 'sky', density: 9 }, ball: black }),
      [0.4, 0.4, 0.4],
    );
  });

  test.each<[ToneMapping, (x: number) => number]>(
    inTurn<[ToneMapping, (x: number) => number]>(
      [
        ['soft', (x) => (x < 0.76 ? x : 1 - 0.0576 / (x - 0.52))],
        ['none', (x) => Math.min(1, x)],
        ['reinhard', (x) => x / (1 + x)],
        ['neutral', (x) => (x - 0.04 < 0.76 ? x - 0.04 : 1 - 0.0576 / (x - 0.04 - 0.52))],
      ],
      backend,
    ),
  )(
    'tone mapping "%s" follows its curve for surfaces and backdrops, at every exposure',
    async (toneMapping, curve) => {
      const ball = { base: WHITE, metallic: 1, roughness: 1 };
      for (const [light, exposure] of [
        [0.2, 1],
        [0.5, 2],
        [1.5, 2],
      ] as const) {
        const expected = new Array(3).fill(curve(light * exposure)) as number[];
        near(await middle({ light, exposure, ball, look: { toneMapping } }), expected, 0.015);
        near(await middle({ light, exposure, backdrop: {}, look: { toneMapping } }), expected, 0.015);
      }
    },
  );

  test('white balance makes light of its temperature grey', async () => {
    const lamp = await stage.page.evaluate(() => umber.temperatureColor(3000));
    const pixel = await stage.page.evaluate(async (color) => {
      const lens = (window as unknown as { heldLens: InstanceType<typeof umber.Lens> }).heldLens;
      Object.assign(lens.look, { toneMapping: 'none', whiteBalance: 3000 });
      lens.look.exposure = 0;
      const scene = new umber.Scene();
      scene.createNode({
        light: { type: 'hemisphere', color: [color[0], color[1], color[2]], intensity: 0.3 * Math.PI },
      });
      scene.createNode({
        translation: [0, -3, 0],
        mesh: {
          geometry: umber.plane({ width: 9, depth: 9 }),
          material: { roughnessFactor: 1, metallicFactor: 0 },
        },
      });
      const camera = scene.createNode({
        rotation: umber.facing([0, -1, 0]),
        camera: { type: 'perspective', yfov: 0.1, znear: 0.1 },
      });
      const target = lens.createTarget({ width: 3, height: 3 });
      lens.draw(scene, camera, { target });
      return [...(await target.read()).slice(16, 19)];
    }, lamp);
    expect(lamp[0]).toBeGreaterThan(2 * lamp[2]);
    expect(Math.max(...pixel) - Math.min(...pixel)).toBeLessThanOrEqual(3);
  });

  test('contrast, saturation and a vignette change everything that is shown, and nothing else is made for them', async () => {
    const seen = await stage.page.evaluate(async () => {
      const { openLens, Scene, plane, axisAngle } = umber;
      const lens = await openLens(document.createElement('canvas'), { pixelRatio: 1, antialias: false });
      const scene = new Scene({ clearColor: [0.5, 0.5, 0.5, 1] });
      scene.createNode({
        rotation: axisAngle([1, 0, 0], Math.PI / 2),
        mesh: {
          geometry: plane({ width: 1, depth: 1 }),
          material: { unlit: true, baseColorFactor: [0.6, 0.2, 0.1, 1] },
        },
      });
      const camera = scene.createNode({
        translation: [0, 0, 3],
        camera: { type: 'perspective', yfov: 0.8, znear: 0.1 },
      });
      const target = lens.createTarget({ width: 41, height: 21 });
      const at = async (): Promise<number[][]> => {
        await lens.load(scene);
        lens.draw(scene, camera, { target });
        const pixels = await target.read();
        const pixel = (x: number, y: number): number[] => [
          ...pixels.slice((y * 41 + x) * 4, (y * 41 + x) * 4 + 3),
        ];
        return [pixel(20, 10), pixel(0, 0), pixel(0, 10), pixel(20, 0)];
      };
      const plain = await at();
      const { pipelines } = lens.device.counts;
      lens.look.contrast = 2;
      const contrast = await at();
      const more = lens.device.counts.pipelines - pipelines;
      Object.assign(lens.look, { contrast: 1, saturation: 0 });
      const grey = await at();
      Object.assign(lens.look, {
        saturation: 1,
        vignette: { size: 0.5, softness: 0.4, color: [1, 0, 0], weight: 1 },
      });
      const framed = await at();
      lens.look.vignette = { size: 0.5, softness: 0.4, roundness: 1, weight: 1 };
      const round = await at();
      lens.look.vignette = undefined;
      const again = await at();
      lens.dispose();
      return { plain, contrast, more, grey, framed, round, again };
    });
    const { plain, contrast, grey, framed, round } = seen;
    expect(seen.more).toBe(1);
    plain[0]!.forEach((byte, c) => {
      const expected = Math.min(255, Math.max(0, (byte - 127.5) * 2 + 127.5));
      expect(Math.abs(contrast[0]![c]! - expected)).toBeLessThanOrEqual(2);
    });
    expect(Math.max(...grey[0]!) - Math.min(...grey[0]!)).toBeLessThanOrEqual(1);
    // The middle is as it was; corners and the middles of all edges are the frame's.
    expect(framed[0]).toEqual(plain[0]);
    for (const corner of framed.slice(1)) expect(corner).toEqual([255, 0, 0]);
    // A circle in the shorter side reaches its edge first the other way round.
    expect(round[2]).toEqual([0, 0, 0]);
    expect(round[3]).toEqual([0, 0, 0]);
    expect(seen.again).toEqual(plain);
  });

  test('shaders of hooks are lit by environments and stand in fog', async () => {
    const shader =
      'fn surface(p: Fragment) -> Surface { var s = surfaceDefaults(p); s.baseColor *= 0.5; s.metallic = 1; return s; }';
    const ball = { base: [0.8, 0.4, 0.2] as Vec3, metallic: 0, roughness: 0.3 };
    near(await middle({ light: 0.6, ball, shader }), [0.24, 0.12, 0.06], 0.03);
    const fog: Fog = { type: 'linear', color: [0, 0.5, 0], near: 0, far: 6 };
    near(await middle({ light: 0.6, ball, shader, fog }), [0.12, 0.31, 0.03], 0.02);
    const final = 'fn outputColor(p: Fragment) -> vec4f { return vec4f(0.6, 0.2, 0.4, 1); }';
    near(await middle({ ball, shader: final, fog }), [0.3, 0.35, 0.2], 0.01);
  });

  test('what is made within a frame is told by the ledger, drawn without until it is there, and freed when it is gone', async () => {
    const seen = await stage.page.evaluate(async () => {
      const lens = await umber.openLens(document.createElement('canvas'), {
        pixelRatio: 1,
        onMessage: () => undefined,
      });
      const target = lens.createTarget({ width: 8, height: 8 });
      const panorama = umber.skyPanorama({ height: 16 });
      const scene = new umber.Scene({ imageLight: { panorama } });
      scene.createNode({ translation: [0, 0, -3], mesh: { geometry: umber.sphere(), material: {} } });
      const camera = scene.createNode({ camera: { type: 'perspective', yfov: 0.1, znear: 0.1 } });
      lens.draw(scene, camera, { target });
      const first = (await target.read())[4 * 36];
      await lens.whenReady();
      lens.draw(scene, camera, { target });
      const stalls = lens.ledger.stalls.map(({ name }) => name);
      const second = (await target.read())[4 * 36];
      lens.draw(scene, camera, { target });
      const third = lens.ledger.stalls.length;
      const { textures } = lens.device.counts;
      scene.imageLight = undefined;
      for (let i = 0; i < 241; i++) lens.draw(scene, camera, { target });
      const freed = textures - lens.device.counts.textures;
      const faults: string[] = [];
      for (const wrong of [
        () => (lens.look.toneMapping = 'filmic' as never),
        () => ((lens.look.toneMapping = 'soft'), (scene.fog = { type: 'thick' as never, color: [1, 1, 1] })),
        () => ((scene.fog = undefined), (lens.look.whiteBalance = 100)),
      ]) {
        wrong();
        try {
          lens.draw(scene, camera, { target });
        } catch (error) {
          faults.push(String(error));
        }
      }
      lens.dispose();
      return { first, second, stalls, third, freed, faults };
    });
    expect(seen.first).toBe(0);
    expect(seen.second).toBeGreaterThan(20);
    expect(seen.stalls).toEqual(expect.arrayContaining(['environment', '1 pipelines']));
    expect(seen.third).toBe(0);
    expect(seen.freed).toBe(2);
    expect(seen.faults).toEqual([
      expect.stringContaining('there is no tone mapping "filmic"'),
      expect.stringContaining('there is no fog "thick"'),
      expect.stringContaining('no colour is known for 100 kelvin'),
    ]);
  });

  test('automatic exposure brings any light to the middle, within its bounds and in its time, and makes pipelines once', async () => {
    const seen = await stage.page.evaluate(async () => {
      const lens = await umber.openLens(document.createElement('canvas'), {
        pixelRatio: 1,
        onMessage: () => undefined,
      });
      const target = lens.createTarget({ width: 24, height: 16 });
      const uniform = (radiance: number): Panorama => ({
        width: 4,
        height: 2,
        data: new Float32Array(32).fill(radiance),
      });
      const scene = new umber.Scene();
      const camera = scene.createNode({ camera: { type: 'perspective', yfov: 0.5, znear: 0.1 } });
      const linear = async (): Promise<number> => {
        const x = (await target.read())[4 * 100]! / 255;
        return x <= 0.04045 ? x / 12.92 : ((x + 0.055) / 1.055) ** 2.4;
      };
      const after = async (radiance: number, frames: number): Promise<number> => {
        const panorama = uniform(radiance);
        scene.imageLight = { panorama };
        scene.backdrop = { panorama };
        await lens.load(scene);
        for (let i = 0; i < frames; i++) lens.draw(scene, camera, { target });
        return linear();
      };
      const plain = await after(0.01, 1);
      lens.look.automaticExposure = true;
      const dark = await after(0.01, 8);
      const bright = await after(4, 8);
      lens.look.exposure = 1;
      const brighter = await after(4, 8);
      lens.look.exposure = 0;
      lens.look.automaticExposure = { max: 1 };
      const bounded = await after(0.01, 8);
      lens.look.automaticExposure = { brightness: 0.4 };
      const other = await after(0.01, 8);
      // In half of the time half of the stops are made up for.
      lens.look.automaticExposure = undefined;
      await after(0.18 / 16, 1);
      lens.look.automaticExposure = { halfLife: 0.5 };
      const pipelines = lens.device.counts.pipelines;
      lens.setTime(1, 0.5);
      const halfway = await after(0.18 / 16, 2);
      const passes = lens.ledger.passes.map(({ name }) => name);
      const stalls = lens.ledger.stalls.length;
      const made = lens.device.counts.pipelines - pipelines;
      lens.dispose();
      return { plain, dark, bright, brighter, bounded, other, halfway, passes, stalls, made };
    });
    expect(seen.plain).toBeCloseTo(0.01, 2.5);
    for (const value of [seen.dark, seen.bright, seen.brighter])
      expect(Math.abs(value / 0.18 - 1)).toBeLessThan(0.06);
    expect(seen.bounded).toBeCloseTo(0.02, 2.5);
    expect(Math.abs(seen.other / 0.4 - 1)).toBeLessThan(0.06);
    // Four stops off: the second frame has two of them.
    expect(Math.abs(seen.halfway / (0.18 / 4) - 1)).toBeLessThan(0.1);
    expect(seen.passes).toContain('meter');
    expect([seen.stalls, seen.made]).toEqual([0, 0]);
  });
});
