import type { Backend } from 'umber-lens';
import { testPage } from './stage.js';

describe.each<Backend>(['webgpu', 'webgl2'])('swarms on %s', (backend) => {
  const held = testPage({ as: backend });

  test('look like as many nodes: places, colours, settings, shadows, and which copy is met', async () => {
    const found = await held.page.evaluate(async (name) => {
      const { Scene, Swarm, box, castRay, compileMaterialShader, cameraRay, facing, openLens, axisAngle } =
        umber;
      const [width, height] = [160, 120];
      const lens = await openLens(undefined, { backend: name, antialias: false });
      const target = lens.createTarget({ width, height });
      let seed = 11;
      const random = (): number => (seed = (seed * 16807) % 2147483647) / 2147483647;
      const count = 60;
      const [translations, rotations, scales, lift] = [[], [], [], []] as number[][];
      for (let i = 0; i < count; i++) {
        translations!.push(random() * 8 - 4, random() * 0.5 + 0.4, random() * 8 - 4);
        rotations!.push(...axisAngle([random() - 0.5, random() - 0.5, random() - 0.5], random() * 6));
        scales!.push(0.3 + random() * 0.5);
        lift!.push(random() * 0.5);
      }
      const shader = compileMaterialShader(`
        struct InstanceSettings {
          lift: f32 // 0..0.5
        }
        fn displace(v: Vertex, own: InstanceSettings) -> Vertex {
          var out = v;
          out.position.y += own.lift;
          return out;
        }
        fn surface(p: Fragment, own: InstanceSettings) -> Surface {
          var out = surfaceDefaults(p);
          out.baseColor = vec3f(0.2 + own.lift, 0.5, 0.9 - own.lift);
          return out;
        }`);
      const material = { shader };
      const geometry = box({ width: 0.6, height: 0.6, depth: 0.6 });
      const make = (fill: (scene: InstanceType<typeof Scene>) => void) => {
        const scene = new Scene({ clearColor: [0.1, 0.1, 0.1, 1] });
        scene.createNode({
          mesh: { geometry: box({ width: 12, height: 0.1, depth: 12 }), material: {} },
        });
        // Not directional: slices of such maps follow the bounds, which a swarm rounds up.
        scene.createNode({
          translation: [4, 9, 2],
          rotation: facing([-4, -9, -2]),
          light: { type: 'spot', intensity: 400, outerConeAngle: 0.7, shadow: true },
        });
        const camera = scene.createNode({
          translation: [0, 6, 8],
          rotation: facing([0, -6, -8]),
          camera: { type: 'perspective', yfov: 0.8, znear: 0.1 },
        });
        fill(scene);
        return { scene, camera };
      };
      const root = { translation: [0.5, 0.2, 0], rotation: axisAngle([0, 1, 0], 0.3) } as never;
      const nodes = make((scene) => {
        const parent = scene.createNode(root);
        for (let i = 0; i < count; i++) {
          scene.createNode({
            parent,
            translation: translations!.slice(i * 3, i * 3 + 3) as never,
            rotation: rotations!.slice(i * 4, i * 4 + 4) as never,
            scale: [scales![i]!, scales![i]!, scales![i]!],
            mesh: { geometry, material },
            settings: { lift: lift![i]! },
          });
        }
      });
      const swarm = new Swarm({
        geometry,
        material,
        transforms: { translations: translations!, rotations: rotations!, scales: scales! },
        settings: { lift: lift! },
        boundsMargin: 0.5,
      });
      const swarms = make((scene) => void scene.createNode({ ...(root as object), mesh: swarm }));
      const pictures: Uint8Array[] = [];
      const draws: number[] = [];
      for (const { scene, camera } of [nodes, swarms]) {
        await lens.load(scene);
        lens.draw(scene, camera, { target });
        lens.draw(scene, camera, { target });
        pictures.push(await target.read());
        draws.push(lens.ledger.draws);
      }
      let [most, differing] = [0, 0];
      for (let i = 0; i < pictures[0]!.length; i++) {
        const d = Math.abs(pictures[0]![i]! - pictures[1]![i]!);
        most = Math.max(most, d);
        if (d > 4) differing++;
      }
      // Which copy is met, by the script where nothing lifts them, and by the GPU where it does.
      const size = { width, height };
      const instances: [number | undefined, number | undefined][] = [];
      const plain = new Swarm({
        geometry,
        transforms: { translations: translations!, rotations: rotations!, scales: scales! },
      });
      const unlifted = make((scene) => void scene.createNode({ ...(root as object), mesh: plain }));
      for (let k = 0; k < 12; k++) {
        const [x, y] = [20.5 + 11 * k, 55.5 + (k % 3) * 9];
        const { origin, direction } = cameraRay(unlifted.camera, x, y, width, height);
        const hit = castRay(unlifted.scene, { origin, direction });
        const exact = await lens.pick(unlifted.scene, unlifted.camera, x, y, { size, gpu: true });
        instances.push([hit?.instance, exact?.instance]);
      }
      lens.dispose();
      return { most, differing, draws, instances };
    }, backend);
    // Edges of 76,800 numbers, where the GPU rounds otherwise than the script.
    expect(found.differing).toBeLessThan(250);
    expect(found.draws[1]).toBe(found.draws[0]);
    expect(found.instances.filter(([a]) => a !== undefined).length).toBeGreaterThan(2);
    for (const [script, gpu] of found.instances) expect(gpu).toBe(script);
  });

  test('levels are drawn into each other without gaps, thinned copies make up for those that are left out', async () => {
    const found = await held.page.evaluate(async (name) => {
      const { Scene, Swarm, box, openLens, scatterOnGrid, sphere } = umber;
      const [width, height] = [160, 100];
      const lens = await openLens(undefined, { backend: name, antialias: false });
      const target = lens.createTarget({ width, height });
      const draw = async (
        mesh: InstanceType<typeof Swarm>,
        back: number,
      ): Promise<{ pixels: number[]; copies: number }> => {
        const scene = new Scene({ clearColor: [0, 0, 0, 1] });
        scene.createNode({ mesh });
        const camera = scene.createNode({
          translation: [0, 0, back],
          camera: { type: 'perspective', yfov: 0.8, znear: 0.1 },
        });
        await lens.load(scene);
        lens.draw(scene, camera, { target });
        return { pixels: [...(await target.read())], copies: lens.ledger.triangles };
      };
      const geometry = sphere({ radius: 0.5, slices: 12, stacks: 8 });
      const colored = (r: number, g: number, b: number) => ({
        unlit: true,
        baseColorFactor: [r, g, b, 1] as never,
      });
      // Balls at distances at which one level hands over to the next.
      const translations = Array.from({ length: 60 }, (_, i) => [
        ((i * 7) % 11) - 5,
        ((i * 5) % 7) - 3,
        -i * 0.25,
      ]).flat();
      const single = await draw(
        new Swarm({ geometry, material: colored(1, 0, 0), transforms: { translations } }),
        6,
      );
      const several = await draw(
        new Swarm({
          levels: [
            { geometry, material: colored(1, 0, 0), minPixels: 14 },
            { geometry, material: colored(0, 1, 0), minPixels: 10 },
            { geometry, material: colored(0, 0, 1) },
          ],
          transforms: { translations },
        }),
        6,
      );
      const isCovered = (pixels: number[], i: number): boolean =>
        pixels[i]! + pixels[i + 1]! + pixels[i + 2]! > 0;
      let [gaps, covered] = [0, 0];
      const levels = [0, 0, 0];
      for (let i = 0; i < single.pixels.length; i += 4) {
        if (isCovered(single.pixels, i)) covered++;
        if (isCovered(single.pixels, i) !== isCovered(several.pixels, i)) gaps++;
        for (let k = 0; k < 3; k++) if (several.pixels[i + k]! > 0) levels[k]!++;
      }
      // Thin posts far away: fewer of them, each wider, cover about as much.
      const posts = scatterOnGrid({ width: 60, depth: 30, spacing: 0.5, seed: 2 });
      const post = box({ width: 0.05, height: 1.2, depth: 0.05 });
      const places = { translations: posts.translations };
      const share = ({ pixels }: { pixels: number[] }): number =>
        pixels.filter((v, i) => i % 4 === 0 && v > 0).length;
      const whole = await draw(
        new Swarm({ geometry: post, material: colored(1, 1, 1), transforms: places }),
        60,
      );
      const thinned = await draw(
        new Swarm({
          geometry: post,
          material: colored(1, 1, 1),
          transforms: places,
          density: { minPixels: 4, minShare: 0.05, grow: 1 },
        }),
        60,
      );
      lens.dispose();
      return {
        gaps,
        covered,
        levels,
        whole: [share(whole), whole.copies],
        thinned: [share(thinned), thinned.copies],
      };
    }, backend);
    expect(found.covered).toBeGreaterThan(1500);
    expect(found.gaps).toBe(0);
    for (const pixels of found.levels) expect(pixels).toBeGreaterThan(50);
    expect(found.thinned[1]).toBeLessThan(found.whole[1]! * 0.7);
    expect(found.thinned[0]! / found.whole[0]!).toBeGreaterThan(0.7);
    expect(found.thinned[0]! / found.whole[0]!).toBeLessThan(1.3);
  });
});
