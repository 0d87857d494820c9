import type { Culling } from 'umber-lens';
import { testPage } from './stage.js';

const stage = testPage({ as: 'webgpu' });

describe('what the GPU leaves out', () => {
  test('hidden things cost nothing, and the picture is the same however fast the camera turns', async () => {
    const found = await stage.page.evaluate(async () => {
      const { Scene, Swarm, box, compileMaterialShader, facing, openLens, plane, sphere } = umber;
      const [width, height] = [160, 100];
      const lens = await openLens(undefined, { backend: 'webgpu' });
      const target = lens.createTarget({ width, height });
      const scene = new Scene({ clearColor: [0.2, 0.3, 0.4, 1] });
      scene.createNode({ rotation: facing([-1, -2, -1]), light: { type: 'directional', intensity: 3 } });
      // A wall with much behind it, things before it, glass and what blends besides.
      scene.createNode({
        translation: [0, 1, -4],
        mesh: {
          geometry: box({ width: 9, height: 5, depth: 0.3 }),
          material: { baseColorFactor: [0.6, 0.6, 0.6, 1] },
        },
      });
      const crate = box({ width: 0.4, height: 0.4, depth: 0.4 });
      const float = sphere({ radius: 0.25 });
      let seed = 3;
      const random = (): number => (seed = (seed * 16807) % 2147483647) / 2147483647;
      for (let i = 0; i < 300; i++) {
        scene.createNode({
          translation: [random() * 8 - 4, random() * 3 - 0.3, -4.6 - random() * 8],
          scale: i % 7 === 0 ? [-1, 1, 1] : [1, 1, 1],
          mesh: {
            geometry: i % 2 ? crate : float,
            material: {
              baseColorFactor: [random(), random(), random(), 1],
              ...(i % 11 === 0 ? { alphaMode: 'blend' } : {}),
            },
          },
        });
      }
      for (let i = 0; i < 8; i++)
        scene.createNode({
          translation: [i - 4, 0.2, -2],
          mesh: { geometry: crate, material: { baseColorFactor: [1, 0.5, 0, 1] } },
        });
      const copies = 12_000;
      const translations = Float32Array.from({ length: copies * 3 }, (_, k) =>
        k % 3 === 0 ? random() * 6 - 3 : k % 3 === 1 ? -0.5 : -random() * 14,
      );
      const kelp = new Swarm({
        density: { minPixels: 4, minShare: 0.1 },
        levels: [
          { geometry: box({ width: 0.1, height: 0.2, depth: 0.1 }), minPixels: 4 },
          { geometry: plane({ width: 0.1, depth: 0.1 }) },
        ],
        material: { baseColorFactor: [0.1, 0.6, 0.3, 1] },
        transforms: { translations },
      });
      scene.createNode({ mesh: kelp });
      const camera = scene.createNode({ camera: { type: 'perspective', yfov: 0.9, znear: 0.1 } });
      const ways: Culling[] = [{}, { gpu: true }, { occlusion: true }];
      const set = (culling: Culling) =>
        Object.assign(lens.view.culling, { occlusion: false, gpu: false }, culling);
      set({ occlusion: true });
      await lens.load(scene);
      const chosen: unknown[] = [];
      let [differing, seen] = [0, 0];
      const look = async (leaps: readonly number[]): Promise<void> => {
        const frames: Uint8Array[][] = [];
        // Each way draws all frames by itself, so that it has its own frame before.
        for (const way of ways) {
          set(way);
          const own: Uint8Array[] = [];
          for (const angle of leaps) {
            camera.setTranslation(7 * Math.sin(angle), 1, -4 + 7 * Math.cos(angle));
            camera.setRotation(...facing([-Math.sin(angle), -0.05, -Math.cos(angle)]));
            lens.draw(scene, camera, { target });
            own.push(await target.read());
          }
          frames.push(own);
          chosen.push(await lens.cullingStats());
        }
        const [asScript, ...others] = frames;
        for (const own of others)
          own.forEach((pixels, frame) =>
            pixels.forEach((value, i) => {
              if (Math.abs(value - asScript![frame]![i]!) > 2) differing++;
            }),
          );
        seen = asScript![0]!.filter((value, i) => i % 4 === 0 && value !== asScript![0]![0]).length;
      };
      // From before the wall to beside and behind it.
      await look([0, 0.9, 2.6, 0.1, 0.1]);
      const behind = compileMaterialShader(
        'fn surface(p: Fragment) -> Surface { var s = surfaceDefaults(p); s.baseColor = sceneColor(p.screenPosition).rgb * vec3f(0.5, 1, 0.8); return s; }',
      );
      scene.createNode({
        translation: [0, 0.5, -1],
        mesh: { geometry: box({ height: 0.3 }), material: { shader: behind } },
      });
      await lens.load(scene);
      await look([0.1, -0.5]);
      const { counts } = lens.device;
      const before = counts.living;
      set({});
      lens.draw(scene, camera, { target });
      const after = counts.living;
      lens.dispose();
      return { differing, chosen, seen, left: counts.living, before, after };
    });
    expect(found.seen).toBeGreaterThan(2000);
    expect(found.differing).toBe(0);
    const [byScript, swarms, hidden] = found.chosen as (
      { swarmInstances: number; inView: number; instances: number } | undefined
    )[];
    expect(byScript).toBeUndefined();
    // The wall hides hundreds of things; swarms alone leave those to the script.
    expect(swarms).toMatchObject({ inView: 0, instances: 0 });
    expect(hidden!.inView).toBeGreaterThan(200);
    expect(hidden!.instances).toBeGreaterThan(0);
    expect(hidden!.instances).toBeLessThan(60);
    expect(hidden!.swarmInstances).toBeLessThan(swarms!.swarmInstances);
    // What it takes goes when it is turned off, and the rest with the lens.
    expect(found.after).toBeLessThan(found.before);
    expect(found.left).toBe(0);
  });
});
