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
});
