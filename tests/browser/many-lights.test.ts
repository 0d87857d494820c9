import type { Backend } from 'umber-lens';
import { testPage } from './stage.js';

describe.each<Backend>(['webgl2', 'webgpu'])('many lights on %s', (backend) => {
  const stage = testPage({ as: backend });

  test.each(['perspective', 'orthographic'] as const)(
    '200 lights by cells are the sum of four times 50 asked one by one (%s)',
    async (type) => {
      const seen = await stage.page.evaluate(async (kind) => {
        const { openLens, Scene, plane, sphere, facing } = umber;
        const lens = await openLens(document.createElement('canvas'), {
          pixelRatio: 1,
          antialias: false,
          look: { toneMapping: 'none' },
        });
        const [width, height] = [96, 60];
        const target = lens.createTarget({ width, height });
        let seed = 7;
        const random = (): number => (seed = (seed * 16807) % 2147483647) / 2147483647;
        const places = Array.from({ length: 200 }, (_, i) => ({
          translation: [(random() - 0.5) * 24, 0.2 + random() * 1.5, 6 - random() * 40] as [
            number,
            number,
            number,
          ],
          intensity: 0.2 + random() * 0.5,
          range: 0.6 + random() * 3,
          color: [1, i % 3 ? 0.4 : 1, i % 2 ? 0.3 : 0.9] as [number, number, number],
        }));
        const drawn = async (from: number, to: number, more: number): Promise<Float64Array> => {
          const scene = new Scene();
          const material = { metallicFactor: 0, roughnessFactor: 1 };
          scene.createNode({ mesh: { geometry: plane({ width: 80, depth: 80 }), material } });
          for (let i = 0; i < 12; i++)
            scene.createNode({
              translation: [i * 2 - 11, 0.5, -i * 2],
              mesh: { geometry: sphere({ radius: 0.6 }), material },
            });
          for (const { translation, ...light } of places.slice(from, to))
            scene.createNode({ translation, light: { type: 'point', ...light } });
          // One that reaches everywhere, and dark ones that only make the number large.
          scene.createNode({
            rotation: facing([0, -1, -0.5]),
            light: { type: 'directional', intensity: more },
          });
          const camera = scene.createNode({
            translation: [0, 4, 9],
            rotation: facing([0, -0.35, -1]),
            camera:
              kind === 'perspective'
                ? { type: 'perspective', yfov: 0.9, znear: 0.1 }
                : { type: 'orthographic', xmag: 12, ymag: 8, znear: 0.1, zfar: 80 },
          });
          await lens.load(scene);
          lens.draw(scene, camera, { target });
          return Float64Array.from(await target.read(), (byte) => {
            const x = byte / 255;
            return x <= 0.04045 ? x / 12.92 : ((x + 0.055) / 1.055) ** 2.4;
          });
        };
        const all = await drawn(0, 200, 0.2);
        const leftOut = lens.ledger.lightsLeftOut;
        const parts = [];
        for (let k = 0; k < 4; k++) parts.push(await drawn(k * 50, k * 50 + 50, 0.05));
        lens.dispose();
        let worst = 0;
        let lit = 0;
        for (let i = 0; i < all.length; i++) {
          if (i % 4 === 3) continue;
          const sum = Math.min(
            1,
            parts.reduce((total, part) => total + part[i]!, 0),
          );
          if (sum > 0.1) lit++;
          worst = Math.max(worst, Math.abs(sum - all[i]!));
        }
        return { worst, lit, leftOut };
      }, type);
      expect(seen.lit).toBeGreaterThan(2000);
      expect(seen.worst).toBeLessThan(0.03);
      expect(seen.leftOut).toBe(0);
    },
  );

  test('1,000 lights are drawn, none left out, those with shadows too', async () => {
    const seen = await stage.page.evaluate(async () => {
      const { openLens, Scene, plane, box, facing } = umber;
      const lens = await openLens(document.createElement('canvas'), { pixelRatio: 1, antialias: false });
      const scene = new Scene();
      scene.createNode({
        mesh: { geometry: plane({ width: 60, depth: 60 }), material: { metallicFactor: 0 } },
      });
      scene.createNode({
        translation: [0, 1, 0],
        mesh: { geometry: box(), material: { metallicFactor: 0 } },
      });
      for (let i = 0; i < 999; i++)
        scene.createNode({
          translation: [(i % 33) - 16, 0.4, -Math.floor(i / 33)],
          light: { type: 'point', intensity: 0.02, range: 1.5 },
        });
      scene.createNode({
        translation: [0, 5, 0],
        rotation: facing([0, -1, 0]),
        light: { type: 'spot', intensity: 60, range: 12, outerConeAngle: 0.6, shadow: true },
      });
      const camera = scene.createNode({
        translation: [0, 3, 6],
        rotation: facing([0, -0.5, -1]),
        camera: { type: 'perspective', yfov: 0.8, znear: 0.1 },
      });
      const target = lens.createTarget({ width: 64, height: 40 });
      await lens.load(scene);
      lens.draw(scene, camera, { target });
      const pixels = await target.read();
      const { lightsLeftOut, shadows } = lens.ledger;
      lens.dispose();
      return {
        lightsLeftOut,
        maps: shadows.maps,
        brightest: Math.max(...pixels.filter((_, i) => i % 4 === 0)),
      };
    });
    expect(seen.lightsLeftOut).toBe(0);
    expect(seen.maps).toBe(1);
    expect(seen.brightest).toBeGreaterThan(100);
  });
});
