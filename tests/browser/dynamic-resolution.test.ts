import { testPage } from './stage.js';

const held = testPage();

test('frames in which nothing changed are not drawn, and whatever changes is', async () => {
  const found = await held.page.evaluate(async () => {
    const { Scene, box, compileMaterialShader, openLens, Swarm } = umber;
    const lens = await openLens(undefined, { backend: 'webgl2', antialias: false, view: { onDemand: true } });
    const target = lens.createTarget({ width: 64, height: 48 });
    const scene = new Scene();
    const material = { baseColorFactor: [0.8, 0.2, 0.1, 1] as [number, number, number, number] };
    const crate = scene.createNode({ mesh: { geometry: box(), material } });
    const sun = scene.createNode({ light: { type: 'directional', intensity: 2 } });
    const camera = scene.createNode({
      translation: [0, 0, 4],
      camera: { type: 'perspective', yfov: 0.8, znear: 0.1 },
    });
    await lens.load(scene);
    /** Whether the next frame is drawn. */
    const isDrawn = (change: () => void): boolean => {
      const before = lens.ledger.unchanged;
      change();
      lens.setTime(performance.now() / 1000, 0.016);
      lens.draw(scene, camera, { target });
      return lens.ledger.unchanged === before;
    };
    const still = (): boolean => isDrawn(() => undefined);
    still();
    const names: [string, boolean, boolean][] = [];
    const swarm = new Swarm({ geometry: box({ width: 0.1 }), transforms: { translations: [1, 0, 0] } });
    let node: typeof crate;
    const changes: [string, () => void][] = [
      ['a node', () => crate.setTranslation(0.1, 0, 0)],
      ['a material', () => (material.baseColorFactor[1] = 0.9)],
      ['a light', () => sun.setLight({ type: 'directional', intensity: 3 })],
      ['the camera', () => camera.setTranslation(0, 0, 5)],
      ['the background', () => (scene.clearColor = [0, 0.3, 0, 1])],
      ['the exposure', () => (lens.look.exposure = 1)],
      [
        'a node that came',
        () => (node = scene.createNode({ mesh: { geometry: box(), material }, translation: [1, 1, 0] })),
      ],
      ['a node that went', () => node.remove()],
      ['the target', () => undefined],
    ];
    for (const [name, change] of changes) {
      let drawn: boolean;
      if (name === 'the target') {
        const other = lens.createTarget({ width: 32, height: 32 });
        const before = lens.ledger.unchanged;
        lens.draw(scene, camera, { target: other });
        drawn = lens.ledger.unchanged === before;
        lens.draw(scene, camera, { target });
      } else drawn = isDrawn(change);
      names.push([name, drawn, still()]);
    }
    const last = [...(await target.read())].slice(0, 4);
    // What asks for the time is never still.
    scene.createNode({
      translation: [-1, 0, 0],
      mesh: {
        geometry: box(),
        material: {
          shader: compileMaterialShader(
            'fn surface(p: Fragment) -> Surface { var s = surfaceDefaults(p); s.emissive = vec3f(sin(frame.time)); return s; }',
          ),
        },
      },
    });
    still();
    const timed = [still(), still()];
    const copies = scene.createNode({ mesh: swarm });
    lens.draw(scene, camera, { target });
    await lens.whenReady();
    lens.draw(scene, camera, { target });
    void copies;
    lens.dispose();
    return { names, timed, last };
  });
  for (const [name, drawn, again] of found.names) expect([name, drawn, again]).toEqual([name, true, false]);
  expect(found.timed).toEqual([true, true]);
});

test('small things are left out and counted, and come back', async () => {
  const found = await held.page.evaluate(async () => {
    const { Scene, box, openLens } = umber;
    const lens = await openLens(undefined, { backend: 'webgl2', antialias: false });
    const target = lens.createTarget({ width: 100, height: 100 });
    const scene = new Scene();
    const geometry = box();
    // Spheres around them are 2 r = 1.73 m; at depth d they are 1.73 * 100 / (2 tan(0.4) * d) = 205 / d pixels high.
    for (let i = 1; i <= 100; i++)
      scene.createNode({ mesh: { geometry, material: { unlit: true } }, translation: [0, 0, -i] });
    const camera = scene.createNode({ camera: { type: 'perspective', yfov: 0.8, znear: 0.1 } });
    const counts: [number, number][] = [];
    for (const pixels of [0, 4, 20, 0]) {
      lens.view.minPixels = pixels;
      lens.draw(scene, camera, { target });
      counts.push([lens.ledger.instances, lens.ledger.small]);
    }
    lens.view.minPixels = 4;
    camera.setTranslation(0, 0, 40);
    lens.draw(scene, camera, { target });
    counts.push([lens.ledger.instances, lens.ledger.small]);
    lens.dispose();
    return counts;
  });
  const [all, four, twenty, again, farther] = found as [number, number][];
  expect([all, again]).toEqual([
    [100, 0],
    [100, 0],
  ]);
  // 205 / 4 = 51 m to their near side, 52 to their middle; depths are told apart to an eighth.
  expect(four[0] + four[1]).toBe(100);
  expect(Math.abs(four[0] - 52)).toBeLessThanOrEqual(6);
  expect(Math.abs(twenty[0] - 11)).toBeLessThanOrEqual(2);
  expect(Math.abs(farther[0] - 12)).toBeLessThanOrEqual(6);
});

test('a canvas on a slow machine gets fewer pixels until frames take what they should, and no more than asked', async () => {
  const found = await held.page.evaluate(async () => {
    const { Scene, box, openLens } = umber;
    const canvas = document.querySelector('canvas')!;
    const lens = await openLens(canvas, {
      backend: 'webgl2',
      dynamicResolution: { milliseconds: 20, minScale: 0.4 },
      antialias: false,
    });
    const scene = new Scene();
    scene.createNode({ mesh: { geometry: box(), material: { unlit: true } } });
    const camera = scene.createNode({
      translation: [0, 0, 4],
      camera: { type: 'perspective', yfov: 0.8, znear: 0.1 },
    });
    const sizes: number[] = [];
    await new Promise<void>((done) => {
      const stop = lens.run(() => {
        // Time that follows the pixels, as a weak GPU's does: 80 ms for all.
        const until = performance.now() + 80 * (canvas.width / 320) * (canvas.height / 200);
        lens.draw(scene, camera);
        while (performance.now() < until);
        sizes.push(canvas.width);
        if (sizes.length === 90) {
          stop();
          done();
        }
      });
    });
    const resolution = lens.ledger.resolution;
    lens.dispose();
    return { first: sizes[0], last: sizes.at(-1), resolution };
  });
  expect(found.first).toBe(320);
  expect(found.last).toBeLessThan(200);
  expect(found.last).toBeGreaterThanOrEqual(128);
  expect(found.resolution).toBeCloseTo(found.last! / 320, 2);
});
