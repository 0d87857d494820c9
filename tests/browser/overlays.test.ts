import type { Backend } from 'umber-lens';
import { testPage } from './stage.js';

describe.each<Backend>(['webgl2', 'webgpu'])('what lies on something on %s', (backend) => {
  const held = testPage({ as: backend });

  test.each(['plain', 'with fog'])('a second primitive of the same geometry is seen: %s', async (around) => {
    const found = await held.page.evaluate(async (kind) => {
      const { box, openLens, Scene } = umber;
      const lens = await openLens(undefined, { antialias: false, onMessage: () => undefined });
      const target = lens.createTarget({ width: 32, height: 32 });
      const geometry = box();
      const seen: number[][] = [];
      for (const order of [0, 1]) {
        const scene = new Scene();
        if (kind === 'with fog') scene.fog = { type: 'exponential', color: [0, 0, 0], density: 1e-6 };
        const red = { unlit: true, baseColorFactor: [1, 0, 0, 1] as [number, number, number, number] };
        // Of another kind, so that it is a batch of its own.
        const green = {
          unlit: true,
          doubleSided: true,
          baseColorFactor: [0, 1, 0, 1] as [number, number, number, number],
        };
        const both = [
          { geometry, material: red },
          { geometry, material: green },
        ];
        scene.createNode({ mesh: order === 0 ? both : both.reverse() });
        const camera = scene.createNode({
          translation: [0, 0, 3],
          camera: { type: 'perspective', yfov: 0.4, znear: 0.1 },
        });
        await lens.load(scene);
        lens.draw(scene, camera, { target });
        seen.push([...(await target.read()).subarray((16 * 32 + 16) * 4, (16 * 32 + 16) * 4 + 3)]);
      }
      return seen;
    }, around);
    // The one that is named last lies on top.
    expect(found).toEqual([
      [0, 255, 0],
      [255, 0, 0],
    ]);
  });

  test.each(['plain', 'with fog'])(
    'an unlit material has its last hook, and no light is missed: %s',
    async (around) => {
      const { messages, pixel } = await held.page.evaluate(async (kind) => {
        const { compileMaterialShader, openLens, plane, Scene } = umber;
        const told: string[] = [];
        const lens = await openLens(undefined, {
          antialias: false,
          onMessage: (message) => void told.push(message.message),
        });
        const target = lens.createTarget({ width: 16, height: 16 });
        const shader = compileMaterialShader(
          'struct Settings { tint: vec4f } fn outputColor(c: vec4f, p: Fragment, s: Settings) -> vec4f { return c * s.tint; }',
          { file: 'tint.wgsl' },
        );
        const scene = new Scene();
        if (kind === 'with fog') scene.fog = { type: 'exponential', color: [0, 0, 0], density: 1e-6 };
        scene.createNode({
          mesh: {
            geometry: plane({ width: 9, depth: 9 }),
            material: {
              shader,
              unlit: true,
              doubleSided: true,
              baseColorFactor: [1, 1, 0.25, 1],
              settings: { tint: [1, 0, 1, 1] },
            },
          },
        });
        const camera = scene.createNode({
          translation: [0, 3, 0],
          rotation: [-Math.SQRT1_2, 0, 0, Math.SQRT1_2],
          camera: { type: 'perspective', yfov: 0.4, znear: 0.1 },
        });
        await lens.load(scene);
        lens.draw(scene, camera, { target });
        const pixels = await target.read();
        return { messages: told, pixel: [...pixels.subarray(0, 3)] };
      }, around);
      // 0.25 is 137 of 255 in sRGB.
      expect(pixel).toEqual([255, 0, 137]);
      expect(messages).toEqual([]);
    },
  );

  test.each(['plain', 'with fog', 'deferred', 'set anew'])(
    'overlays lie over their primitive in their order, whatever was drawn with them before: %s',
    async (around) => {
      const found = await held.page.evaluate(async (kind) => {
        const { box, createMaterial, compileMaterialShader, openLens, Scene } = umber;
        const lens = await openLens(undefined, { antialias: false, onMessage: () => undefined });
        if (kind === 'deferred') lens.view.renderPath = 'deferred';
        const target = lens.createTarget({ width: 32, height: 32 });
        const scene = new Scene();
        if (kind === 'with fog') scene.fog = { type: 'exponential', color: [0, 0, 0], density: 1e-6 };
        type Rgba = [number, number, number, number];
        const plain = (color: Rgba, more = {}): object => ({ unlit: true, baseColorFactor: color, ...more });
        const [red, green, blue] = [
          plain([1, 0, 0, 1]),
          plain([0, 1, 0, 0.5], { alphaMode: 'blend' }),
          plain([0, 0, 1, 0.5], { alphaMode: 'blend', doubleSided: true }),
        ];
        const solid = plain([1, 1, 0, 1], { doubleSided: true });
        const geometry = box({ width: 0.3, height: 0.3, depth: 0.3 });
        // Of the same materials, and before: their batches stand first.
        for (const material of [blue, green, solid, red])
          scene.createNode({ translation: [0, 9, 0], mesh: { geometry, material } });
        const rim = createMaterial(
          compileMaterialShader(
            'fn surface(p: Fragment) -> Surface { var s = surfaceDefaults(p); s.emissive = vec3f(0, 0, 1); s.alpha = 1; s.baseColor = vec3f(); return s; }',
          ),
          { alphaMode: 'blend' },
        );
        const glass = { transmissionFactor: 1, roughnessFactor: 0, metallicFactor: 0 };
        const all = [[green], [green, blue], [blue, green], [solid], [solid, green]];
        const columns: object[] = all.map((overlays) => ({ geometry, material: red, overlays }));
        columns.push({ geometry, material: glass, overlays: [rim] });
        columns.forEach((mesh, i) =>
          scene.createNode({ translation: [(i - 2.5) * 0.4, 0, 0], mesh: mesh as never }),
        );
        if (kind === 'set anew')
          for (const node of scene.root.children())
            node.setMesh({ ...node.mesh!, primitives: node.mesh!.primitives.map((one) => ({ ...one })) });
        const camera = scene.createNode({
          translation: [0, 0, 3],
          camera: { type: 'orthographic', xmag: 1.25, ymag: 1.25, znear: 0.1, zfar: 10 },
        });
        await lens.load(scene);
        lens.draw(scene, camera, { target });
        const bytes = await target.read();
        const seen = columns.map((_, i) => {
          const x = Math.floor((((i - 2.5) * 0.4) / 1.25 + 1) * 16);
          return [...bytes.subarray((16 * 32 + x) * 4, (16 * 32 + x) * 4 + 3)];
        });
        lens.dispose();
        return seen;
      }, around);
      const mixed = (...layers: [color: number[], alpha: number][]): number[] =>
        layers
          .reduce(
            (below, [color, alpha]) => below.map((one, k) => one * (1 - alpha) + color[k]! * alpha),
            [0, 0, 0],
          )
          .map(
            (linear) => 255 * (linear <= 0.0031308 ? 12.92 * linear : 1.055 * linear ** (1 / 2.4) - 0.055),
          );
      const [red, green, blue, yellow] = [
        [1, 0, 0],
        [0, 1, 0],
        [0, 0, 1],
        [1, 1, 0],
      ] as const;
      const wanted = [
        mixed([[...red], 1], [[...green], 0.5]),
        mixed([[...red], 1], [[...green], 0.5], [[...blue], 0.5]),
        mixed([[...red], 1], [[...blue], 0.5], [[...green], 0.5]),
        mixed([[...yellow], 1]),
        mixed([[...yellow], 1], [[...green], 0.5]),
      ];
      for (const [i, color] of wanted.entries())
        color.forEach((byte, k) =>
          expect([i, k, Math.abs(found[i]![k]! - byte) < 3, found[i]]).toEqual([i, k, true, found[i]]),
        );
      // The rim is seen over the glass.
      expect(found[5]![2]).toBeGreaterThan(200);
      expect(found[5]![0]).toBeLessThan(90);
    },
  );

  test('overlays of many are one draw, are hit once, and go with their node', async () => {
    const found = await held.page.evaluate(async () => {
      const { box, castRayAll, openLens, Scene } = umber;
      const lens = await openLens(undefined, { antialias: false, onMessage: () => undefined });
      const target = lens.createTarget({ width: 16, height: 16 });
      const scene = new Scene();
      const mesh = {
        geometry: box(),
        material: { unlit: true },
        overlays: [{ unlit: true, alphaMode: 'blend' as const, baseColorFactor: [1, 0, 0, 0.2] as never }],
      };
      const nodes = Array.from({ length: 50 }, (_, i) =>
        scene.createNode({ translation: [i * 2, 0, 0], mesh }),
      );
      const camera = scene.createNode({
        translation: [0, 0, 300],
        camera: { type: 'perspective', yfov: 0.8, znear: 0.1 },
      });
      await lens.load(scene);
      lens.draw(scene, camera, { target });
      const { draws, instances } = lens.ledger;
      const hits = castRayAll(scene, { origin: [0, 0, 9], direction: [0, 0, -1] });
      for (const node of nodes) node.remove();
      lens.draw(scene, camera, { target });
      const after = lens.ledger.draws;
      let refused = '';
      try {
        scene.createNode({ mesh: { geometry: box(), overlays: {} as never } });
      } catch (error) {
        refused = String(error);
      }
      lens.dispose();
      return { draws, instances, hits: hits.map(({ primitive }) => primitive), after, refused };
    });
    expect(found).toEqual({
      draws: 2,
      instances: 100,
      hits: [0],
      after: 0,
      refused: expect.stringContaining('the overlays of a node are no materials'),
    });
  });

  test.each(['plain', 'deferred', ...(backend === 'webgpu' ? ['chosen on the GPU'] : [])])(
    'overlays of a swarm lie over its instances as over nodes, whatever their level: %s',
    async (around) => {
      const { pictures, draws } = await held.page.evaluate(async (kind) => {
        const { box, createMaterial, compileMaterialShader, openLens, Scene, Swarm } = umber;
        const lens = await openLens(undefined, { antialias: false, onMessage: () => undefined });
        if (kind === 'deferred') lens.view.renderPath = 'deferred';
        if (kind === 'chosen on the GPU') lens.view.culling.gpu = true;
        const target = lens.createTarget({ width: 64, height: 32 });
        const geometry = box({ width: 0.4, height: 0.4, depth: 0.4 });
        const coarse = box({ width: 0.3, height: 0.3, depth: 0.3 });
        const material = { unlit: true, baseColorFactor: [1, 0, 0, 1] as [number, number, number, number] };
        const rim = createMaterial(
          compileMaterialShader(
            'struct InstanceSettings { glow: f32 } fn outputColor(c: vec4f, p: Fragment, instance: InstanceSettings) -> vec4f { return vec4f(0, instance.glow, 1 - p.normal.z, 0.5); }',
          ),
          { unlit: true, alphaMode: 'blend' },
        );
        const far = { ...material, baseColorFactor: [0, 0, 1, 1] as [number, number, number, number] };
        const translations = Array.from({ length: 24 }, (_, i) => [
          (Math.floor(i / 3) - 3.5) * 0.5,
          ((i % 3) - 1) * 0.5,
          i % 2 === 0 ? 0 : -0.2,
        ]);
        const glow = translations.map((_, i) => (i % 5) / 4);
        const seen: number[][] = [];
        const counts: number[] = [];
        for (const way of ['swarm', 'nodes']) {
          const scene = new Scene({ clearColor: [0.1, 0.1, 0.1, 1] });
          // Both levels at once, by the second row of cubes; the far one goes without.
          for (const [level, overlays] of [
            [{ geometry, material }, undefined],
            [{ geometry: coarse, material: far }, []],
          ] as const) {
            const mine = translations.filter(([, y]) => (y === 0) === (level.geometry === coarse));
            const own = glow.filter((_, i) => (translations[i]![1] === 0) === (level.geometry === coarse));
            if (way === 'swarm')
              scene.createNode({
                mesh: new Swarm({
                  levels: [overlays ? { ...level, overlays: [...overlays] } : level],
                  overlays: [rim],
                  transforms: { translations: mine.flat() },
                  ...(overlays ? {} : { settings: { glow: own } }),
                }),
              });
            else
              mine.forEach((translation, i) =>
                scene.createNode({
                  translation: translation as [number, number, number],
                  settings: { glow: own[i]! },
                  mesh: { ...level, overlays: overlays ? [...overlays] : [rim] },
                }),
              );
          }
          const camera = scene.createNode({
            translation: [0, 0, 3],
            camera: { type: 'orthographic', xmag: 2, ymag: 1, znear: 0.1, zfar: 10 },
          });
          await lens.load(scene);
          lens.draw(scene, camera, { target });
          counts.push(lens.ledger.draws);
          seen.push([...(await target.read())]);
        }
        lens.dispose();
        return { pictures: seen, draws: counts };
      }, around);
      const [swarm, nodes] = pictures as [number[], number[]];
      expect(new Set(swarm.map((value) => value >> 4)).size).toBeGreaterThan(6);
      expect(Math.max(...swarm.map((value, i) => Math.abs(value - nodes[i]!)))).toBeLessThanOrEqual(2);
      // The near shape and what lies over it, and the far one.
      expect(draws).toEqual([3, 3]);
    },
  );

  test('what lies over a swarm is a list of materials', async () => {
    const refused = await held.page.evaluate(() => {
      const { box, Swarm } = umber;
      try {
        return new Swarm({
          geometry: box(),
          overlays: { unlit: true } as never,
          transforms: { translations: [0, 0, 0] },
        }).count;
      } catch (error) {
        return String(error);
      }
    });
    expect(refused).toContain('the overlays of the swarm are no materials');
  });
});
