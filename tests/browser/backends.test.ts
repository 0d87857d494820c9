import type { Backend, Scene, SceneNode } from 'umber-lens';
import type { Webgl2Device } from 'umber-lens/device';
import { testPage, openPage, site } from './stage.js';

const stage = testPage({ webgpu: true });

test('the harbour is the same picture on WebGPU and on WebGL2', async () => {
  const result = await stage.page.evaluate(async (url) => {
    const { openLens, Scene, loadModel } = umber;
    const pictures: Uint8Array[] = [];
    const ledgers: number[][] = [];
    for (const backend of ['webgpu', 'webgl2'] as const) {
      const lens = await openLens(undefined, { backend });
      const scene = new Scene();
      (await loadModel(url)).placeIn(scene);
      const [camera] = scene.cameras.keys();
      const target = lens.createTarget({ width: 160, height: 100 });
      lens.draw(scene, camera!, { target });
      // A second time: the textures are decoded and uploaded by now.
      lens.draw(scene, camera!, { target });
      pictures.push(await target.read());
      ledgers.push([lens.ledger.draws, lens.ledger.triangles]);
      lens.dispose();
    }
    const [a, b] = pictures;
    let sum = 0;
    let most = 0;
    let off = 0;
    for (let i = 0; i < a!.length; i++) {
      const d = Math.abs(a![i]! - b![i]!);
      sum += d;
      most = Math.max(most, d);
      if (d > 8) off++;
    }
    return { mean: sum / a!.length, most, off, ledgers, any: a!.some((x, i) => i % 4 === 0 && x > 40) };
  }, site('models/harbour.glb'));
  expect(result.any).toBe(true);
  expect(result.ledgers[0]).toEqual(result.ledgers[1]);
  expect(result.mean).toBeLessThan(0.5);
});

/** A scene with textures, settings, instances and lights, drawn by `lens`; made in the page. */
const STAGE = `
  window.makeStage = () => {
    const scene = new umber.Scene({ clearColor: [0.1, 0.2, 0.3, 1] });
    const data = new Uint8Array(8 * 8 * 4).map((_, i) => (i * 37) % 256);
    const texture = { image: { content: { kind: 'pixels', width: 8, height: 8, data } } };
    const shader = umber.compileMaterialShader(\`struct Settings { glow: vec3f } // color = #204060
      fn surface(p: Fragment, s: Settings) -> Surface {
        var out = surfaceDefaults(p);
        out.emissive = s.glow * (1 - saturate(dot(p.normal, p.toCamera)));
        return out;
      }\`);
    const materials = [
      { name: 'planks', baseColorTexture: { texture }, metallicFactor: 0 },
      { name: 'rim', shader, settings: { glow: [0.2, 0.6, 1] }, metallicFactor: 0.5, roughnessFactor: 0.3 },
      { name: 'glass', alphaMode: 'blend', baseColorFactor: [0.2, 0.9, 0.4, 0.4], metallicFactor: 0 },
    ];
    const geometry = umber.box();
    for (let i = 0; i < 12; i++)
      scene.createNode({
        translation: [(i % 4) - 1.5, Math.floor(i / 4) - 1, -i * 0.2],
        rotation: umber.axisAngle([1, 1, 0], i * 0.7),
        scale: [0.7, 0.7, 0.7],
        mesh: { geometry, material: materials[i % 3] },
      });
    scene.createNode({ rotation: umber.facing([-1, -2, -1]), light: { type: 'directional', intensity: 3 } });
    scene.createNode({ translation: [0, 0, 2], light: { type: 'point', intensity: 8 } });
    const camera = scene.createNode({ translation: [0, 0, 5], camera: { type: 'perspective', yfov: 0.8, znear: 0.1 } });
    return { scene, camera };
  };`;

declare global {
  interface Window {
    makeStage(): { scene: Scene; camera: SceneNode };
  }
}

test.each<Backend>(['webgpu', 'webgl2'])(
  'a lost GPU comes back with the same picture: %s',
  async (backend) => {
    await stage.page.addScriptTag({ content: STAGE });
    const result = await stage.page.evaluate(async (name) => {
      const lens = await umber.openLens(undefined, { backend: name });
      const { scene, camera } = window.makeStage();
      const target = lens.createTarget({ width: 64, height: 40 });
      let restored = 0;
      lens.on('restored', () => restored++);
      lens.draw(scene, camera, { target });
      const before = await target.read();
      const isTimed = await lens.timePasses(true);
      const states: boolean[] = [];
      const pictures: boolean[] = [];
      for (let round = 0; round < 2; round++) {
        const { device } = lens;
        const frames = lens.ledger.frame;
        if (device instanceof umber.WebgpuDevice) {
          device.gpu.destroy();
          await device.gpu.lost;
        } else {
          const extension = (device as Webgl2Device).gl.getExtension('WEBGL_lose_context')!;
          extension.loseContext();
          // The page is not told yet.
          lens.draw(scene, camera, { target });
          await new Promise((resolve) => setTimeout(resolve, 50));
          states.push(lens.isLost);
          // Drawing meanwhile does nothing, and does not throw.
          lens.draw(scene, camera, { target });
          states.push(lens.ledger.frame === frames);
          extension.restoreContext();
        }
        await new Promise((resolve) => setTimeout(resolve, 20));
        await lens.whenReady();
        states.push(!lens.isLost && lens.device !== device, lens.timesPasses === isTimed);
        lens.draw(scene, camera, { target });
        const after = await target.read();
        pictures.push(after.every((x, i) => x === before[i]));
      }
      lens.dispose();
      return { states, pictures, restored, any: new Set(before).size };
    }, backend);
    expect(result.any).toBeGreaterThan(50);
    expect(result.states).not.toContain(false);
    expect(result.pictures).toEqual([true, true]);
    expect(result.restored).toBe(2);
  },
);

test('a WebGPU that takes its time is tried for again, and WebGL2 takes its place where it does not come back', async () => {
  await stage.page.addScriptTag({ content: STAGE });
  const result = await stage.page.evaluate(async () => {
    const lens = await umber.openLens(undefined, {});
    const { scene, camera } = window.makeStage();
    const target = lens.createTarget({ width: 64, height: 40 });
    lens.draw(scene, camera, { target });
    const before = await target.read();
    const states: string[] = [];
    lens.on('statechange', (state) => states.push(state));
    const { gpu } = navigator;
    const ask = gpu.requestAdapter.bind(gpu);
    /** Loses the GPU, which cannot be had for so many attempts. */
    const lose = async (attempts: number): Promise<string> => {
      let left = attempts;
      gpu.requestAdapter = (options) => (left-- > 0 ? Promise.resolve(null) : ask(options));
      const { device } = lens;
      (device as InstanceType<typeof umber.WebgpuDevice>).gpu.destroy();
      await (device as InstanceType<typeof umber.WebgpuDevice>).gpu.lost;
      await new Promise((resolve) => setTimeout(resolve, 20));
      states.push(lens.state);
      await lens.whenReady();
      lens.draw(scene, camera, { target });
      const after = await target.read();
      const differs = after.reduce((sum, x, i) => sum + Math.abs(x - before[i]!), 0) / after.length;
      return `${lens.device.backend} ${differs < 2}`;
    };
    const found = [await lose(2), await lose(1), await lose(Infinity)];
    gpu.requestAdapter = ask;
    lens.dispose();
    lens.dispose();
    return { found, states, differs: new Set(before).size };
  });
  expect(result.found).toEqual(['webgpu true', 'webgpu true', 'webgl2 true']);
  expect(result.states).toEqual(['lost', 'lost', 'ready', 'lost', 'lost', 'ready', 'lost', 'lost', 'ready']);
  expect(result.differs).toBeGreaterThan(50);
});

test('a WebGPU that is lost again and again as soon as it is there is waited for longer and longer, and WebGL2 takes its place', async () => {
  const found = await stage.page.evaluate(async () => {
    const lens = await umber.openLens(undefined, {});
    const waits: number[] = [];
    const backends: string[] = [];
    for (let round = 0; round < 4; round++) {
      const { device } = lens;
      if (!(device instanceof umber.WebgpuDevice)) break;
      device.gpu.destroy();
      await device.gpu.lost;
      const begin = performance.now();
      await new Promise((resolve) => setTimeout(resolve, 5));
      await lens.whenReady();
      waits.push(performance.now() - begin);
      backends.push(lens.device.backend);
    }
    lens.dispose();
    return { waits, backends };
  });
  expect(found.backends).toEqual(['webgpu', 'webgpu', 'webgpu', 'webgl2']);
  // At least: timers may be late.
  for (const [i, least] of [0, 250, 500, 1000].entries())
    expect(found.waits[i]).toBeGreaterThanOrEqual(least - 20);
});

test.each<[Backend, number]>([
  ['webgpu', 80],
  ['webgl2', 80],
])(
  'opened, drawn and disposed of many times, nothing stays: %s',
  async (backend, rounds) => {
    const result = await stage.page.evaluate(
      async ([name, count]) => {
        const living: number[] = [];
        const heap: number[] = [];
        const scene = new umber.Scene();
        const data = new Uint8Array(64 * 64 * 4).fill(200);
        const texture = { image: { content: { kind: 'pixels' as const, width: 64, height: 64, data } } };
        const material = { unlit: true, baseColorTexture: { texture } };
        scene.createNode({ mesh: { geometry: umber.sphere(), material } });
        const camera = scene.createNode({
          translation: [0, 0, 5],
          camera: { type: 'perspective', yfov: 0.8, znear: 0.1 },
        });
        // One context for all rounds: a browser gives up old ones by itself, which would hide a leak.
        const gl = name === 'webgl2' ? document.createElement('canvas').getContext('webgl2')! : undefined;
        const adapter = name === 'webgpu' ? await navigator.gpu.requestAdapter() : undefined;
        const gpu = await adapter?.requestDevice();
        for (let i = 0; i < count; i++) {
          const device = gl ? new umber.Webgl2Device(gl) : new umber.WebgpuDevice(gpu!);
          const lens = umber.lensOn(device);
          const target = lens.createTarget({ width: 16, height: 10 });
          lens.draw(scene, camera, { target });
          if (i % 20 === 0) await target.read();
          lens.dispose();
          // What the device made for itself is its owner's.
          device.dispose();
          living.push(device.counts.living + device.counts.bufferBytes + device.counts.textureBytes);
          const { memory } = performance as unknown as { memory?: { usedJSHeapSize: number } };
          if (memory) heap.push(memory.usedJSHeapSize);
        }
        return { most: Math.max(...living), first: heap[30], last: heap[count - 1] };
      },
      [backend, rounds] as const,
    );
    expect(result.most).toBe(0);
    // Coarse, since it is not known when the browser collects.
    expect(result.last! - result.first!).toBeLessThan(30e6);
  },
  120_000,
);

test('a device of the caller is used and not destroyed', async () => {
  const result = await stage.page.evaluate(async () => {
    const adapter = await navigator.gpu.requestAdapter();
    const gpu = await adapter!.requestDevice();
    let isLost = false;
    void gpu.lost.then(() => (isLost = true));
    const lens = await umber.openLens(undefined, { gpu });
    const same = (lens.device as InstanceType<typeof umber.WebgpuDevice>).gpu === gpu;
    lens.dispose();
    await new Promise((resolve) => setTimeout(resolve, 20));
    return { same, isLost, backend: lens.device.backend };
  });
  expect(result).toEqual({ same: true, isLost: false, backend: 'webgpu' });
});

test('without WebGPU it is WebGL2; what is asked for and missing is said', async () => {
  const other = await openPage();
  const result = await other.page.evaluate(async () => {
    const lens = await umber.openLens(undefined);
    const { backend } = lens.device;
    lens.dispose();
    const message = await umber
      .openLens(undefined, { backend: 'webgpu' })
      .catch((error: unknown) => String(error));
    HTMLCanvasElement.prototype.getContext = () => null;
    const none = await umber.openLens(undefined).catch((error: unknown) => String(error));
    return { backend, message, none };
  });
  await other.page.close();
  expect(result.backend).toBe('webgl2');
  expect(result.message).toContain('this browser has no WebGPU');
  expect(result.none).toMatch(/no WebGPU; this browser offers no WebGL2[\s\S]*hardware acceleration/);
});
