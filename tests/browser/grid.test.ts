import type * as Umber from 'umber-lens';
import type { Backend } from 'umber-lens';
import { testPage } from './stage.js';

/** What the editor draws with, beside what pages do. */
interface OverLens {
  drawPast(scene: Umber.Scene, camera: Umber.SceneNode, options: Umber.DrawOptions, over: unknown): void;
}

describe.each<Backend>(['webgl2', 'webgpu'])('the grid of the editor on %s', (backend) => {
  const held = testPage({ as: backend });

  test.each([
    ['one sample', false, false],
    ['four samples and an effect', true, true],
  ])('lies on the ground, behind what stands before it: %s', async (_, antialias, isTreated) => {
    const found = await held.page.evaluate(
      async ([smooth, treated]) => {
        const { box, facing, Grid, openLens, plane, Scene } = umber;
        const lens = await openLens(undefined, { antialias: smooth, onMessage: () => undefined });
        const scene = new Scene({ clearColor: [0, 0, 0, 1] });
        const [dark, red] = [
          [0.05, 0.05, 0.1, 1],
          [0.5, 0, 0, 1],
        ].map((baseColorFactor) => ({
          unlit: true,
          baseColorFactor: baseColorFactor as [number, number, number, number],
        }));
        // The ground is where the grid is, and hides no line of it.
        scene.createNode({ mesh: { geometry: plane({ width: 40, depth: 40 }), material: dark! } });
        scene.createNode({
          translation: [0, 1, 0],
          mesh: { geometry: box({ width: 2, height: 2, depth: 2 }), material: red! },
        });
        const camera = scene.createNode({
          translation: [0, 6, 9],
          rotation: facing([0, -6, -9]),
          camera: { type: 'perspective', yfov: 0.9, znear: 0.1 },
        });
        const target = lens.createTarget({ width: 160, height: 100 });
        const finish: Umber.Effect[] = treated ? [{ type: 'invert', amount: 1 }] : [];
        let grid = new Grid();
        const over = lens as unknown as OverLens;
        const read = async (isShown: boolean): Promise<number[]> => {
          const shown = isShown ? grid.under(lens.device, 'rgba8unorm', camera, [0, 0, 0], 0.01) : undefined;
          over.drawPast(scene, camera, { target, finish }, shown);
          return [...(await target.read())];
        };
        await new Promise<void>((done) => {
          grid = new Grid(done);
          void read(true);
        });
        await lens.whenReady();
        const without = await read(false);
        const plain = lens.ledger.draws;
        const lined = await read(true);
        const draws = [plain, lens.ledger.draws];
        const again = await read(false);
        grid.dispose();
        lens.dispose();
        return { without, lined, again, draws };
      },
      [antialias, isTreated] as const,
    );
    const { again, draws, lined, without } = found;
    const isBox = (i: number): boolean => {
      const [r, g] = [without[i]!, without[i + 1]!];
      return isTreated ? g > r + 60 : r > g + 60;
    };
    const counts = { box: 0, boxLined: 0, ground: 0, groundLined: 0 };
    for (let i = 0; i < without.length; i += 4) {
      const isLined = [0, 1, 2].some((k) => Math.abs(lined[i + k]! - without[i + k]!) > 8);
      if (isBox(i)) {
        counts.box++;
        if (isLined) counts.boxLined++;
      } else {
        counts.ground++;
        if (isLined) counts.groundLined++;
      }
    }
    expect(counts.box).toBeGreaterThan(300);
    // Pixels at the box's edge may be partly ground.
    expect(counts.boxLined).toBeLessThan(counts.box * 0.1);
    expect(counts.groundLined).toBeGreaterThan(counts.ground * 0.05);
    expect(counts.groundLined).toBeLessThan(counts.ground * 0.6);
    expect(again).toEqual(without);
    // It is the editor's, and not counted among the page's.
    expect(draws[1]).toBe(draws[0]);
  });
});
