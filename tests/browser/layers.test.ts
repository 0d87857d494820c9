import type { Backend, Material, Panorama } from 'umber-lens';
import { inTurn, testPage } from './stage.js';

type Vec3 = [number, number, number];

/** A texture of one colour, 0..255, to be made in the page. */
interface Plain {
  rgba: [number, number, number, number];
  srgb?: boolean;
}

interface Given {
  /** Uniform radiance all around, seen as well. */
  around?: number;
  sun?: { toward: Vec3; intensity: number };
  material: Material;
  textures?: Record<string, Plain>;
  /** What stands behind the ball: a wall of this colour, unlit. */
  wall?: Vec3;
  /** A hook for the ball. */
  shader?: string;
  shape?: 'ball' | 'plate';
  exposure?: number;
}

describe.each<Backend>(['webgl2', 'webgpu'])('layers on %s', (backend) => {
  const stage = testPage({ as: backend });

  /** Linear colour of the middle of a ball of radius 1, or of a plate, that faces the camera. */
  function middle(given: Given): Promise<number[]> {
    return stage.page.evaluate(async (g) => {
      const { openLens, Scene, sphere, plane, facing, axisAngle, compileMaterialShader, withTangents } =
        umber;
      const held = window as unknown as {
        heldLens?: Awaited<ReturnType<typeof openLens>>;
        skies?: Map<number, Panorama>;
      };
      // One panorama for each light: what is made of it is kept.
      const skies = (held.skies ??= new Map<number, Panorama>());
      const lens = (held.heldLens ??= await openLens(document.createElement('canvas'), {
        pixelRatio: 1,
        look: { toneMapping: 'none' },
        onMessage: () => undefined,
      }));
      lens.look.exposure = Math.log2(g.exposure ?? 1);
      const scene = new Scene();
      if (g.around !== undefined) {
        let panorama = skies.get(g.around);
        if (!panorama) {
          const data = new Float32Array(16 * 8 * 4).fill(g.around);
          skies.set(g.around, (panorama = { width: 16, height: 8, data }));
        }
        scene.imageLight = { panorama };
        scene.backdrop = { panorama };
      }
      const material: Material = {
        ...g.material,
        ...(g.shader ? { shader: compileMaterialShader(g.shader) } : {}),
      };
      for (const [key, { rgba }] of Object.entries(g.textures ?? {})) {
        const data = new Uint8Array([...rgba, ...rgba, ...rgba, ...rgba]);
        (material as Record<string, unknown>)[key] = {
          texture: { image: { content: { kind: 'pixels', width: 2, height: 2, data } } },
        };
      }
      scene.createNode({
        translation: [0, 0, -4],
        ...(g.shape === 'plate' ? { rotation: axisAngle([1, 0, 0], Math.PI / 2) } : {}),
        mesh: {
          geometry:
            g.shape === 'plate'
              ? withTangents(plane({ width: 4, depth: 4 }))
              : withTangents(sphere({ slices: 96, stacks: 64 })),
          material,
        },
      });
      if (g.wall) {
        scene.createNode({
          translation: [0, 0, -8],
          rotation: axisAngle([1, 0, 0], Math.PI / 2),
          mesh: {
            geometry: plane({ width: 20, depth: 20 }),
            material: { unlit: true, baseColorFactor: [...g.wall, 1] },
          },
        });
      }
      if (g.sun)
        scene.createNode({
          rotation: facing(g.sun.toward),
          light: { type: 'directional', intensity: g.sun.intensity },
        });
      const camera = scene.createNode({ camera: { type: 'perspective', yfov: 0.02, znear: 0.1 } });
      const target = lens.createTarget({ width: 3, height: 3 });
      for (let i = 0; i < 3; i++) {
        lens.draw(scene, camera, { target });
        await lens.whenReady();
      }
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
  const HALF = [0.5, 0.5, 0.5];

  const white = { metallicFactor: 0 };
  const furnaces: [string, Material][] = [
    ['lacquer', { ...white, clearcoatFactor: 1 }],
    ['half lacquer on metal', { metallicFactor: 1, clearcoatFactor: 0.5 }],
    ['fibres', { ...white, sheenColorFactor: [1, 1, 1] }],
    ['fibres below lacquer', { ...white, sheenColorFactor: [1, 1, 1], clearcoatFactor: 1 }],
    ['glassy mirroring', { ...white, ior: 2.4 }],
    ['no mirroring', { ...white, specularFactor: 0 }],
    ['a mirror of its own colour', { ...white, ior: 0 }],
    ['brushed metal', { metallicFactor: 1, anisotropyStrength: 0.8 }],
    ['a thin wall', { ...white, transmissionFactor: 1 }],
    ['glass', { ...white, transmissionFactor: 1, thicknessFactor: 1, ior: 1.5 }],
    ['glass that bends blue more', { ...white, transmissionFactor: 1, thicknessFactor: 1, dispersion: 2 }],
    ['paper', { ...white, diffuseTransmissionFactor: 0.7 }],
  ];
  test.each(inTurn(furnaces, backend))(
    'a white ball with %s vanishes in uniform light, whatever its roughness',
    async (_, material) => {
      for (const roughness of [0, 0.4, 1]) {
        near(
          await middle({
            around: 0.5,
            material: {
              ...material,
              roughnessFactor: roughness,
              clearcoatRoughnessFactor: roughness,
              sheenRoughnessFactor: roughness,
            },
          }),
          HALF,
        );
      }
    },
  );

  test('glass shows the wall behind it, absorbs by thickness, and leaves what it mirrors', async () => {
    const glass: Material = { metallicFactor: 0, roughnessFactor: 0, transmissionFactor: 1, ior: 1.0001 };
    near(await middle({ wall: [0.8, 0.4, 0.2], material: glass }), [0.8, 0.4, 0.2], 0.01);
    const body: Material = {
      ...glass,
      thicknessFactor: 2,
      attenuationDistance: 1,
      attenuationColor: [0.5, 0.9, 0.25],
    };
    near(
      await middle({ wall: [0.8, 0.4, 0.2], material: body }),
      [0.8 * 0.25, 0.4 * 0.81, 0.2 * 0.0625],
      0.01,
    );
    // Straight on, 4% are mirrored away; there is nothing to mirror here.
    near(await middle({ wall: [0.5, 0.5, 0.5], material: { ...glass, ior: 1.5 } }), [0.48, 0.48, 0.48], 0.01);
    near(await middle({ wall: [0.5, 0.5, 0.5], material: { ...glass, transmissionFactor: 0 } }), [0, 0, 0]);
    near(await middle({ wall: [0.6, 0.6, 0.6], material: glass, exposure: 0.5 }), [0.6, 0.6, 0.6], 0.01);
  });

  test('radiance that is kept for what is seen through gives back up to 1,000 within 2%', async () => {
    const glass: Material = { metallicFactor: 0, roughnessFactor: 0, transmissionFactor: 1, ior: 1.0001 };
    for (const light of [0.02, 1, 30, 1000]) {
      const [seen] = await middle({ around: light, material: glass, exposure: 0.5 / light });
      expect(Math.abs(seen! / 0.5 - 1)).toBeLessThan(0.02);
    }
  });

  test.each<[string, Material, Record<string, Plain>, Material]>(
    inTurn<[string, Material, Record<string, Plain>, Material]>(
      [
        [
          'clearcoatTexture',
          { clearcoatFactor: 1 },
          { clearcoatTexture: { rgba: [128, 0, 0, 0] } },
          { clearcoatFactor: 128 / 255 },
        ],
        [
          'sheenColorTexture, which is sRGB-encoded',
          { sheenColorFactor: [1, 1, 1], sheenRoughnessFactor: 0.6 },
          { sheenColorTexture: { rgba: [188, 128, 0, 255] } },
          { sheenColorFactor: [0.503, 0.216, 0], sheenRoughnessFactor: 0.6 },
        ],
        [
          'specularTexture',
          { specularFactor: 1, ior: 2 },
          { specularTexture: { rgba: [0, 0, 0, 64] } },
          { specularFactor: 64 / 255, ior: 2 },
        ],
        [
          'specularColorTexture',
          { ior: 2, specularColorFactor: [1, 1, 1] },
          { specularColorTexture: { rgba: [255, 188, 0, 255] } },
          { ior: 2, specularColorFactor: [1, 0.503, 0] },
        ],
        [
          'diffuseTransmissionTexture',
          { diffuseTransmissionFactor: 1 },
          { diffuseTransmissionTexture: { rgba: [0, 0, 0, 128] } },
          { diffuseTransmissionFactor: 128 / 255 },
        ],
        [
          'iridescenceThicknessTexture',
          { iridescenceFactor: 1, iridescenceThicknessMinimum: 200, iridescenceThicknessMaximum: 600 },
          { iridescenceThicknessTexture: { rgba: [0, 128, 0, 0] } },
          { iridescenceFactor: 1, iridescenceThicknessMaximum: 200 + (400 * 128) / 255 },
        ],
      ],
      backend,
    ),
  )('%s does what its factor does', async (_, factors, textures, same) => {
    const base: Material = {
      metallicFactor: 0,
      roughnessFactor: 0.4,
      baseColorFactor: [0.08, 0.08, 0.08, 1],
    };
    const sun = { toward: [0.3, -0.2, -1] as Vec3, intensity: 2 };
    const textured = await middle({ around: 0.4, sun, material: { ...base, ...factors }, textures });
    near(textured, await middle({ around: 0.4, sun, material: { ...base, ...same } }), 0.01);
    const without = await middle({ around: 0.4, sun, material: { ...base, ...factors } });
    expect(Math.max(...textured.map((value, c) => Math.abs(value - without[c]!)))).toBeGreaterThan(0.004);
  });

  test('edges against bright light are as smooth through glass as without it', async () => {
    const steps = await stage.page.evaluate(async () => {
      const { openLens, plane, Scene, axisAngle } = umber;
      const lens = await openLens(document.createElement('canvas'), {
        pixelRatio: 1,
        onMessage: () => undefined,
      });
      const rows: number[][] = [];
      for (const hasGlass of [false, true]) {
        const scene = new Scene({ clearColor: [0, 0, 0, 1] });
        // A lamp of radiance 500 whose edge leans a little, before nothing.
        const [x, , , w] = axisAngle([1, 0, 0], Math.PI / 2);
        const lean = 0.05;
        scene.createNode({
          translation: [0, -5, -5],
          rotation: [x * Math.cos(lean), x * Math.sin(lean), w * Math.sin(lean), w * Math.cos(lean)],
          mesh: {
            geometry: plane({ width: 40, depth: 10 }),
            material: {
              name: 'lamp',
              emissiveFactor: [1, 1, 1],
              emissiveStrength: 500,
              metallicFactor: 1,
              doubleSided: true,
            },
          },
        });
        if (hasGlass)
          scene.createNode({
            translation: [0, 0, -2],
            rotation: axisAngle([1, 0, 0], Math.PI / 2),
            mesh: {
              geometry: plane({ width: 40, depth: 40 }),
              material: {
                name: 'glass',
                metallicFactor: 0,
                roughnessFactor: 0,
                transmissionFactor: 1,
                ior: 1.0001,
              },
            },
          });
        const camera = scene.createNode({ camera: { type: 'perspective', yfov: 0.5, znear: 0.1 } });
        const target = lens.createTarget({ width: 48, height: 32 });
        await lens.load(scene);
        lens.draw(scene, camera, { target });
        const pixels = await target.read();
        rows.push(Array.from({ length: 48 * 32 }, (_, i) => pixels[i * 4]!)); // 4 a pixel
      }
      lens.dispose();
      return rows;
    });
    const [plain, through] = steps;
    // Of four samples a pixel one to three are lit: in between, and not only dark or bright.
    const between = (row: number[]): number => row.filter((v) => v > 60 && v < 254).length;
    expect(between(plain!)).toBeGreaterThan(20);
    expect(between(through!)).toBeGreaterThanOrEqual(0.8 * between(plain!));
    // Weights are not quite the curve: half of the samples come out lighter, though never as the light itself.
    const off = plain!.map((v, i) => Math.abs(v - through![i]!));
    expect(Math.max(...off)).toBeLessThan(60);
  });

  test('light shines through paper from behind, in its colour', async () => {
    const behind = { toward: [0, 0, 1] as Vec3, intensity: 3 };
    const paper: Material = {
      metallicFactor: 0,
      roughnessFactor: 1,
      diffuseTransmissionFactor: 0.5,
      diffuseTransmissionColorFactor: [1, 0.5, 0.25],
    };
    const seen = await middle({ sun: behind, material: paper, shape: 'plate' });
    const through = (3 / Math.PI) * 0.5;
    near(seen, [through, through / 2, through / 4], 0.03);
    near(await middle({ sun: behind, material: { metallicFactor: 0 }, shape: 'plate' }), [0, 0, 0]);
  });

  test('brushing stretches the reflection across its direction', async () => {
    const along: Material = { roughnessFactor: 0.3, anisotropyStrength: 0.9 };
    // The light comes from aside along X: a surface brushed along X spreads it there.
    const sun = { toward: [-0.9, 0, -1] as Vec3, intensity: 3 };
    const [spread] = await middle({ sun, material: along, shape: 'plate' });
    const [narrow] = await middle({
      sun,
      material: { ...along, anisotropyRotation: Math.PI / 2 },
      shape: 'plate',
    });
    expect(spread!).toBeGreaterThan(4 * narrow! + 0.01);
  });

  test('hooks may give a surface layers of their own', async () => {
    const shader =
      'fn surface(p: Fragment) -> Surface { var s = surfaceDefaults(p); s.transmission = 1; s.ior = 1.0001; return s; }';
    near(
      await middle({ wall: [0.7, 0.2, 0.1], shader, material: { metallicFactor: 0, roughnessFactor: 0 } }),
      [0.7, 0.2, 0.1],
      0.01,
    );
  });

  test('a material with every layer and every texture still draws, with environment and shadows', async () => {
    const rgba: Plain['rgba'] = [255, 255, 255, 255];
    const keys = await stage.page.evaluate(() => umber.LAYER_TEXTURES.map(({ key }) => key as string));
    const usual = ['baseColorTexture', 'metallicRoughnessTexture', 'occlusionTexture', 'emissiveTexture'];
    const textures = Object.fromEntries(
      [...usual, ...keys.filter((key) => !key.includes('Normal'))].map((key) => [key, { rgba }]),
    );
    const all: Material = {
      metallicFactor: 0,
      clearcoatFactor: 1,
      sheenColorFactor: [0.3, 0.3, 0.3],
      sheenRoughnessFactor: 0.5,
      specularFactor: 0.9,
      ior: 1.6,
      transmissionFactor: 0.5,
      thicknessFactor: 1,
      iridescenceFactor: 0,
      anisotropyStrength: 0.5,
      dispersion: 1,
      diffuseTransmissionFactor: 0.3,
    };
    near(await middle({ around: 0.5, material: all, textures }), HALF, 0.012);
  });
});
