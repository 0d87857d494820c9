import type { Backend } from 'umber-lens';
import { testPage } from './stage.js';

describe.each<Backend>(['webgl2', 'webgpu'])('geometries of one layout on %s', (backend) => {
  const held = testPage({ as: backend });

  test('share buffers and go out together, in every pass, with the same picture', async () => {
    const found = await held.page.evaluate(async (name) => {
      const { Scene, box, cylinder, facing, openLens, sphere } = umber;
      const lens = await openLens(undefined, { backend: name });
      const target = lens.createTarget({ width: 160, height: 100 });
      const scene = new Scene({ clearColor: [0.2, 0.3, 0.4, 1] });
      scene.createNode({
        rotation: facing([-1, -3, -1]),
        light: { type: 'directional', intensity: 3, shadow: true },
      });
      scene.createNode({
        translation: [0, -0.5, 0],
        mesh: { geometry: box({ width: 12, height: 0.2, depth: 12 }) },
      });
      const nodes = Array.from({ length: 60 }, (_, i) => {
        const geometry =
          i % 3 === 0
            ? box({ width: 0.3 + i / 200 })
            : i % 3 === 1
              ? sphere({ radius: 0.3 + i / 300, slices: 8 + (i % 9), stacks: 7 })
              : cylinder({
                  topRadius: 0.2,
                  bottomRadius: 0.2,
                  height: 0.5 + i / 100,
                  slices: 5 + (i % 7),
                });
        const material = {
          baseColorFactor: [(i % 7) / 7, (i % 5) / 5, 0.5, 1] as [number, number, number, number],
          ...(i % 4 === 3 ? { unlit: true } : {}),
        };
        return scene.createNode({
          translation: [(i % 10) - 4.5, 0, Math.floor(i / 10) - 3],
          scale: i % 8 === 5 ? [-0.8, 0.8, 0.8] : [0.8, 0.8, 0.8],
          mesh: { geometry, material },
        });
      });
      const camera = scene.createNode({
        translation: [0, 5, 7],
        rotation: facing([0, -5, -7]),
        camera: { type: 'perspective', yfov: 0.9, znear: 0.1 },
      });
      const draw = async () => {
        lens.draw(scene, camera, { target });
        lens.draw(scene, camera, { target });
        const { draws, drawsTogether, vertexBufferChanges, triangles, instances } = lens.device.counts;
        return {
          pixels: await target.read(),
          draws,
          drawsTogether,
          vertexBufferChanges,
          triangles,
          instances,
        };
      };
      const differing = (a: Uint8Array, b: Uint8Array) =>
        a.filter((value, i) => Math.abs(value - b[i]!) > 2).length;
      // Of the surroundings the shadows come first; geometries are gathered while those load.
      const geometries = lens.renderer.scenePass as unknown as {
        gathering: Promise<void> | undefined;
        gather(): void;
      };
      const { gather } = Object.getPrototypeOf(geometries) as { gather(): void };
      geometries.gather = () => undefined;
      await lens.load(scene);
      const apart = await draw();
      const owners = lens.device.owners().length;
      geometries.gather = gather;
      await lens.load(scene);
      const together = await draw();
      const shared = lens.device
        .owners()
        .filter(({ label }) => /geometries/.test(label))
        .map(({ count }) => count);
      // What comes later goes into the same pages, which grow; what goes makes room.
      const many = Array.from({ length: 30 }, (_, i) =>
        scene.createNode({
          translation: [(i % 10) - 4.5, 0.6, Math.floor(i / 10) - 3],
          scale: [0.3, 0.3, 0.3],
          mesh: { geometry: sphere({ radius: 0.5 + i / 100, slices: 24, stacks: 16 }) },
        }),
      );
      await draw();
      for (const node of many) node.remove();
      // Another lens never gathers.
      const other = await openLens(undefined, { backend: name });
      const plain = other.createTarget({ width: 160, height: 100 });
      (other.renderer.scenePass as unknown as { gather(): void }).gather = () => undefined;
      const differs = async (show: 'wireframe' | 'shaded'): Promise<number> => {
        other.view.show = lens.view.show = show;
        await lens.whenReady();
        await other.load(scene);
        const { pixels } = await draw();
        other.draw(scene, camera, { target: plain });
        other.draw(scene, camera, { target: plain });
        return differing(pixels, await plain.read());
      };
      const again = await differs('shaded');
      const wires = await differs('wireframe');
      nodes.forEach((node, i) => i % 2 && node.setTranslation((i % 10) - 4.5, 0.2, Math.floor(i / 10) - 3));
      const moved = await differs('shaded');
      const differences = [differing(apart.pixels, together.pixels), again, wires, moved];
      lens.dispose();
      other.dispose();
      const { pixels: _, ...a } = apart;
      const { pixels: __, ...b } = together;
      return {
        a,
        b,
        differences,
        owners,
        shared,
        left: lens.device.counts.living,
        bytes: lens.device.counts.bufferBytes,
      };
    }, backend);
    expect(found.differences).toEqual([0, 0, 0, 0]);
    expect(found.a.drawsTogether).toBe(0);
    // Lit and unlit, plain and mirrored.
    expect(found.b.drawsTogether).toBeGreaterThan(50);
    expect(found.b).toMatchObject({ triangles: found.a.triangles, instances: found.a.instances });
    expect(found.b.vertexBufferChanges).toBeLessThan(found.a.vertexBufferChanges / 5);
    if (backend === 'webgl2') expect(found.b.draws).toBeLessThan(20);
    else expect(found.b.draws).toBe(found.a.draws);
    expect(Math.max(...found.shared)).toBeLessThan(10);
    expect([found.left, found.bytes]).toEqual([0, 0]);
  });
});
