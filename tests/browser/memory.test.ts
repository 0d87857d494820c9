import type { Backend } from 'umber-lens';
import { testPage } from './stage.js';

describe.each(['webgl2', 'webgpu'] as Backend[])('memory on %s', (backend) => {
  const held = testPage({ as: backend });

  const run = (what: string, swaps: number): Promise<Record<'first' | 'most' | 'last' | 'idle', number>> =>
    held.page.evaluate(
      async ([kind, count, name]) => {
        const { Scene, box, compileMaterialShader, openLens, sphere, Swarm } = umber;
        const lens = await openLens(undefined, {
          backend: name,
          antialias: false,
          onMessage: () => undefined,
        });
        const target = lens.createTarget({ width: 32, height: 32 });
        let scene = new Scene();
        const cameraOf = (of: InstanceType<typeof Scene>): ReturnType<typeof of.createNode> =>
          of.createNode({ translation: [0, 0, 9], camera: { type: 'perspective', yfov: 0.8, znear: 0.1 } });
        let camera = cameraOf(scene);
        const image = (i: number): object => ({
          image: {
            content: {
              kind: 'pixels' as const,
              width: 64,
              height: 64,
              data: new Uint8Array(64 * 64 * 4).fill(i),
            },
          },
        });
        const shader = compileMaterialShader(
          'struct Settings { k: f32 } fn surface(p: Fragment, s: Settings) -> Surface { var o = surfaceDefaults(p); o.emissive = vec3f(s.k); return o; }',
          { file: 'k.wgsl' },
        );
        const kept = { baseColorTexture: { texture: image(0) } } as Record<string, unknown>;
        const swarmOf = (): InstanceType<typeof Swarm> =>
          new Swarm({
            geometry: box(),
            transforms: { translations: Float32Array.from({ length: 6000 }, (_, i) => (i % 17) - 8) },
          });
        const geometry = box();
        let node = scene.createNode({ mesh: { geometry, material: kept } });
        const swap: Record<string, (i: number) => void> = {
          meshes: (i) => node.setMesh({ geometry: sphere({ radius: 0.5 + i / 1e4 }), material: {} }),
          // Between other things, so that they share pages.
          materials: () => node.setMesh({ geometry, material: { baseColorFactor: [1, 0, 0, 1] } }),
          shaders: (i) => node.setMesh({ geometry, material: { shader, settings: { k: i } } }),
          textures: (i) => (kept['baseColorTexture'] = { texture: image(i % 256) }),
          swarms: () => {
            node.remove();
            node = scene.createNode({ mesh: swarmOf() });
          },
          scenes: () => {
            lens.release(scene);
            scene = new Scene();
            camera = cameraOf(scene);
            node = scene.createNode({ mesh: { geometry: sphere(), material: { ...kept } } });
          },
        };
        const bytes = (): number => lens.device.owners().reduce((sum, owner) => sum + owner.bytes, 0);
        const frame = (): void => lens.draw(scene, camera, { target });
        await lens.load(scene);
        for (let i = 0; i < 4; i++) {
          swap[kind]!(i);
          await lens.load(scene);
          frame();
        }
        // What a few swaps in a row take: awaiting above leaves time in which what is idle goes.
        let first = 0;
        for (let i = 4; i < 12; i++) {
          swap[kind]!(i);
          frame();
          first = Math.max(first, bytes());
        }
        let most = 0;
        for (let i = 0; i < count; i++) {
          swap[kind]!(i);
          frame();
          most = Math.max(most, bytes());
        }
        for (let i = 0; i < 4; i++) frame();
        const last = bytes();
        node.remove();
        // Nothing is drawn any more.
        const until = performance.now() + 10_000;
        do await new Promise((resolve) => setTimeout(resolve, 100));
        while (bytes() >= last && performance.now() < until);
        const idle = bytes();
        lens.dispose();
        return { first, most, last, idle };
      },
      [what, swaps, backend] as const,
    );

  test.each(['meshes', 'materials', 'shaders', 'textures', 'swarms', 'scenes'])(
    'many %s that replace one another take the room of one or two',
    async (what) => {
      const swaps = what === 'scenes' || what === 'swarms' ? 60 : 300;
      const { first, most, last, idle } = await run(what, swaps);
      expect(last).toBeLessThanOrEqual(first);
      expect(most).toBeLessThanOrEqual(first * 1.5);
      if (what !== 'scenes') expect(idle).toBeLessThan(last);
    },
  );
});
