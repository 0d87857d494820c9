import type { Backend } from 'umber-lens';
import { testPage } from './stage.js';

describe.each<Backend>(['webgl2', 'webgpu'])('on %s', (backend) => {
  const stage = testPage({ as: backend });

  test('a captured room is seen in mirrors where it is, beyond 1, and lights what is matt', async () => {
    const seen = await stage.page.evaluate(async () => {
      const { box, captureLight, facing, openLens, plane, Scene, sphere } = umber;
      type Vec3 = [number, number, number];
      const lens = await openLens(document.createElement('canvas'), {
        pixelRatio: 1,
        look: { toneMapping: 'none', contrast: 0.9 },
        onMessage: () => undefined,
      });
      lens.look.exposure = -2;
      const scene = new Scene();
      // A room of 4 x 4 x 4: each wall glows in its own colour, the right one far beyond 1.
      const walls: [place: Vec3, size: Vec3, glow: Vec3][] = [
        [
          [2.1, 0, 0],
          [0.2, 4, 4],
          [2, 0.2, 0.2],
        ],
        [
          [-2.1, 0, 0],
          [0.2, 4, 4],
          [0.1, 0.5, 0.1],
        ],
        [
          [0, 2.1, 0],
          [4, 0.2, 4],
          [0.3, 0.3, 0.9],
        ],
        [
          [0, -2.1, 0],
          [4, 0.2, 4],
          [0.2, 0.2, 0.2],
        ],
        [
          [0, 0, -2.1],
          [4, 4, 0.2],
          [0.7, 0.7, 0.1],
        ],
        [
          [0, 0, 2.1],
          [4, 4, 0.2],
          [0.1, 0.6, 0.6],
        ],
      ];
      walls.forEach(([translation, [width, height, depth], emissiveFactor], i) =>
        scene.createNode({
          translation,
          mesh: {
            geometry: box({ width, height, depth }),
            material: {
              name: `wall ${i}`,
              baseColorFactor: [0, 0, 0, 1],
              metallicFactor: 1,
              roughnessFactor: 1,
              emissiveFactor,
            },
          },
        }),
      );
      // Whoever draws meanwhile draws as always.
      let wasChanged = false;
      let isDone = false;
      const capturing = captureLight(lens, scene, [0, 0, 0], { side: 64 }).finally(() => (isDone = true));
      while (!isDone) {
        wasChanged ||= lens.look.exposure !== -2 || lens.look.contrast !== 0.9;
        await new Promise((resolve) => setTimeout(resolve, 0));
      }
      const panorama = await capturing;
      const middleOf = (x: number, y: number): number[] => [
        ...panorama.data.slice((y * panorama.width + x) * 4, (y * panorama.width + x) * 4 + 3),
      ];
      const { width, height } = panorama;
      const captured = {
        right: middleOf((width * 3) / 4, height / 2),
        left: middleOf(width / 4, height / 2),
        up: middleOf(width / 2, 1),
        ahead: middleOf(width / 2, height / 2),
      };
      const kept = [lens.look.exposure, lens.look.toneMapping, lens.look.contrast, lens.view.show];
      lens.look.contrast = 1;
      const { min, max } = { min: [-2, -2, -2] as Vec3, max: [2, 2, 2] as Vec3 };
      scene.probes.push({ panorama, position: [0, 0, 0], box: { min, max } });
      // A mirror that leans, near the back wall; and a matt plate.
      const mirror = scene.createNode({
        translation: [0.8, -0.4, -1.2],
        mesh: {
          geometry: plane({ width: 0.4, depth: 0.4 }),
          material: { name: 'mirror', roughnessFactor: 0, metallicFactor: 1 },
        },
      });
      const camera = scene.createNode({ camera: { type: 'perspective', yfov: 0.02, znear: 0.1 } });
      const target = lens.createTarget({ width: 8, height: 8 });
      const draw = async (): Promise<number[]> => {
        await lens.load(scene);
        lens.draw(scene, camera, { target });
        const pixels = await target.read();
        return [...pixels.slice(36 * 4, 36 * 4 + 3)].map((v) => {
          const c = v / 255;
          return (c <= 0.04045 ? c / 12.92 : ((c + 0.055) / 1.055) ** 2.4) / 0.25;
        });
      };
      // The plate faces up; the camera looks down at it from one side, so that its mirrored ray meets a known place.
      const look = async (from: Vec3): Promise<number[]> => {
        const at: Vec3 = [0.8, -0.4, -1.2];
        camera.setTranslation(...from);
        camera.setRotation(...facing([at[0] - from[0], at[1] - from[1], at[2] - from[2]]));
        return draw();
      };
      // Mirrored: from (x, y, z) it goes on to (1.6 - x, y, -2.4 - z).
      const mirrored = {
        // Towards +X and up: the right wall, which an unbent reflection would put elsewhere.
        right: await look([0.8 - 1, -0.4 + 0.5, -1.2]),
        // Towards the back wall.
        back: await look([0.8, -0.4 + 0.5, -1.2 + 1]),
        up: await look([0.8, -0.4 + 1.5, -1.2 + 0.01]),
      };
      // Outside of the box there is nothing but black.
      scene.probes[0]!.box = { min: [-2, -2, -2], max: [2, -1, 2] };
      const outside = await look([0.8 - 1, -0.4 + 0.5, -1.2]);
      scene.probes[0]!.box = { min, max };
      scene.probes[0]!.intensity = 0.5;
      const half = await look([0.8, -0.4 + 0.5, -1.2 + 1]);
      scene.probes[0]!.intensity = 1;
      mirror.setMesh({
        geometry: sphere({ radius: 0.1 }),
        material: { name: 'matt', roughnessFactor: 1, metallicFactor: 0, baseColorFactor: [1, 1, 1, 1] },
      });
      // The side of the ball that is seen from the right is lit by the red wall.
      const matt = await look([1.6, -0.4, -1.2]);
      const stalls = lens.ledger.stalls.length;
      const nodes = [...scene.root.children()].some(({ name }) => name === 'capture');
      lens.dispose();
      return { captured, wasChanged, kept, mirrored, outside, half, matt, stalls, nodes };
    });
    const nearly = (got: number[], want: number[], tolerance = 0.06): void =>
      got.forEach((value, k) =>
        expect(Math.abs(value - want[k]!)).toBeLessThan(tolerance * Math.max(1, want[k]!)),
      );
    nearly(seen.captured.right, [2, 0.2, 0.2], 0.02);
    nearly(seen.captured.left, [0.1, 0.5, 0.1], 0.02);
    nearly(seen.captured.up, [0.3, 0.3, 0.9], 0.02);
    nearly(seen.captured.ahead, [0.7, 0.7, 0.1], 0.02);
    // The lens is as it was, and was so all the time.
    expect(seen.wasChanged).toBe(false);
    expect(seen.kept).toEqual([-2, 'none', 0.9, 'shaded']);
    expect(seen.nodes).toBe(false);
    nearly(seen.mirrored.right, [2, 0.2, 0.2]);
    nearly(seen.mirrored.back, [0.7, 0.7, 0.1]);
    nearly(seen.mirrored.up, [0.3, 0.3, 0.9]);
    nearly(seen.outside, [0, 0, 0]);
    nearly(seen.half, [0.35, 0.35, 0.05]);
    // Mostly the red wall, and a little of the others.
    expect(seen.matt[0]!).toBeGreaterThan(0.8);
    expect(seen.matt[0]!).toBeGreaterThan(2.5 * seen.matt[2]!);
    expect(seen.stalls).toBe(0);
  });
});
