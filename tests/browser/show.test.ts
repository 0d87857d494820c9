import type { Backend, ShownQuantity } from 'umber-lens';
import { testPage } from './stage.js';

describe.each<Backend>(['webgl2', 'webgpu'])('single quantities on %s', (backend) => {
  const stage = testPage({ as: backend });

  /** Bytes of the middle of a plate that faces the camera, 5 m away, with a hook and a cut where asked for. */
  const middle = (
    show: ShownQuantity,
    more: { turned?: boolean; unlit?: boolean; hook?: boolean } = {},
  ): Promise<number[]> =>
    stage.page.evaluate(
      async ({ show: wanted, turned, unlit, hook }) => {
        const { openLens, Scene, plane, axisAngle, facing, compileMaterialShader } = umber;
        const held = window as unknown as { heldLens?: Awaited<ReturnType<typeof openLens>> };
        const lens = (held.heldLens ??= await openLens(document.createElement('canvas'), { pixelRatio: 1 }));
        lens.view.show = wanted;
        lens.look.exposure = 2.8; // must not matter
        const scene = new Scene();
        for (const height of [0, -0.2])
          scene.createNode({
            translation: [0, 0, height],
            rotation: axisAngle([1, 0, 0], turned ? -Math.PI / 2 : Math.PI / 2),
            mesh: {
              geometry: plane({ width: 4, depth: 4 }),
              material: {
                baseColorFactor: [0.2, 0.4, 0.6, 0.5],
                metallicFactor: 0.25,
                roughnessFactor: 0.5,
                emissiveFactor: [0, 0.1, 0.2],
                doubleSided: true,
                ...(unlit ? { unlit: true } : {}),
                ...(hook
                  ? {
                      shader: compileMaterialShader(
                        'fn surface(p: Fragment) -> Surface { var s = surfaceDefaults(p); s.roughness = 1; return s; }',
                      ),
                    }
                  : {}),
              },
            },
          });
        for (let i = 0; i < 3; i++)
          scene.createNode({
            rotation: facing([0, 0, i === 2 ? 1 : -1]),
            light: { type: 'directional', intensity: 2 },
          });
        const cameraNode = scene.createNode({
          translation: [0, 0, 5],
          camera: { type: 'perspective', yfov: 0.02, znear: 0.1 },
        });
        const target = lens.createTarget({ width: 3, height: 3 });
        await lens.load(scene);
        lens.draw(scene, cameraNode, { target });
        const pixel = [...(await target.read()).slice(16, 19)];
        target.dispose();
        lens.view.show = 'shaded';
        return pixel;
      },
      { show, ...more },
    );

  const srgb = (c: number): number =>
    Math.round(255 * (c <= 0.0031308 ? 12.92 * c : 1.055 * c ** (1 / 2.4) - 0.055));

  test.each<[ShownQuantity, number[]]>([
    ['base-color', [srgb(0.2), srgb(0.4), srgb(0.6)]],
    ['world-normals', [128, 128, 255]],
    ['view-normals', [128, 128, 255]],
    ['vertex-color', [255, 255, 255]],
    ['roughness', [128, 128, 128]],
    ['metallic', [64, 64, 64]],
    ['occlusion', [255, 255, 255]],
    ['emissive', [0, srgb(0.1), srgb(0.2)]],
    ['alpha', [128, 128, 128]],
    ['depth', [170, 170, 170]],
    ['backfaces', [srgb(0.54), srgb(0.54), srgb(0.54)]],
    ['not-finite', [77, 77, 77]],
    ['overdraw', [srgb(0.12), srgb(0.12), srgb(0.12)]],
  ])('"%s" shows its numbers, at any exposure', async (show, expected) => {
    const seen = await middle(show);
    seen.forEach((byte, c) => expect(Math.abs(byte - expected[c]!)).toBeLessThanOrEqual(2));
  });

  test('faces seen from behind are amber, unlit surfaces and hooks show what they have', async () => {
    const [red, , blue] = await middle('backfaces', { turned: true });
    expect(red!).toBeGreaterThan(2 * blue!);
    for (const show of ['base-color', 'world-normals', 'view-normals', 'texcoords', 'depth', 'clay'] as const)
      expect([show, await middle(show, { unlit: true })]).toEqual([show, await middle(show)]);
    expect(await middle('roughness', { hook: true })).toEqual([255, 255, 255]);
  });

  test('a shader that gives no number is found, with its node and place; one that is right is not', async () => {
    const found = await stage.page.evaluate(async () => {
      const { compileMaterialShader, openLens, plane, Scene } = umber;
      const lens = await openLens(
        Object.assign(document.createElement('canvas'), { width: 96, height: 64 }),
        {
          pixelRatio: 1,
          antialias: false,
          onMessage: () => undefined,
        },
      );
      const scene = new Scene();
      const camera = scene.createNode({
        translation: [0, 0, 3],
        camera: { type: 'perspective', yfov: 0.8, znear: 0.1, aspectRatio: 1 },
      });
      scene.createNode({ light: { type: 'directional', intensity: 3 } });
      const wall = scene.createNode({
        name: 'wall',
        mesh: { geometry: plane({ width: 4, depth: 4 }), material: { metallicFactor: 0 } },
      });
      wall.setRotation(Math.SQRT1_2, 0, 0, Math.SQRT1_2);
      const right = await lens.findFaults(scene, camera);
      const shader = compileMaterialShader(
        'struct Settings { one: f32 } // = 1\nfn surface(p: Fragment, s: Settings) -> Surface { var o = surfaceDefaults(p); o.baseColor = vec3f(sqrt(p.position.x * s.one)); return o; }',
      );
      scene.createNode({
        name: 'root',
        mesh: {
          geometry: plane({ width: 1, depth: 1 }),
          material: { name: 'roots', metallicFactor: 0, shader, settings: { one: 1 } },
        },
        translation: [0, 0, 0.5],
        rotation: [Math.SQRT1_2, 0, 0, Math.SQRT1_2],
      });
      const [wrong] = await lens.findFaults(scene, camera);
      lens.dispose();
      return {
        right,
        wrong: wrong && {
          node: wrong.node.name,
          x: wrong.point[0],
          share: wrong.pixels / wrong.of,
          text: wrong.text,
          show: lens.view.show,
        },
      };
    });
    expect(found.right).toEqual([]);
    expect(found.wrong).toMatchObject({ node: 'root', show: 'shaded' });
    expect(found.wrong!.x).toBeLessThan(0);
    // Half of a metre of the 2.11 m that are seen at 2.5 m, squared.
    expect(found.wrong!.share).toBeCloseTo(0.5 / (2 * 2.5 * Math.tan(0.4)) ** 2, 1);
    expect(found.wrong!.text).toMatch(/the material "roots" of node "root"[^]*not finite[^]*sqrt/);
  });

  test('a marched shape that is cut by its box is found; one that fits is not', async () => {
    const texts = await stage.page.evaluate(async () => {
      const { box, compileMaterialShader, openLens, Scene } = umber;
      const lens = await openLens(
        Object.assign(document.createElement('canvas'), { width: 96, height: 64 }),
        {
          pixelRatio: 1,
          antialias: false,
          onMessage: () => undefined,
        },
      );
      const shader = compileMaterialShader(`fn march(ray: Ray) -> Hit {
        var hit: Hit;
        let b = dot(ray.origin, ray.direction);
        let d = b * b - dot(ray.origin, ray.origin) + 0.25;
        if d < 0 { return hit; }
        hit.isHit = true;
        hit.position = ray.origin + ray.direction * (-b - sqrt(d));
        hit.normal = normalize(hit.position);
        return hit;
      }`);
      const found: string[][] = [];
      for (const side of [1.02, 0.7]) {
        const scene = new Scene();
        const camera = scene.createNode({
          translation: [0, 0, 3],
          camera: { type: 'perspective', yfov: 0.8, znear: 0.1 },
        });
        scene.createNode({ light: { type: 'directional', intensity: 3 } });
        scene.createNode({
          name: 'bead',
          translation: [0.1, 0, 0],
          rotation: [0, Math.SQRT1_2, 0, Math.SQRT1_2],
          mesh: {
            geometry: box({ width: side, height: side, depth: side }),
            material: { metallicFactor: 0, shader },
          },
        });
        found.push((await lens.findFaults(scene, camera)).map(({ kind, text }) => `${kind}: ${text}`));
      }
      lens.dispose();
      return found;
    });
    expect(texts[0]).toEqual([]);
    expect(texts[1]).toEqual([
      expect.stringMatching(/^cut-shape: the shape of the material on node "bead" reaches out[^]*larger box/),
    ]);
  });

  test('tangents are shown where a geometry has them, whether its material has a use for them or not', async () => {
    const seen = await stage.page.evaluate(async () => {
      const { openLens, plane, Scene, axisAngle, withTangents } = umber;
      const lens = await openLens(document.createElement('canvas'), {
        pixelRatio: 1,
        onMessage: () => undefined,
      });
      lens.view.show = 'tangents';
      const scene = new Scene();
      [plane({ width: 1, depth: 2 }), withTangents(plane({ width: 1, depth: 2 }))].forEach((geometry, i) =>
        scene.createNode({
          translation: [i - 0.5, 0, -3],
          rotation: axisAngle([1, 0, 0], Math.PI / 2),
          mesh: { geometry, material: { name: `${i}` } },
        }),
      );
      const cameraNode = scene.createNode({ camera: { type: 'perspective', yfov: 0.2, znear: 0.1 } });
      const target = lens.createTarget({ width: 8, height: 8 });
      await lens.load(scene);
      lens.draw(scene, cameraNode, { target });
      const pixels = await target.read();
      lens.dispose();
      return [1, 6].map((x) => [...pixels.slice((4 * 8 + x) * 4, (4 * 8 + x) * 4 + 3)]);
    });
    // None on the left; along +X on the right.
    const expected = [
      [128, 128, 128],
      [255, 128, 128],
    ];
    seen.flat().forEach((byte, i) => expect(Math.abs(byte - expected.flat()[i]!)).toBeLessThanOrEqual(1));
  });

  test('glossiness of a texture is one less the roughness', async () => {
    const seen = await stage.page.evaluate(async () => {
      const { openLens, plane, Scene, axisAngle } = umber;
      const lens = await openLens(document.createElement('canvas'), {
        pixelRatio: 1,
        onMessage: () => undefined,
      });
      lens.view.show = 'roughness';
      const data = new Uint8Array([255, 255, 255, 128]);
      const scene = new Scene();
      scene.createNode({
        translation: [0, 0, -3],
        rotation: axisAngle([1, 0, 0], Math.PI / 2),
        mesh: {
          geometry: plane({ width: 4, depth: 4 }),
          material: {
            metallicFactor: 0,
            ior: 0,
            specularColorTexture: {
              texture: { image: { content: { kind: 'pixels', width: 1, height: 1, data } } },
            },
            glossinessFactor: 0.8,
          },
        },
      });
      const cameraNode = scene.createNode({ camera: { type: 'perspective', yfov: 0.1, znear: 0.1 } });
      const target = lens.createTarget({ width: 3, height: 3 });
      await lens.load(scene);
      lens.draw(scene, cameraNode, { target });
      const pixel = [...(await target.read()).slice(16, 19)];
      lens.dispose();
      return pixel;
    });
    const expected = 255 * (1 - (0.8 * 128) / 255);
    for (const byte of seen) expect(Math.abs(byte - expected)).toBeLessThanOrEqual(2);
  });

  test('lights are counted on the side that they reach; what cannot be shown is told with what can', async () => {
    // Two of the three: the third shines from behind.
    expect(await middle('lights')).toEqual([0, srgb(0.75), srgb(0.65)]);
    const fault = await stage.page.evaluate(async () => {
      const lens = (window as unknown as { heldLens: InstanceType<typeof umber.Lens> }).heldLens;
      try {
        lens.view.show = 'heat' as never;
        return '';
      } catch (error) {
        return String(error);
      }
    });
    expect(fault).toContain('"heat" cannot be shown');
    expect(fault).toContain('base-color, world-normals');
  });

  test('points and edges are drawn where they are, over clay or alone; draws are told apart', async () => {
    const seen = await stage.page.evaluate(async () => {
      const { openLens, Scene, plane, axisAngle } = umber;
      const lens = await openLens(document.createElement('canvas'), { pixelRatio: 1, antialias: false });
      const scene = new Scene();
      // Two by two cells of 8 pixels; its corners lie in the middle of pixels.
      const red: [number, number, number, number] = [1, 0, 0, 1];
      const square = (x: number): void =>
        void scene.createNode({
          translation: [x, 0, -5],
          rotation: axisAngle([1, 0, 0], Math.PI / 2),
          mesh: {
            geometry: plane({ width: 16, depth: 16, cells: [2, 2] }),
            material: { baseColorFactor: red, unlit: true },
          },
        });
      square(-12.5);
      square(11.5);
      const cameraNode = scene.createNode({
        translation: [0, -0.5, 0],
        camera: { type: 'orthographic', xmag: 24, ymag: 16, znear: 0.1, zfar: 20 },
      });
      const target = lens.createTarget({ width: 48, height: 32 });
      const drawn: Record<string, number[]> = {};
      for (const show of ['points', 'wireframe', 'clay', 'clay-edges', 'draws', 'shaded'] as const) {
        lens.view.show = show;
        await lens.load(scene);
        lens.draw(scene, cameraNode, { target });
        const pixels = await target.read();
        const at = (x: number, y: number): number[] => [
          ...pixels.slice((y * 48 + x) * 4, (y * 48 + x) * 4 + 3),
        ];
        let covered = 0;
        for (let i = 0; i < pixels.length; i += 4) if (pixels[i + 3]! > 0) covered++; // i < length
        // In the middle of a triangle of the first square; its middle vertex; the same place in the second one.
        drawn[show] = [covered, ...at(9, 10), ...at(11, 16), ...at(33, 10)];
      }
      // A material that changes while edges are shown.
      lens.view.show = 'wireframe';
      red[0] = 0;
      red[2] = 1;
      lens.draw(scene, cameraNode, { target });
      const blue = [...(await target.read())].filter((value, i) => i % 4 === 2 && value > 200).length;
      const before = lens.device.counts.buffers;
      lens.view.show = 'shaded';
      for (let i = 0; i < 250; i++) lens.draw(scene, cameraNode, { target });
      const freed = before - lens.device.counts.buffers;
      lens.dispose();
      return { drawn, blue, freed };
    });
    const { drawn } = seen;
    expect(drawn['shaded']![0]).toBe(512);
    expect(drawn['shaded']!.slice(1, 4)).toEqual([255, 0, 0]);
    expect(drawn['points']![0]).toBe(18);
    // Red where there is an edge, nothing where there is none.
    expect(drawn['wireframe']![0]).toBeGreaterThan(150);
    expect(drawn['wireframe']![0]).toBeLessThan(300);
    expect(drawn['wireframe']!.slice(1, 4)).toEqual([0, 0, 0]);
    // Clay that faces the camera is grey all over; with edges some of it is dark.
    expect(drawn['clay']!.slice(0, 2)).toEqual([512, srgb(0.54)]);
    expect(drawn['clay']!.slice(1, 4)).toEqual(drawn['clay']!.slice(4, 7));
    expect(drawn['clay-edges']!.slice(1, 4)).toEqual(drawn['clay']!.slice(1, 4));
    expect(Math.min(...drawn['clay-edges']!.slice(4, 7))).toBeLessThan(60);
    // Two geometries, two draws.
    expect(drawn['draws']!.slice(1, 4)).not.toEqual(drawn['draws']!.slice(7, 10));
    expect(Math.max(...drawn['draws']!.slice(1, 4))).toBeGreaterThan(150);
    expect(seen.blue).toBeGreaterThan(150);
    expect(seen.freed).toBe(2);
  });
});
