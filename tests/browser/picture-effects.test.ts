import type * as Umber from 'umber-lens';
import type { Backend, Effect } from 'umber-lens';
import { testPage } from './stage.js';

/** Made in the page: a lens with a target of 96 x 64 that holds light, and a scene without any. */
const STAGE = `globalThis.stage = async ({ size = [96, 64], camera = {}, antialias = false, clear = [0, 0, 0, 1] } = {}) => {
  const { openLens, Scene } = umber;
  const [width, height] = size;
  const heard = [];
  const lens = await openLens(undefined, { antialias, onMessage: ({ summary }) => heard.push(summary) });
  const scene = new Scene({ clearColor: clear });
  const eye = scene.createNode({ translation: [0, 0, 5], camera: { type: 'perspective', yfov: 0.8, znear: 0.1 }, ...camera });
  const target = lens.createTarget({ width, height, format: 'rgba16float' });
  const flat = (color) => ({ baseColorFactor: [0, 0, 0, 1], metallicFactor: 0, specularFactor: 0, emissiveFactor: color });
  const draw = async (finish, frames = 1, before = () => {}) => {
    lens.view.finish = finish;
    await lens.load(scene);
    for (let i = 0; i < frames; i++) {
      before(i);
      lens.draw(scene, eye, { target });
    }
    const pixels = await target.read();
    return (x, y) => [...pixels.subarray((y * width + x) * 4, (y * width + x) * 4 + 4)];
  };
  return { lens, scene, eye, target, flat, draw, heard };
};`;

type Picture = (x: number, y: number) => [number, number, number, number];
interface Stage {
  lens: Umber.Lens;
  scene: Umber.Scene;
  eye: Umber.SceneNode;
  flat: (color: number[]) => Umber.Material;
  draw: (finish: Effect[], frames?: number, before?: (frame: number) => void) => Promise<Picture>;
  heard: string[];
}
declare const stage: (options?: {
  size?: [number, number];
  camera?: Umber.NodeOptions;
  antialias?: boolean;
  clear?: number[];
}) => Promise<Stage>;

describe.each<Backend>(['webgl2', 'webgpu'])('effects that ask what surfaces are, on %s', (backend) => {
  const held = testPage({ as: backend });
  beforeAll(() => held.page.evaluate(STAGE));

  test('a corner is as dark as rays that are cast from it say, however it is drawn; what shines by itself is not', async () => {
    const found = await held.page.evaluate(async () => {
      const { lens, scene, draw } = await stage({
        camera: { translation: [0, 1.5, 3.2], rotation: umber.axisAngle([1, 0, 0], -0.3) },
      });
      const matt = {
        baseColorFactor: [0.8, 0.8, 0.8, 1],
        metallicFactor: 0,
        specularFactor: 0,
      } as Umber.Material;
      const plate = (
        translation: [number, number, number],
        [width, height, depth]: number[],
        more = {},
      ): Umber.SceneNode =>
        scene.createNode({
          translation,
          mesh: {
            geometry: umber.box({ width: width!, height: height!, depth: depth! }),
            material: { ...matt, ...more } as Umber.Material,
          },
        });
      // A floor, a wall of one metre behind it, and a plate that shines, close to the wall.
      plate([0, -0.05, 0], [6, 0.1, 2]);
      plate([0, 0.5, -1.05], [6, 1, 0.1]);
      plate([-1.2, 0.2, -0.8], [0.3, 0.4, 0.3], {
        emissiveFactor: [0.3, 0.3, 0.3],
        baseColorFactor: [0, 0, 0, 1],
      });
      scene.createNode({ light: { type: 'ambient', intensity: 0.5 } });
      const occlusion: Effect = { type: 'ambient-occlusion', radius: 4 };
      const distances = [0.1, 0.25, 0.5, 0.9];
      // The camera looks down by 0.3, from 0, 1.5, 3.2.
      const pixelOf = ([x, y, z]: [number, number, number]): [number, number] => {
        const [up, away] = [y - 1.5, z - 3.2];
        const metres = (-up * Math.sin(0.3) - away * Math.cos(0.3)) * Math.tan(0.4);
        const high = up * Math.cos(0.3) - away * Math.sin(0.3);
        return [Math.floor(48 + (x / metres) * 32), Math.floor(32 - (high / metres) * 32)];
      };
      const shares: Record<string, number[]> = {};
      let shining: number[] = [];
      for (const path of ['forward', 'prepass', 'deferred'] as const) {
        lens.view.renderPath = path;
        const plain = await draw([]);
        const dark = await draw([occlusion]);
        shares[path] = distances.map((d) => {
          const [x, y] = pixelOf([0.6, 0, -1 + d]);
          return dark(x, y)[0] / plain(x, y)[0];
        });
        const [x, y] = pixelOf([-1.2, 0.25, -0.65]);
        shining = [dark(x, y)[0], plain(x, y)[0]];
      }
      // Rays about the floor's normal, weighted by the cosine, that miss the wall.
      const cast = distances.map((d) => {
        let open = 0;
        const count = 4000;
        for (let i = 0; i < count; i++) {
          const r = Math.sqrt((i + 0.5) / count);
          const angle = i * 2.399963;
          const [x, z] = [r * Math.cos(angle), r * Math.sin(angle)];
          const y = Math.sqrt(1 - r * r);
          const t = z < 0 ? -d / z : Infinity;
          if (!(t * y < 1 && Math.abs(0.6 + t * x) < 3)) open++;
        }
        return open / count;
      });
      lens.dispose();
      return { shares, cast, shining };
    });

    for (const [path, shares] of Object.entries(found.shares))
      expect([path, shares.map((share, i) => Math.abs(share - found.cast[i]!) < 0.05)]).toEqual([
        path,
        [true, true, true, true],
      ]);
    expect(found.cast[0]! - found.cast[3]!).toBeGreaterThan(-0.5);
    expect(found.shining[0]).toBeCloseTo(found.shining[1]!, 2);
  });

  test('what moves is drawn out evenly along its way, and no light is lost; what stands is sharp', async () => {
    const found = await held.page.evaluate(async () => {
      const { lens, scene, draw, flat } = await stage({
        camera: {
          translation: [0, 0, 5],
          camera: { type: 'orthographic', xmag: 6, ymag: 4, znear: 0.1, zfar: 20 },
        },
      });
      // 8 pixels a metre.
      const bar = (x: number, y: number, color: number[]): Umber.SceneNode =>
        scene.createNode({
          translation: [x, y, 0],
          mesh: { geometry: umber.box({ width: 3, height: 1, depth: 0.1 }), material: flat(color) },
        });
      const moving = bar(0, 2, [0.5, 0.5, 0.5]);
      bar(0, -2, [0.5, 0.5, 0.5]);
      const row = (of: Picture, y: number): number[] => Array.from({ length: 96 }, (_, x) => of(x, y)[0]);
      const still = await draw([]);
      // 16 pixels a frame, half of them while the shutter is open.
      const drawn = await draw([{ type: 'motion-blur' }], 3, (i) => moving.setTranslation(-4 + 2 * i, 2, 0));
      const all = {
        still: row(still, 16),
        moved: row(drawn, 16),
        stands: row(drawn, 48),
        before: row(still, 48),
      };
      lens.dispose();
      return all;
    });
    const sum = (row: number[]): number => row.reduce((a, b) => a + b, 0);
    expect(sum(found.moved) / sum(found.still)).toBeCloseTo(1, 1);
    // From its middle at 48 the bar reaches from 36 to 60: edges of 8 pixels about those.
    found.moved.forEach((value, x) => {
      const inside = Math.min(1, Math.max(0, (12 + 4 - Math.abs(x + 0.5 - 48)) / 8));
      expect(Math.abs(value / 0.5 - inside)).toBeLessThan(0.16);
    });
    expect(found.stands).toEqual(found.before);
  });

  test('frames put together are as smooth as 64 samples, and leave nothing behind what moves', async () => {
    const found = await held.page.evaluate(async () => {
      const build = async (scale: number): Promise<Stage & { moving: Umber.SceneNode }> => {
        const made = await stage({ size: [96 * scale, 64 * scale], clear: [0.1, 0.2, 0.3, 1] });
        const { scene, flat } = made;
        for (let i = 0; i < 7; i++)
          scene.createNode({
            translation: [i * 0.8 - 2.4, -0.5 + (i % 2), -1],
            rotation: umber.axisAngle([0, 0, 1], 0.2 + i * 0.4),
            mesh: {
              geometry: umber.box({ width: 1, height: 0.25, depth: 0.1 }),
              material: flat([0.6, 0.1 * i, 0.2]),
            },
          });
        const moving = scene.createNode({
          translation: [-1, 0, 1],
          mesh: {
            geometry: umber.box({ width: 0.8, height: 1.5, depth: 0.2 }),
            material: flat([0.7, 0.6, 0.1]),
          },
        });
        return { ...made, moving };
      };
      const { lens, draw, moving } = await build(1);
      const smooth: Effect[] = [{ type: 'temporal-antialiasing' }];
      const edges = await draw([]);
      const together = await draw(smooth, 66);
      const upscaled = await draw([{ type: 'temporal-antialiasing', resolution: 0.5 }], 130);
      const passed = await draw(smooth, 24, (i) => moving.setTranslation(-1 + i * 0.1, 0, 1));
      moving.setVisible(false);
      const without = await draw([]);
      lens.dispose();
      const fine = await build(8);
      const samples = await fine.draw([]);
      fine.lens.dispose();
      const mean = (x: number, y: number, k: number): number => {
        let sum = 0;
        for (let j = 0; j < 64; j++) sum += samples(x * 8 + (j & 7), y * 8 + (j >> 3))[k]!;
        return sum / 64;
      };
      const errors = { edges: 0, together: 0, upscaled: 0, most: 0, ghost: 0 };
      for (let y = 0; y < 64; y++)
        for (let x = 0; x < 96; x++)
          for (let k = 0; k < 3; k++) {
            const wanted = mean(x, y, k);
            errors.edges += (edges(x, y)[k]! - wanted) ** 2;
            errors.together += (together(x, y)[k]! - wanted) ** 2;
            errors.upscaled += (upscaled(x, y)[k]! - wanted) ** 2;
            errors.most = Math.max(errors.most, Math.abs(together(x, y)[k]! - wanted));
            // It stands at 1.3 with half a width of 0.4, at distance 4: all left of it was passed, and has no color of its.
            if (x < 1 || x > 59) continue;
            const around = [-1, 0, 1].flatMap((dy) =>
              [-1, 0, 1].map((dx) => without(x + dx, Math.min(63, Math.max(0, y + dy)))[k]!),
            );
            const c = passed(x, y)[k]!;
            errors.ghost = Math.max(errors.ghost, Math.min(...around) - c, c - Math.max(...around));
          }
      return errors;
    });
    expect(found.together).toBeLessThan(found.edges / 30);
    // A quarter of the pixels each frame, and all of them in the end.
    expect(found.upscaled).toBeLessThan(found.edges / 8);
    expect(found.most).toBeLessThan(0.08);
    expect(found.ghost).toBeLessThan(0.03);
  });

  test('mirrored in a plane is what a mirrored scene shows there', async () => {
    const found = await held.page.evaluate(async () => {
      const { lens, scene, draw, flat } = await stage({
        camera: { translation: [0, 1, 5], rotation: umber.axisAngle([1, 0, 0], -0.2) },
      });
      const floor = scene.createNode({
        translation: [0, -0.05, 0],
        mesh: {
          geometry: umber.box({ width: 10, height: 0.1, depth: 6 }),
          material: { metallicFactor: 1, roughnessFactor: 0 },
        },
      });
      const geometry = umber.box({ width: 1.2, height: 1, depth: 0.2 });
      for (const [x, color] of [
        [-0.8, [0.6, 0.2, 0.1]],
        [0.8, [0.1, 0.3, 0.6]],
      ] as const)
        scene.createNode({ translation: [x, 0.6, 0], mesh: { geometry, material: flat([...color]) } });
      // What is shown as it was given mirrors nothing, whatever it would.
      scene.createNode({
        translation: [0, 1.7, 0],
        mesh: {
          geometry,
          material: {
            unlit: true,
            baseColorFactor: [0.3, 0.3, 0.3, 1],
            metallicFactor: 1,
            roughnessFactor: 0,
          },
        },
      });
      const reflected = await draw([{ type: 'screen-space-reflections' }]);
      const dark = await draw([]);
      let [given, kept] = [0, 0];
      for (let y = 0; y < 20; y++)
        for (let x = 0; x < 96; x++) {
          if (Math.abs(dark(x, y)[1] - 0.3) > 0.01) continue;
          given++;
          if (Math.abs(reflected(x, y)[1] - dark(x, y)[1]) < 0.002) kept++;
        }
      // The same below the plane, and no plane.
      floor.setVisible(false);
      for (const [x, color] of [
        [-0.8, [0.6, 0.2, 0.1]],
        [0.8, [0.1, 0.3, 0.6]],
      ] as const)
        scene.createNode({ translation: [x, -0.6, 0], mesh: { geometry, material: flat([...color]) } });
      const mirrored = await draw([]);
      lens.dispose();
      let [same, all, shown] = [0, 0, 0];
      for (let y = 34; y < 60; y++)
        for (let x = 8; x < 88; x++) {
          const wanted = mirrored(x, y);
          if (dark(x, y)[0] + dark(x, y)[2] > 0.02 || wanted[0] + wanted[2] < 0.1) continue;
          all++;
          const got = reflected(x, y);
          if (got[0] + got[2] > 0.1) shown++;
          if ([0, 1, 2].every((k) => Math.abs(got[k]! - wanted[k]!) < 0.04)) same++;
        }
      return { same: same / all, shown: shown / all, all, given, kept };
    });
    expect(found.all).toBeGreaterThan(200);
    expect(found.same).toBeGreaterThan(0.9);
    expect(found.given).toBeGreaterThan(50);
    expect(found.kept).toBe(found.given);
  });

  test('light in the air ends behind what stands before the light, and dithering keeps the mean of what it splits', async () => {
    const found = await held.page.evaluate(async () => {
      const { lens, scene, draw, eye, flat, heard } = await stage();
      const lamp = scene.createNode({ translation: [0, 0, -2], light: { type: 'point', intensity: 1 } });
      scene.createNode({
        translation: [1, 0, 0],
        mesh: { geometry: umber.box({ width: 0.3, height: 3, depth: 0.1 }), material: flat([0, 0, 0]) },
      });
      const shafts: Effect = { type: 'light-shafts', from: lamp };
      const lit = await draw([shafts]);
      const sun = await draw([{ ...shafts, from: [0, 0, -2], amount: 0 }]);
      const shade = [lit(80, 32)[0], lit(16, 32)[0], sun(16, 32)[0]];
      for (const node of [...scene.meshes.keys()]) node.remove();
      // A step of eight bits over the whole width, in the dark.
      const target = lens.createTarget({ width: 96, height: 64 });
      scene.clearColor = [0.0031, 0.0031, 0.0031, 1];
      const rows = async (finish: Effect[]): Promise<number[]> => {
        lens.view.finish = finish;
        await lens.load(scene);
        lens.draw(scene, eye, { target });
        const bytes = (await target.read()) as Uint8Array;
        return [...new Set(bytes.filter((_, i) => i % 4 === 0))].concat(
          bytes.reduce((sum, b, i) => sum + (i % 4 === 0 ? b : 0), 0) / 6144,
        );
      };
      const plain = await rows([]);
      const split = await rows([{ type: 'dither' }]);
      lens.dispose();
      return { shade, plain, split, heard };
    });
    const [behind, open, none] = found.shade as [number, number, number];
    expect(none).toBe(0);
    expect(open).toBeGreaterThan(0.01);
    expect(behind).toBeLessThan(open * 0.85);
    expect(found.plain).toHaveLength(2);
    expect(found.split.length).toBeGreaterThan(2);
    // As sRGB encodes it: 12.92 * 0.0031 * 255.
    expect(Math.abs(found.split.at(-1)! - 10.21)).toBeLessThan(0.06);
    expect(Math.abs(found.plain.at(-1)! - 10.21)).toBeGreaterThan(0.15);
  });

  test('nodes, swarms, poses, hooks and the camera tell how far they have come', async () => {
    const found = await held.page.evaluate(async () => {
      const { lens, scene, eye, draw, flat } = await stage({
        camera: {
          translation: [0, 0, 5],
          camera: { type: 'orthographic', xmag: 6, ymag: 4, znear: 0.1, zfar: 20 },
        },
      });
      // 8 pixels a metre.
      const geometry = umber.box({ width: 1, height: 1, depth: 0.1 });
      const material = flat([0.2, 0.2, 0.2]);
      const node = scene.createNode({ mesh: { geometry, material } });
      const swarm = new umber.Swarm({ geometry, material, transforms: { translations: [0, 0, 0] } });
      const swarmed = scene.createNode({ mesh: swarm });
      const shader = umber.compileMaterialShader<{ by: number }>(`
        import { frame } from 'umber/frame.wgsl';
        struct Settings { by: f32 }
        fn displace(v: Vertex, s: Settings) -> Vertex { var o = v; o.position.y += s.by * frame.time; return o; }`);
      scene.createNode({
        translation: [2, -1, 0],
        mesh: { geometry, material: { ...material, shader, settings: { by: 1 } } as Umber.Material },
      });
      // One joint holds it, and a target moves it by a metre.
      const soft = umber.box({ width: 1, height: 1, depth: 0.1 });
      const { count } = soft.attributes.position;
      const each = (values: number[]): Umber.Attribute =>
        umber.attributeFrom(
          new Float32Array(count * values.length).map((_, i) => values[i % values.length]!),
          values.length as 3,
        );
      soft.attributes['joints0'] = each([0, 0, 0, 0]);
      soft.attributes['weights0'] = each([1, 0, 0, 0]);
      soft.targets = [{ name: 'aside', attributes: { position: each([1, 0, 0]) } }];
      const joint = scene.createNode();
      const posed = scene.createNode({ mesh: { geometry: soft, material } });
      umber.poseNode(posed, { skin: { joints: [joint] }, weights: [0] });
      const shown = umber.compileEffect(
        'fn effect(p: Pixel) -> vec4f { return vec4f(velocityAt(p.place) * p.size / 64 + 0.5, normalAt(p.place).z, 1); }',
      );
      const encoded = (c: number): number => (c <= 0.0031308 ? c * 12.92 : 1.055 * c ** (1 / 2.4) - 0.055);
      const seen = async (
        frames: number,
        step: (i: number) => void,
      ): Promise<(x: number, y: number) => number[]> => {
        const of = await draw([{ type: 'shader', shader: shown }], frames, step);
        return (x, y) => {
          const [right, down, facing] = of(x, y);
          return [(encoded(right) - 0.5) * 64, (encoded(down) - 0.5) * 64, encoded(facing)].map(
            (part) => Math.round(part * 4) / 4,
          );
        };
      };
      const at = await seen(3, (i) => {
        node.setTranslation(-4.5, i * 0.5, 0);
        swarmed.setTranslation(-2, -i * 0.5, 0);
        posed.setWeight('aside', i * 0.25);
        joint.setTranslation(4.5, i * -0.25, 0);
        lens.setTime(i * 0.25, 0.25);
      });
      const all: Record<string, number[]> = {
        node: at(12, 24),
        swarm: at(32, 40),
        hook: at(64, 36),
        posed: at(88, 36),
        nothing: at(48, 4),
      };
      lens.setTime(0.5, 0);
      const panned = await seen(3, (i) => eye.setTranslation(i * 0.25, 0, 5));
      all['panned'] = panned(10, 24);
      lens.dispose();
      return all;
    });
    expect(found).toEqual({
      node: [0, -4, 1],
      swarm: [0, 4, 1],
      hook: [0, -2, 1],
      posed: [2, 2, 1],
      nothing: [0, 0, 0],
      panned: [-2, 0, 1],
    });
  });

  test('occlusion and reflections are on what they see alone', async () => {
    const found = await held.page.evaluate(async () => {
      const { lens, scene, draw } = await stage({
        camera: { translation: [0, 1, 5], rotation: umber.axisAngle([1, 0, 0], -0.2) },
      });
      scene.createNode({ light: { type: 'hemisphere', intensity: 0.6 } });
      const floor = { metallicFactor: 0, roughnessFactor: 0.05 } as Umber.Material;
      for (const [x, visibleTo] of [
        [-2, 0b01],
        [2, 0b10],
      ] as const)
        scene.createNode({
          visibleTo,
          translation: [x, -0.05, 0],
          mesh: { geometry: umber.box({ width: 4, height: 0.1, depth: 6 }), material: floor },
        });
      for (const x of [-0.9, 0.9])
        scene.createNode({
          visibleTo: 0b100,
          translation: [x, 0.5, 0],
          mesh: {
            geometry: umber.box({ width: 1.2, height: 1, depth: 1 }),
            material: { emissiveFactor: [0.5, 0.2, 0.1], metallicFactor: 0, roughnessFactor: 1 },
          },
        });
      const plain = await draw([]);
      const all: Record<string, number[]> = {};
      for (const [type, more] of [
        ['ambient-occlusion', { radius: 1 }],
        ['screen-space-reflections', {}],
      ] as const) {
        const whole = await draw([{ type, ...more }]);
        const some = await draw([{ type, ...more, sees: 0b10 }]);
        const [left, right] = [
          [0, 0, 0],
          [0, 0, 0],
        ];
        for (let y = 0; y < 64; y++)
          for (let x = 0; x < 96; x++) {
            if (Math.abs(x - 47.5) < 3) continue;
            const side = x < 48 ? left : right;
            const apart = (a: Picture, b: Picture): number =>
              Math.abs(a(x, y)[0] - b(x, y)[0]) > 0.004 ? 1 : 0;
            side[0]! += apart(whole, plain);
            side[1]! += apart(some, plain);
            side[2]! += apart(some, whole);
          }
        all[`${type} left`] = left;
        all[`${type} right`] = right;
      }
      lens.dispose();
      return all;
    });
    for (const type of ['ambient-occlusion', 'screen-space-reflections']) {
      const [changed, byBits, fromAll] = found[`${type} left`]!;
      expect(changed).toBeGreaterThan(60);
      expect(byBits).toBe(0);
      expect(fromAll).toBe(changed);
      const [seen, kept, others] = found[`${type} right`]!;
      expect(seen).toBeGreaterThan(60);
      expect(kept).toBeGreaterThan(60);
      // The boxes' own sides are not treated any more, and beside them occlusion is smoothed without them.
      expect(others).toBeLessThan(seen! / 2);
    }
  });

  test('lights light, and effects treat, what they see alone, however it is drawn', async () => {
    const found = await held.page.evaluate(async () => {
      const { lens, scene, draw } = await stage();
      const mesh = {
        geometry: umber.box({ width: 1.6, height: 2, depth: 0.1 }),
        material: {
          baseColorFactor: [0.5, 0.5, 0.5, 1],
          metallicFactor: 0,
          specularFactor: 0,
        } as Umber.Material,
      };
      const [left, right] = [-1.2, 1.2].map((x) => scene.createNode({ translation: [x, 0, 0], mesh }));
      left!.visibleTo = 0b01;
      const group = scene.createNode({ visibleTo: 0b10 });
      right!.setParent(group);
      const light = (sees: number | undefined, color: number[]): Umber.SceneNode =>
        scene.createNode({
          light: { type: 'directional', intensity: 1, color, ...(sees === undefined ? {} : { sees }) },
        });
      light(undefined, [0, 0, 1]);
      light(0b01, [1, 0, 0]);
      light(0b10, [0, 1, 0]);
      const seen: Record<string, boolean[][]> = {};
      const look = async (name: string, finish: Effect[] = []): Promise<void> => {
        const at = await draw(finish);
        seen[name] = [at(32, 32), at(64, 32), at(2, 2)].map((color) =>
          color.slice(0, 3).map((part) => part > 0.05),
        );
      };
      for (const path of ['forward', 'prepass', 'deferred'] as const) {
        lens.view.renderPath = path;
        await look(path);
      }
      await look('inverted', [{ type: 'invert', sees: 0b10 }]);
      await look('all', [{ type: 'invert', sees: 0xffffffff }]);
      await look('both', [
        { type: 'invert', sees: 0b10 },
        { type: 'invert', sees: 0b11 },
      ]);
      const shader = umber.compileEffect(
        'fn effect(p: Pixel) -> vec4f { return vec4f(vec3f(maskAt(p.place)), 1); }',
      );
      await look('own', [{ type: 'shader', shader, sees: 0b01 }]);
      await look('own of all', [{ type: 'shader', shader }]);
      await look('drawn out', [{ type: 'bloom', amount: 1, sees: 0b100 }]);
      // Clusters of many.
      for (let i = 0; i < 70; i++) light(0b10, [0.02, 0, 0]);
      lens.view.renderPath = 'forward';
      await look('many');
      lens.dispose();
      return seen;
    });
    const [red, green, blue] = [true, true, true];
    const plain = [
      [red, false, blue],
      [false, green, blue],
      [false, false, false],
    ];
    expect(found).toEqual({
      forward: plain,
      prepass: plain,
      deferred: plain,
      inverted: [plain[0], [true, true, true], plain[2]],
      // What is not solid is nobody's, whoever is asked for.
      all: [[true, true, true], [true, true, true], plain[2]],
      both: [[true, true, true], plain[1], plain[2]],
      own: [[true, true, true], [false, green, blue], plain[2]],
      'own of all': [[true, true, true], [true, true, true], plain[2]],
      'drawn out': plain,
      many: [plain[0], [true, true, true], plain[2]],
    });
  });
});
