import type { Backend } from 'umber-lens';
import { inTurn, testPage } from './stage.js';

const stage = testPage({ webgpu: true });

interface Played {
  /** Pixels that differ between the lens that went along and one opened for the last moment, by moment. */
  different: number[];
  /** Pixels that are not the background, by moment. */
  seen: number[];
  draws: number[];
}

/** Changes a scene at random and draws it after each step, with a lens that went along and with a fresh one. */
const play = (backend: Backend, seed: number, count: number, steps: number): Promise<Played> =>
  stage.page.evaluate(
    async ([name, start, nodes, moments]) => {
      const { openLens, Scene, box, sphere, facing, setWorldTransforms } = umber;
      let state = start;
      const next = (): number => (state = (state * 48271) % 2147483647) / 2147483647;
      const int = (n: number): number => Math.floor(next() * n);
      const scene = new Scene({ clearColor: [0, 0, 0, 1] });
      const geometries = [box(), sphere({ slices: 8, stacks: 6 })];
      const color = (): [number, number, number, number] => [0.2 + next() * 0.8, 0.2 + next() * 0.8, 0.5, 1];
      const materials = Array.from({ length: 4 }, () => ({ unlit: true, baseColorFactor: color() }));
      // No two at one depth: which of them hides the other would be open.
      const place = (): [number, number, number] => [next() * 16 - 8, next() * 10 - 5, -4 - next() * 30];
      const all = Array.from({ length: nodes }, () =>
        scene.createNode({
          translation: place(),
          mesh: { geometry: geometries[int(2)]!, material: materials[int(4)]! },
        }),
      );
      const camera = scene.createNode({ camera: { type: 'perspective', yfov: 1, znear: 0.1 } });
      const size = { width: 96, height: 60 };
      const lens = await openLens(undefined, { backend: name, antialias: false });
      const target = lens.createTarget(size);
      const out: Played = { different: [], seen: [], draws: [] };
      for (let moment = 0; moment < moments; moment++) {
        const changes = next() < 0.2 ? nodes / 2 : int(8);
        for (let i = 0; i < changes; i++) {
          const at = int(all.length);
          const node = all[at]!;
          const kind = int(7);
          if (!node.isAlive)
            all[at] = scene.createNode({
              translation: place(),
              mesh: { geometry: geometries[0]!, material: materials[0]! },
            });
          else if (kind < 3) node.setTranslation(...place());
          else if (kind === 3) node.setScale(next() < 0.5 ? 1 : -1, 1 + next(), 1);
          else if (kind === 4) node.setVisible(next() < 0.7);
          else if (kind === 5) node.remove();
          else
            setWorldTransforms(
              scene,
              [node.row],
              [1, 0, 0, next() * 4, 0, 1, 0, next(), 0, 0, 1, -5 - next() * 9],
            );
        }
        if (moment % 3 === 0) camera.setRotation(...facing([next() * 0.6 - 0.3, next() * 0.3 - 0.15, -1]));
        lens.draw(scene, camera, { target });
        const mended = await target.read();
        out.draws.push(lens.ledger.draws);
        const other = await openLens(undefined, { backend: name, antialias: false });
        const fresh = other.createTarget(size);
        other.draw(scene, camera, { target: fresh });
        const anew = await fresh.read();
        other.dispose();
        let [different, seen] = [0, 0];
        for (let i = 0; i < anew.length; i += 4) {
          if (anew[i] !== mended[i] || anew[i + 1] !== mended[i + 1] || anew[i + 2] !== mended[i + 2])
            different++;
          if (anew[i] !== 0 || anew[i + 1] !== 0) seen++;
        }
        out.different.push(different);
        out.seen.push(seen);
      }
      lens.dispose();
      return out;
    },
    [backend, seed, count, steps] as const,
  );

describe.each<Backend>(['webgpu', 'webgl2'])('a lens that goes along with a scene, on %s', (backend) => {
  test.each(inTurn([31, 32], backend))(
    'shows what one opened afterwards shows (seed %i)',
    async (seed) => {
      const { different, seen, draws } = await play(backend, seed, 150, 14);
      expect(different).toEqual(different.map(() => 0));
      // The pictures hold something, and it changes.
      expect(Math.min(...seen)).toBeGreaterThan(500);
      expect(new Set(seen).size).toBeGreaterThan(5);
      // Two geometries by four materials, plain and mirrored.
      expect(Math.max(...draws)).toBeLessThanOrEqual(20);
    },
    60_000,
  );

  test('so it does with thousands, where the columns lie in WebAssembly', async () => {
    const { different } = await play(backend, 33, 2500, 3);
    expect(different).toEqual([0, 0, 0]);
  });

  test('many that move apart from one another stay where they belong', async () => {
    const wrong = await stage.page.evaluate(async (name) => {
      const { openLens, Scene, box } = umber;
      const lens = await openLens(undefined, { backend: name, antialias: false });
      const scene = new Scene({ clearColor: [0, 0, 0, 1] });
      const geometry = box({ width: 0.8, height: 0.8, depth: 0.8 });
      // A wall of 40 x 25: every tenth moves up and down behind the others' plane.
      const nodes = Array.from({ length: 1000 }, (_, i) => {
        const share = (i % 40) / 40;
        const material = {
          unlit: true,
          baseColorFactor: [share, Math.floor(i / 40) / 25, 1, 1] as [number, number, number, number],
        };
        return scene.createNode({
          translation: [(i % 40) - 19.5, Math.floor(i / 40) - 12, 0],
          mesh: { geometry, material: i % 10 === 0 ? { unlit: true } : material },
        });
      });
      const camera = scene.createNode({
        translation: [0, 0, 100],
        camera: { type: 'orthographic', xmag: 20, ymag: 12.5, znear: 1, zfar: 200 },
      });
      const target = lens.createTarget({ width: 160, height: 100 });
      let faults = 0;
      for (let step = 0; step < 6; step++) {
        const isAway = step % 2 === 1;
        for (let i = 0; i < 1000; i += 10)
          nodes[i]!.setTranslation((i % 40) - 19.5, Math.floor(i / 40) - 12, isAway ? 500 : 0);
        lens.draw(scene, camera, { target });
        const pixels = await target.read();
        for (let i = 0; i < 1000; i++) {
          const at = ((99 - (Math.floor(i / 40) * 4 + 2)) * 160 + (i % 40) * 4 + 2) * 4;
          const isThere = pixels[at + 2] === 255;
          // Behind the camera nothing is seen.
          if (isThere !== !(isAway && i % 10 === 0)) faults++;
        }
      }
      lens.dispose();
      return faults;
    }, backend);
    expect(wrong).toBe(0);
  });
});
