import type { Backend } from 'umber-lens';
import { testPage } from './stage.js';

describe.each<Backend>(['webgl2', 'webgpu'])('soft shadows on %s', (backend) => {
  const held = testPage({ as: backend });

  /** Light on the ground beside the edge of a plate, by metres from it, as a share of what is fully lit. */
  const beside = (
    light: { type: 'directional' | 'spot' | 'point'; angle?: number; radius?: number; height?: number },
    plate: number,
    places: readonly number[],
  ): Promise<number[]> =>
    held.page.evaluate(
      async ([given, height, xs]) => {
        const { box, facing, plane, Scene } = umber;
        const lens = await keptLens({ antialias: false });
        lens.look.toneMapping = 'none';
        const scene = new Scene();
        const material = { metallicFactor: 0, roughnessFactor: 1 };
        scene.createNode({ mesh: { geometry: plane({ width: 60, depth: 60 }), material } });
        scene.createNode({
          translation: [-10, height + 0.05, 0],
          mesh: { geometry: box({ width: 20, height: 0.1, depth: 30 }), material },
        });
        const { height: up = 10, ...rest } = given;
        scene.createNode({
          translation: [0, up, 0],
          rotation: facing([0, -1, 0]),
          light: {
            ...rest,
            intensity: given.type === 'directional' ? 2 : 2 * up * up,
            shadow: { bias: 0.5 },
            ...(given.type === 'spot' ? { outerConeAngle: 0.5, innerConeAngle: 0.49 } : {}),
          },
        });
        // Under the plate, so that it hides nothing.
        const camera = scene.createNode({
          translation: [0, 0.6, 0],
          rotation: facing([0, -1, 0]),
          camera: { type: 'orthographic', xmag: 2, ymag: 0.1, znear: 0.1, zfar: 10 },
        });
        const target = lens.createTarget({ width: 400, height: 20 });
        await lens.load(scene);
        lens.draw(scene, camera, { target });
        const pixels = await target.read();
        const at = (x: number): number => {
          let sum = 0;
          for (let row = 0; row < 20; row++)
            for (let dx = -1; dx <= 1; dx++) {
              const c = pixels[(row * 400 + Math.round(200 + x * 100) + dx) * 4]! / 255;
              sum += c <= 0.04045 ? c / 12.92 : ((c + 0.055) / 1.055) ** 2.4;
            }
          return sum / 60;
        };
        const whole = at(1.9);
        return xs.map((x) => at(x) / whole);
      },
      [light, plate, places] as const,
    );

  /** Share of a disc on the lit side of a straight edge: circular segments. @param t from -1, all hidden, to 1 */
  const share = (t: number): number =>
    t <= -1 ? 0 : t >= 1 ? 1 : 0.5 + (t * Math.sqrt(1 - t * t) + Math.asin(t)) / Math.PI;

  test.each([
    ['a near plate', 1, 0.3],
    ['a plate three times as high', 3, 0.3],
    ['a light half as wide', 3, 0.15],
  ])('a directional light by its angle: %s', async (_, height, angle) => {
    const half = height * Math.tan(angle / 2);
    const places = [-1.3, -0.6, -0.3, 0, 0.3, 0.6, 1.3].map((t) => t * half);
    const found = await beside({ type: 'directional', angle }, height, places);
    found.forEach((lit, i) => expect(Math.abs(lit - share(places[i]! / half))).toBeLessThan(0.1));
  });

  test.each([
    ['spot', 0.5, 2],
    ['point', 0.5, 2],
    ['spot', 0.25, 4],
  ] as const)('a %s light by its radius: %d m, a plate at %d m', async (type, radius, height) => {
    const half = (radius * height) / (10 - height);
    const places = [-1.3, -0.6, -0.3, 0, 0.3, 0.6, 1.3].map((t) => t * half);
    const found = await beside({ type, radius }, height, places);
    found.forEach((lit, i) => expect(Math.abs(lit - share(places[i]! / half))).toBeLessThan(0.11));
  });

  test('a light without a size has hard edges, and a wide one does not shade flat ground by itself', async () => {
    const hard = await beside({ type: 'directional' }, 3, [-0.1, 0.1]);
    expect(hard[0]).toBeLessThan(0.02);
    expect(hard[1]).toBeGreaterThan(0.98);
    const open = await beside({ type: 'directional', angle: 0.4 }, 3, [1.2, 1.4, 1.6]);
    for (const lit of open) expect(lit).toBeGreaterThan(0.98);
  });
});
