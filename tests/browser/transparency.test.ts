import type { Backend } from 'umber-lens';
import { testPage } from './stage.js';

type Rgba = [number, number, number, number];

/** A plate before the camera: a distance in the middle of the left half and of the right half of the picture. */
interface Plate {
  color: Rgba;
  left: number;
  right: number;
}

describe.each<Backend>(['webgl2', 'webgpu'])('on %s', (backend) => {
  const stage = testPage({ as: backend });

  /** Linear colours in the middle of the left and of the right half. */
  function seen(
    plates: Plate[],
    transparency: 'sorted' | 'peeled',
    more: { antialias?: boolean; background?: Rgba; hook?: boolean } = {},
  ): Promise<{ halves: number[][]; passes: string[]; steady: boolean }> {
    return stage.page.evaluate(
      async ({ plates: given, transparency: way, antialias = true, background = [0, 0, 0, 0], hook }) => {
        const { compileMaterialShader, plane, Scene, axisAngle } = umber;
        const lens = await keptLens({ antialias });
        lens.look.transparency = way;
        const scene = new Scene({ clearColor: background as Rgba });
        for (const { color, left, right } of given) {
          // It stands upright and turns about the middle.
          const lean = Math.atan2(right - left, 4);
          const [sine, cosine] = [Math.sin(lean / 2), Math.cos(lean / 2)];
          const [x, , , w] = axisAngle([1, 0, 0], Math.PI / 2);
          scene.createNode({
            translation: [0, 0, -(left + right) / 2],
            // About +Y after about +X.
            rotation: [cosine * x, sine * w, -sine * x, cosine * w] as Rgba,
            mesh: {
              geometry: plane({ width: 16, depth: 16 }),
              material: {
                name: `${color.join()}`,
                baseColorFactor: color,
                unlit: true,
                doubleSided: true,
                alphaMode: color[3] < 1 ? 'blend' : 'opaque',
                ...(hook
                  ? {
                      shader: compileMaterialShader(
                        'fn surface(p: Fragment) -> Surface { return surfaceDefaults(p); }',
                      ),
                    }
                  : {}),
              },
            },
          });
        }
        const camera = scene.createNode({
          camera: { type: 'orthographic', xmag: 4, ymag: 4, znear: 0.1, zfar: 50 },
        });
        const target = lens.createTarget({ width: 16, height: 16 });
        await lens.load(scene);
        lens.draw(scene, camera, { target });
        lens.draw(scene, camera, { target });
        const { bindGroups } = lens.device.counts;
        lens.draw(scene, camera, { target });
        const steady = lens.device.counts.bindGroups === bindGroups && lens.ledger.stalls.length === 0;
        const pixels = await target.read();
        const linear = (i: number): number => {
          const c = pixels[i]! / 255;
          return c <= 0.04045 ? c / 12.92 : ((c + 0.055) / 1.055) ** 2.4;
        };
        const at = (x: number): number[] => [0, 1, 2].map((k) => linear((8 * 16 + x) * 4 + k));
        const passes = lens.ledger.passes.map(({ name }) => name);
        return { halves: [at(4), at(12)], passes, steady };
      },
      { plates, transparency, ...more },
    );
  }

  /** Colours over each other, the nearest first. */
  const over = (colors: Rgba[]): number[] =>
    [...colors]
      .reverse()
      .reduce((below, [r, g, b, a]) => below.map((c, k) => c * (1 - a) + [r, g, b][k]! * a), [0, 0, 0]);
  const expected = (plates: Plate[], side: 'left' | 'right', background: Rgba): number[] =>
    over([...[...plates].sort((a, b) => a[side] - b[side]).map(({ color }) => color), background]);
  const nearly = (got: number[], want: number[]): void =>
    got.forEach((value, k) => expect(Math.abs(value - want[k]!)).toBeLessThan(0.012));

  const RED: Rgba = [1, 0, 0, 0.5];
  const GREEN: Rgba = [0, 1, 0, 0.5];
  const BLUE: Rgba = [0, 0, 1, 0.6];
  const GREY: Rgba = [0.3, 0.3, 0.3, 1];
  const crossing: Plate[] = [
    { color: RED, left: 4, right: 8 },
    { color: GREEN, left: 8, right: 4 },
    { color: BLUE, left: 7, right: 7 },
  ];

  test.each([
    ['', {}],
    ['without samples', { antialias: false }],
    ['with hooks', { hook: true }],
  ] as const)('plates that cut through each other are in order on both sides %s', async (_, more) => {
    const { halves, passes, steady } = await seen(crossing, 'peeled', { ...more, background: GREY });
    nearly(halves[0]!, expected(crossing, 'left', GREY));
    nearly(halves[1]!, expected(crossing, 'right', GREY));
    expect(passes).toEqual(expect.arrayContaining(['layer 1', 'layers behind', 'put layers over']));
    expect(steady).toBe(true);
    // Sorted by things one of the sides must be wrong.
    const sorted = await seen(crossing, 'sorted', { ...more, background: GREY });
    const off = (['left', 'right'] as const).map((side, i) =>
      Math.max(...expected(crossing, side, GREY).map((c, k) => Math.abs(c - sorted.halves[i]![k]!))),
    );
    expect(Math.max(...off)).toBeGreaterThan(0.1);
  });

  test('opaque things hide what lies behind them, and are seen through what lies before', async () => {
    const wall: Plate = { color: [0.2, 0.6, 0.9, 1], left: 6, right: 6 };
    const { halves } = await seen([...crossing, wall], 'peeled');
    nearly(halves[0]!, over([RED, wall.color]));
    nearly(halves[1]!, over([GREEN, wall.color]));
  });

  test('more layers than are peeled are all there, in the order of things', async () => {
    const many = Array.from({ length: 9 }, (_, i): Plate => {
      const color: Rgba = [
        i % 3 === 0 ? 1 : 0.1,
        i % 3 === 1 ? 1 : 0.1,
        i % 3 === 2 ? 1 : 0.1,
        0.3 + i * 0.01,
      ];
      return { color, left: 3 + i, right: 3 + i };
    });
    const { halves } = await seen(many, 'peeled', { background: GREY });
    nearly(halves[0]!, expected(many, 'left', GREY));
    nearly(halves[1]!, expected(many, 'right', GREY));
  });
});
