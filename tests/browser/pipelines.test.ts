import type { Backend } from 'umber-lens';
import { testPage } from './stage.js';

describe.each<Backend>(['webgl2', 'webgpu'])('on %s', (backend) => {
  const stage = testPage({ as: backend });

  test('a lens with placeholders never waits: things are left out and told, and drawn when they are ready', async () => {
    const told = await stage.page.evaluate(async () => {
      const { box, openLens, Scene, facing } = umber;
      const lens = await openLens(document.createElement('canvas'), {
        pixelRatio: 1,
        pipelines: 'placeholder',
      });
      const scene = new Scene();
      const material = { baseColorFactor: [0.8, 0.1, 0.1, 1] as [number, number, number, number] };
      // One of them is mirrored, which takes a pipeline of its own.
      scene.createNode({ translation: [-0.6, 0, 0], mesh: { geometry: box(), material } });
      scene.createNode({ translation: [0.6, 0, 0], scale: [-1, 1, 1], mesh: { geometry: box(), material } });
      scene.createNode({
        rotation: facing([-1, -2, -3]),
        light: { type: 'directional', intensity: 3 },
      });
      const camera = scene.createNode({
        translation: [0, 0, 3],
        camera: { type: 'perspective', yfov: 0.8, znear: 0.1 },
      });
      const target = lens.createTarget({ width: 64, height: 40 });
      const reds = async (): Promise<number> => {
        const pixels = await target.read();
        let sum = 0;
        for (let i = 0; i < pixels.length; i += 4) if (pixels[i]! > pixels[i + 1]! + 30) sum++; // i < length
        return sum;
      };
      const frames: { draws: number; waiting: number; stalls: number; reds: number }[] = [];
      const draw = async (): Promise<void> => {
        lens.draw(scene, camera, { target });
        const { draws, waiting, stalls } = lens.ledger;
        frames.push({ draws, waiting, stalls: stalls.length, reds: await reds() });
      };
      await draw();
      await lens.whenReady();
      await draw();
      // Layers ask for other pipelines: until they are there it is drawn as before.
      Object.assign(material, { clearcoatFactor: 1 });
      for (let i = 0; i < 3; i++) await draw();
      await lens.whenReady();
      await draw();
      await lens.whenReady();
      await draw();
      lens.dispose();
      return frames;
    });
    const [first, second, ...later] = told;
    expect(first!.draws + first!.waiting).toBe(2);
    // The driver of WebGL2 may have been done at once; WebGPU never is.
    if (backend === 'webgpu') expect(first).toMatchObject({ waiting: 2, draws: 0, reds: 0 });
    expect(second).toMatchObject({ waiting: 0, draws: 2, stalls: 0 });
    expect(second!.reds).toBeGreaterThan(100);
    for (const frame of later) {
      expect(frame).toMatchObject({ waiting: 0, draws: 2, stalls: 0 });
      expect(frame.reds).toBeGreaterThan(100);
    }
  });

  test('layers of what is transparent, and edges, wait for nothing either: until they are ready it is drawn as before', async () => {
    const told = await stage.page.evaluate(async () => {
      const { box, openLens, Scene } = umber;
      const lens = await openLens(document.createElement('canvas'), {
        pixelRatio: 1,
        pipelines: 'placeholder',
      });
      const scene = new Scene();
      scene.createNode({ light: { type: 'ambient', intensity: Math.PI } });
      scene.createNode({
        mesh: {
          geometry: box(),
          material: { baseColorFactor: [0.8, 0.1, 0.1, 0.5], metallicFactor: 0, alphaMode: 'blend' },
        },
      });
      const camera = scene.createNode({
        translation: [0, 0, 3],
        camera: { type: 'perspective', yfov: 0.8, znear: 0.1 },
      });
      const target = lens.createTarget({ width: 32, height: 20 });
      await lens.load(scene);
      const frames: { waiting: number; passes: string[]; middle: number }[] = [];
      const draw = async (): Promise<void> => {
        lens.draw(scene, camera, { target });
        const { waiting, passes } = lens.ledger;
        const drawn = passes.filter(({ draws }) => draws > 0).map(({ name }) => name);
        frames.push({ waiting, passes: drawn, middle: (await target.read())[(7 * 32 + 16) * 4]! });
      };
      await draw();
      lens.look.transparency = 'peeled';
      // What is around scenes is fetched; then the layers' pipelines are made.
      for (let i = 0; i < 4; i++) {
        await draw();
        await lens.whenReady();
      }
      await draw();
      lens.look.transparency = 'sorted';
      lens.view.show = 'clay-edges';
      for (let i = 0; i < 4; i++) {
        await draw();
        await lens.whenReady();
      }
      await draw();
      lens.dispose();
      return frames;
    });
    const [plain] = told;
    expect(plain!.middle).toBeGreaterThan(60);
    for (const { waiting, middle } of told) {
      expect(waiting).toBe(0);
      expect(middle).toBeGreaterThan(60);
    }
    expect(told[5]!.passes).toContain('layer 1');
    for (const { middle } of told.slice(0, 6))
      expect(Math.abs(middle - plain!.middle)).toBeLessThanOrEqual(2);
    expect(told.at(-1)!.passes).not.toContain('layer 1');
  });

  test('a scene that was loaded makes no pipeline in its first frame, and is whole in it', async () => {
    const told = await stage.page.evaluate(async () => {
      const { box, openLens, Scene, facing } = umber;
      const draw = async (
        isLoaded: boolean,
      ): Promise<{ pixels: number[]; stalls: string[]; made: number }> => {
        const lens = await openLens(document.createElement('canvas'), { pixelRatio: 1 });
        const scene = new Scene();
        scene.fog = { type: 'linear', color: [0.2, 0.3, 0.4], near: 1, far: 10 };
        scene.createNode({
          scale: [-1, 1, 1],
          mesh: { geometry: box(), material: { baseColorFactor: [0.8, 0.1, 0.1, 1] } },
        });
        scene.createNode({
          rotation: facing([-1, -2, -3]),
          light: { type: 'directional', intensity: 3, shadow: true },
        });
        const camera = scene.createNode({
          translation: [0, 0, 3],
          camera: { type: 'perspective', yfov: 0.8, znear: 0.1 },
        });
        const target = lens.createTarget({ width: 64, height: 40 });
        if (isLoaded) await lens.load(scene);
        const before = lens.device.counts.pipelines;
        lens.draw(scene, camera, { target });
        const made = lens.device.counts.pipelines - before;
        const stalls = lens.ledger.stalls.map(({ name }) => name);
        await lens.whenReady();
        if (!isLoaded) lens.draw(scene, camera, { target });
        const pixels = [...(await target.read())];
        lens.dispose();
        return { pixels, stalls, made };
      };
      return [await draw(false), await draw(true)];
    });
    const [plain, loaded] = told;
    expect(plain!.stalls).not.toEqual([]);
    expect(loaded!.stalls).toEqual([]);
    // The finish is made for each format of target, when one is first drawn into.
    expect(loaded!.made).toBeLessThanOrEqual(1);
    expect(loaded!.pixels).toEqual(plain!.pixels);
  });

  test('a shader that cannot be made is told, and the rest is drawn', async () => {
    const told = await stage.page.evaluate(async (isWebgl2) => {
      const { box, openLens, Scene, compileMaterialShader } = umber;
      const errors: string[] = [];
      const lens = await openLens(document.createElement('canvas'), {
        pixelRatio: 1,
        pipelines: 'placeholder',
        onMessage: (message) => void errors.push(message.toString()),
      });
      const scene = new Scene();
      const good = compileMaterialShader('fn outputColor(s: Surface) -> vec4f { return vec4f(0, 1, 0, 1); }');
      const bad = {
        ...good,
        file: 'torn.wgsl',
        wgsl: `${good.wgsl} fn torn( {`,
        glsl: {
          ...good.glsl!,
          fragment: { ...good.glsl!.fragment, text: `${good.glsl!.fragment.text} void torn( {` },
        },
      };
      scene.createNode({ translation: [-1, 0, 0], mesh: { geometry: box(), material: { shader: good } } });
      scene.createNode({ translation: [1, 0, 0], mesh: { geometry: box(), material: { shader: bad } } });
      const camera = scene.createNode({
        translation: [0, 0, 4],
        camera: { type: 'perspective', yfov: 0.8, znear: 0.1 },
      });
      const target = lens.createTarget({ width: 64, height: 40 });
      try {
        for (let i = 0; i < 3; i++) {
          lens.draw(scene, camera, { target });
          await lens.whenReady();
        }
      } catch (error) {
        errors.push(`thrown: ${String(error)}`);
      }
      const pixels = await target.read();
      return { errors, left: [...pixels.slice((20 * 64 + 18) * 4, (20 * 64 + 18) * 4 + 3)], isWebgl2 };
    }, backend === 'webgl2');
    expect(told.errors.join('\n')).toMatch(/torn/);
    expect(told.left).toEqual([0, 255, 0]);
  });
});
