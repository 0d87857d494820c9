import type { Backend } from 'umber-lens';
import { testPage } from './stage.js';

describe.each<Backend>(['webgl2', 'webgpu'])('on %s', (backend) => {
  const stage = testPage({ as: backend });

  type Vec3 = [number, number, number];
  interface Surface {
    base: Vec3;
    metallic: number;
    roughness: number;
  }
  interface Setup extends Surface {
    light: {
      type: 'directional' | 'point' | 'spot';
      intensity: number;
      color?: Vec3;
      range?: number;
      innerConeAngle?: number;
      outerConeAngle?: number;
    };
    /** Way the light travels, or its position. */
    toward?: Vec3;
    at?: Vec3;
  }

  /** Linear colour of the middle of a plane facing +Z, seen head-on from z = 4. */
  function drawn(setup: Setup): Promise<number[]> {
    return stage.page.evaluate(async (s) => {
      const { openLens, Scene, plane, axisAngle, facing } = umber;
      // One lens for all: browsers keep few contexts alive.
      const held = window as unknown as { heldLens?: Awaited<ReturnType<typeof openLens>> };
      const lens = (held.heldLens ??= await openLens(document.createElement('canvas'), {
        pixelRatio: 1,
        antialias: false,
      }));
      const scene = new Scene();
      scene.createNode({
        rotation: axisAngle([1, 0, 0], Math.PI / 2),
        mesh: {
          geometry: plane({ width: 10, depth: 10 }),
          material: {
            baseColorFactor: [...s.base, 1],
            metallicFactor: s.metallic,
            roughnessFactor: s.roughness,
          },
        },
      });
      scene.createNode({
        ...(s.at ? { translation: s.at } : {}),
        rotation: facing(s.toward ?? [0, 0, -1]),
        light: s.light,
      });
      const camera = scene.createNode({
        translation: [0, 0, 4],
        camera: { type: 'perspective', yfov: 0.01, znear: 0.1 },
      });
      const target = lens.createTarget({ width: 3, height: 3 });
      lens.draw(scene, camera, { target });
      const pixel = [...(await target.read()).slice(16, 19)];
      target.dispose();
      return pixel.map((c) => (c / 255 <= 0.04045 ? c / 255 / 12.92 : ((c / 255 + 0.055) / 1.055) ** 2.4));
    }, setup);
  }

  /** Radiance by the formulas of glTF 2.0, appendix B, for a light along `toLight` and the camera along +Z. */
  function radiance({ base, metallic, roughness }: Surface, toLight: Vec3, illuminance: Vec3): number[] {
    const n = Math.hypot(...toLight);
    const l = toLight.map((v) => v / n);
    const h = [l[0]!, l[1]!, l[2]! + 1];
    const hn = Math.hypot(...h);
    const nl = l[2]!;
    const nh = h[2]! / hn;
    const vh = nh;
    const a2 = roughness ** 4;
    const d = a2 / (Math.PI * (nh * nh * (a2 - 1) + 1) ** 2);
    // nv = 1: sqrt(nv^2 (1 - a2) + a2) = 1.
    const v = 0.5 / (nl * 1 + Math.sqrt(nl * nl * (1 - a2) + a2));
    return base.map((b, k) => {
      const f0 = 0.04 * (1 - metallic) + b * metallic;
      const f = f0 + (1 - f0) * (1 - vh) ** 5;
      return (((1 - f) * (b * (1 - metallic))) / Math.PI + f * d * v) * illuminance[k]! * nl;
    });
  }

  /** 8-bit sRGB steps are finest in the dark; compare in them. */
  function expectClose(actual: number[], expected: number[]): void {
    const encode = (c: number): number =>
      255 * (c <= 0.0031308 ? 12.92 * c : 1.055 * Math.min(1, c) ** (1 / 2.4) - 0.055);
    expect(Math.max(...expected)).toBeLessThan(0.76);
    actual.forEach((value, k) => expect(Math.abs(encode(value) - encode(expected[k]!))).toBeLessThan(1.1));
  }

  const clay: Surface = { base: [0.8, 0.4, 0.1], metallic: 0, roughness: 0.6 };
  const brass: Surface = { base: [0.9, 0.7, 0.3], metallic: 1, roughness: 0.5 };

  test.each<[string, Surface]>([
    ['clay', clay],
    ['brass', brass],
    ['half of each', { base: [0.5, 0.5, 0.9], metallic: 0.5, roughness: 0.9 }],
  ])('a directional light on %s follows the published formulas at several angles', async (_, surface) => {
    for (const toLight of [
      [0, 0, 1],
      [0.6, 0, 0.8],
      [0.3, 0.9, 0.5],
    ] as Vec3[]) {
      const toward = toLight.map((v) => -v) as Vec3;
      expectClose(
        await drawn({
          ...surface,
          light: { type: 'directional', intensity: 0.6, color: [1, 0.8, 0.5] },
          toward,
        }),
        radiance(surface, toLight, [0.6, 0.48, 0.3]),
      );
    }
  });

  test('a point light falls off by the square of the distance, and to nothing at its range', async () => {
    for (const [distance, range] of [
      [1, undefined],
      [2, undefined],
      [2, 3],
      [2.9, 3],
    ] as const) {
      const falloff = range === undefined ? 1 : Math.max(0, 1 - (distance / range) ** 4);
      const lux = (2 * falloff) / distance ** 2;
      expectClose(
        await drawn({
          ...clay,
          roughness: 1,
          light: { type: 'point', intensity: 2, ...(range ? { range } : {}) },
          at: [0, 0, distance],
        }),
        radiance({ ...clay, roughness: 1 }, [0, 0, 1], [lux, lux, lux]),
      );
    }
  });

  test('a spot light has a full core and a squared ramp to its edge', async () => {
    const light = { type: 'spot' as const, intensity: 3, innerConeAngle: 0.2, outerConeAngle: 0.6 };
    for (const angle of [0, 0.1, 0.4, 0.55, 0.7]) {
      const ramp = (Math.cos(angle) - Math.cos(0.6)) / (Math.cos(0.2) - Math.cos(0.6));
      const lux = (3 * Math.min(1, Math.max(0, ramp)) ** 2) / 4;
      expectClose(
        await drawn({
          ...clay,
          roughness: 1,
          light,
          at: [0, 0, 2],
          toward: [Math.sin(angle), 0, -Math.cos(angle)],
        }),
        radiance({ ...clay, roughness: 1 }, [0, 0, 1], [lux, lux, lux]),
      );
    }
  });

  test('an unlit surface and the background show exactly the colour they were given, at any exposure', async () => {
    const pixels = await stage.page.evaluate(async () => {
      const { openLens, Scene, box } = umber;
      const linear = (c: number): number => (c <= 0.04045 ? c / 12.92 : ((c + 0.055) / 1.055) ** 2.4);
      const out: number[][] = [];
      const lens = await openLens(document.createElement('canvas'), { pixelRatio: 1 });
      for (const [i, srgb] of [
        [255, 128, 0],
        [1, 2, 3],
        [250, 254, 30],
        [255, 255, 255],
        [0, 0, 0],
      ].entries()) {
        lens.look.exposure = [0, -2, 2][i % 3]!;
        const color = srgb.map((c) => linear(c / 255)) as [number, number, number];
        const scene = new Scene({ clearColor: [...color, 1] });
        scene.createNode({
          mesh: {
            geometry: box({ width: 2, height: 0.5 }),
            material: { unlit: true, baseColorFactor: [...color, 1] },
          },
        });
        const camera = scene.createNode({
          translation: [0, 0, 3],
          camera: { type: 'perspective', yfov: 0.8, znear: 0.1 },
        });
        const target = lens.createTarget({ width: 9, height: 9 });
        lens.draw(scene, camera, { target });
        const all = await target.read();
        out.push([...all.slice(0, 3)], [...all.slice(40 * 4, 40 * 4 + 3)], srgb, srgb);
      }
      lens.dispose();
      return out;
    });
    for (let i = 0; i < pixels.length; i += 4)
      expect([pixels[i], pixels[i + 1]]).toEqual([pixels[i + 2], pixels[i + 3]]);
  });

  test('a normal map leans the surface the way it says, with tangents and without', async () => {
    const brightness = await stage.page.evaluate(async () => {
      const { openLens, Scene, plane, axisAngle, facing, withTangents } = umber;
      const lens = await openLens(document.createElement('canvas'), { pixelRatio: 1, antialias: false });
      const shade = async (
        texel: [number, number, number],
        toward: [number, number, number],
        tangents: boolean,
        mirrored: boolean,
      ): Promise<number> => {
        const scene = new Scene();
        const quad = plane({ width: 4, depth: 4 });
        const data = new Uint8Array([...texel, 255]);
        const texture = { image: { content: { kind: 'pixels' as const, width: 1, height: 1, data } } };
        scene.createNode({
          rotation: axisAngle([1, 0, 0], Math.PI / 2),
          scale: mirrored ? [-1, 1, 1] : [1, 1, 1],
          mesh: {
            geometry: tangents ? withTangents(quad) : quad,
            material: { normalTexture: { texture }, metallicFactor: 0 },
          },
        });
        scene.createNode({ rotation: facing(toward), light: { type: 'directional', intensity: 1 } });
        const camera = scene.createNode({
          translation: [0, 0, 3],
          camera: { type: 'perspective', yfov: 0.8, znear: 0.1 },
        });
        const target = lens.createTarget({ width: 5, height: 5 });
        lens.draw(scene, camera, { target });
        return (await target.read())[12 * 4]!;
      };
      const right: [number, number, number] = [218, 128, 218];
      const up: [number, number, number] = [128, 218, 218];
      const out: Record<string, number[]> = {};
      for (const tangents of [true, false]) {
        // Texture u runs along +X of the picture, up in the texture is +Y.
        out[`right ${tangents}`] = [
          await shade(right, [-1, 0, -1], tangents, false),
          await shade(right, [1, 0, -1], tangents, false),
        ];
        out[`up ${tangents}`] = [
          await shade(up, [0, -1, -1], tangents, false),
          await shade(up, [0, 1, -1], tangents, false),
        ];
        out[`mirrored ${tangents}`] = [
          await shade(right, [1, 0, -1], tangents, true),
          await shade(right, [-1, 0, -1], tangents, true),
        ];
        out[`mirrored up ${tangents}`] = [
          await shade(up, [0, -1, -1], tangents, true),
          await shade(up, [0, 1, -1], tangents, true),
        ];
      }
      lens.dispose();
      return out;
    });
    for (const [name, [towards, away]] of Object.entries(brightness)) {
      expect([name, towards! > away! + 60]).toEqual([name, true]);
    }
    expect(Math.abs(brightness['right true']![0]! - brightness['right false']![0]!)).toBeLessThanOrEqual(2);
  });
});
