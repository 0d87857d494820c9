import type { Backend, RenderPath, ShownQuantity } from 'umber-lens';
import { testPage } from './stage.js';

type Kind = 'box' | 'hook' | 'march' | 'swarm' | 'glass' | 'unlit';

const WAYS: [RenderPath, ShownQuantity, Kind][] = [
  ['forward', 'shaded', 'unlit'],
  ['prepass', 'shaded', 'box'],
  ['deferred', 'shaded', 'box'],
  ['forward', 'clay', 'box'],
  ['forward', 'overdraw', 'box'],
  ['forward', 'clay-edges', 'box'],
  ['deferred', 'shaded', 'hook'],
];

describe.each<Backend>(['webgpu', 'webgl2'])('clipping planes on %s', (backend) => {
  const held = testPage({ as: backend });

  /** A wall in front of the camera, cut above the middle of the picture: how much of each half is covered. */
  const halves = (renderPath: RenderPath, show: ShownQuantity, kind: Kind) =>
    held.page.evaluate(
      async ([path, quantity, what]) => {
        const { box, Scene, sphere, Swarm, compileMaterialShader } = umber;
        const lens = await keptLens({ antialias: false });
        const target = lens.createTarget({ width: 40, height: 40 });
        const scene = new Scene({ clearColor: [0, 0, 0, 1], clipping: { planes: [[0, -2, 0, 0]] } });
        scene.createNode({ light: { type: 'directional', intensity: 3 } });
        const geometry =
          what === 'march'
            ? box({ width: 4, height: 4, depth: 4 })
            : box({ width: 3, height: 3, depth: 0.5 });
        const shaders = {
          hook: 'fn surface(p: Fragment) -> Surface { var s = surfaceDefaults(p); s.baseColor = vec3f(1); return s; }',
          march: `fn march(ray: Ray) -> Hit {
  var hit: Hit;
  let t = (0 - ray.origin.z) / ray.direction.z;
  hit.position = ray.origin + ray.direction * t;
  hit.normal = vec3f(0, 0, 1);
  hit.isHit = max(abs(hit.position.x), abs(hit.position.y)) < 1.5;
  return hit;
}`,
        };
        const shader = what === 'hook' || what === 'march' ? compileMaterialShader(shaders[what]) : undefined;
        const material = {
          emissiveFactor: [1, 1, 1] as [number, number, number],
          ...(shader ? { shader } : {}),
          ...(what === 'glass' ? { alphaMode: 'blend' as const } : {}),
          ...(what === 'unlit' ? { unlit: true } : {}),
        };
        if (what === 'swarm') {
          const translations = Float32Array.from({ length: 27 }, (_, i) =>
            i % 3 === 2 ? 0 : (Math.floor(i / 3) % 3) - 1,
          );
          for (let i = 0; i < 9; i++) translations[i * 3 + 1] = Math.floor(i / 3) - 1;
          scene.createNode({
            mesh: new Swarm({ geometry: sphere({ radius: 0.6 }), material, transforms: { translations } }),
          });
        } else scene.createNode({ mesh: { geometry, material } });
        const camera = scene.createNode({
          translation: [0, 0, 6],
          camera: { type: 'orthographic', xmag: 2, ymag: 2, znear: 0.1, zfar: 20 },
        });
        Object.assign(lens.view, { renderPath: path, show: quantity });
        await lens.load(scene);
        lens.draw(scene, camera, { target });
        const cut = await target.read();
        scene.clipping = undefined;
        await lens.load(scene);
        lens.draw(scene, camera, { target });
        const whole = await target.read();
        const covered = (pixels: Uint8Array, from: number): number => {
          let count = 0;
          for (let i = from * 160; i < (from + 20) * 160; i += 4)
            if (pixels[i]! + pixels[i + 1]! + pixels[i + 2]! > 12) count++;
          return count;
        };
        target.dispose();
        return {
          above: covered(cut, 0),
          below: covered(cut, 20),
          wholeAbove: covered(whole, 0),
          wholeBelow: covered(whole, 20),
        };
      },
      [renderPath, show, kind] as const,
    );

  test.each<[RenderPath, ShownQuantity, Kind]>([
    ['forward', 'shaded', 'box'],
    ['forward', 'shaded', 'hook'],
    ['forward', 'shaded', 'march'],
    ['forward', 'shaded', 'swarm'],
    ['forward', 'shaded', 'glass'],
    // Paths and ways to look are the same on both: one interface draws them all.
    ...(backend === 'webgl2' ? WAYS : []),
  ])('cut what lies behind them: %s, %s, %s', async (path, show, kind) => {
    const { above, below, wholeAbove, wholeBelow } = await halves(path, show, kind);
    expect(wholeAbove).toBeGreaterThan(250);
    expect(Math.abs(wholeAbove - wholeBelow)).toBeLessThan(60);
    expect([above, below]).toEqual([0, wholeBelow]);
  });

  test('one node is cut with all below it, in the picture, in its shadow, and for whoever points', async () => {
    const seen = await held.page.evaluate(async () => {
      const { box, facing, openLens, plane, Scene } = umber;
      const lens = await openLens(undefined, { antialias: false, onMessage: () => undefined });
      const size = { width: 60, height: 40 };
      const target = lens.createTarget(size);
      const scene = new Scene({ clearColor: [0, 0, 0, 1] });
      scene.createNode({
        mesh: { geometry: plane({ width: 30, depth: 30 }), material: { roughnessFactor: 1 } },
      });
      scene.createNode({
        rotation: facing([0, -1, 0]),
        light: { type: 'directional', intensity: 3, shadow: true },
      });
      const crate = scene.createNode({ name: 'crate', translation: [-3, 2, 0] });
      const geometry = box({ width: 2, height: 0.2, depth: 2 });
      const material = { baseColorFactor: [1, 0.2, 0.1, 1] as [number, number, number, number] };
      scene.createNode({ name: 'lid', parent: crate, mesh: { geometry, material } });
      const other = scene.createNode({ name: 'other', translation: [3, 2, 0], mesh: { geometry, material } });
      const camera = scene.createNode({
        translation: [0, 6, 8],
        rotation: facing([0, -0.6, -0.8]),
        camera: { type: 'perspective', yfov: 0.9, znear: 0.1 },
      });
      const half = async (): Promise<{
        pixels: number[];
        picked: (string | undefined)[];
        pointed: (string | undefined)[];
      }> => {
        await lens.load(scene);
        lens.draw(scene, camera, { target });
        const pixels = [...(await target.read())];
        const at = (x: number): [number, number] => [x, 12];
        const names = async (gpu: boolean) =>
          Promise.all(
            [16, 44].map(async (x) => (await lens.pick(scene, camera, ...at(x), { size, gpu }))?.node.name),
          );
        return { pixels, picked: await names(false), pointed: await names(true) };
      };
      const before = await half();
      crate.setVisible(false);
      const without = await half();
      other.setVisible(false);
      const empty = await half();
      crate.setVisible(true);
      other.setVisible(true);
      scene.clipping = { planes: [[0, -1, 0, 1]], node: crate };
      const cut = await half();
      // Where it is drawn stays where it is: only its things are cut, whatever lies around them.
      const region = { x: 0, y: 0, width: 60, height: 40 };
      const inRegion = (await lens.pickRegion(scene, camera, region, { size })).map(({ name }) => name);
      scene.clipping = { planes: [[0, -1, 0, 1]] };
      const all = await half();
      scene.clipping = { planes: [[0, -1, 0, 3]] };
      const none = await half();
      // Asked again before anything is drawn.
      scene.clipping = undefined;
      lens.draw(scene, camera, { target });
      await lens.pick(scene, camera, 16, 12, { size, gpu: true });
      scene.clipping = { planes: [[0, -1, 0, 1]], node: crate };
      const hit = await lens.pick(scene, camera, 16, 12, { size, gpu: true });
      const undrawn = hit?.node.name;
      lens.dispose();
      return { undrawn, before, without, empty, cut, all, none, inRegion };
    });
    const { before, without, empty, cut, all, none } = seen;
    expect([before.picked, before.pointed]).toEqual([
      ['lid', 'other'],
      ['lid', 'other'],
    ]);
    expect(without.pixels).not.toEqual(before.pixels);
    // What is cut away neither covers the ground nor darkens it.
    expect(cut.pixels).toEqual(without.pixels);
    expect([cut.picked, cut.pointed]).toEqual([
      ['', 'other'],
      ['', 'other'],
    ]);
    expect(seen.inRegion).toEqual(['', 'other']);
    expect(all.pixels).toEqual(empty.pixels);
    expect([all.picked, all.pointed]).toEqual([
      ['', ''],
      ['', ''],
    ]);
    expect(none).toEqual(before);
    expect(seen.undrawn).toBe('');
  });

  test('more than six planes, and what are none, are refused with the place', async () => {
    const told = await held.page.evaluate(async () => {
      const { openLens, Scene } = umber;
      const lens = await openLens(undefined, { onMessage: () => undefined });
      const target = lens.createTarget({ width: 8, height: 8 });
      const scene = new Scene();
      const camera = scene.createNode({ camera: { type: 'perspective', yfov: 1, znear: 0.1 } });
      scene.clipping = { planes: [] };
      await lens.load(scene);
      const faults: string[] = [];
      for (const planes of [
        new Array(7).fill([1, 0, 0, 0]),
        [
          [1, 0, 0, 0],
          [0, 0, 0, 1],
        ],
        [[1, 0, Number.NaN, 1]],
        [[1, 0, 0]],
      ]) {
        scene.clipping = { planes: planes as number[][] };
        try {
          lens.draw(scene, camera, { target });
          faults.push('');
        } catch (error) {
          faults.push(String(error));
        }
      }
      lens.dispose();
      return faults;
    });
    expect(told[0]).toMatch(/cut by 7 planes[^]*up to 6/);
    expect(told[1]).toMatch(/plane 1 is \[0, 0, 0, 1\]/);
    expect(told[2]).toMatch(/plane 0 is \[1, 0, NaN, 1\]/);
    expect(told[3]).toMatch(/plane 0 is \[1, 0, 0\]/);
  });
});
