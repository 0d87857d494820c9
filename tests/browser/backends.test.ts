import type { Page } from 'playwright-core';
import { closeBrowser, openPage, site } from './stage.js';

let page: Page;
let errors: string[];

beforeAll(async () => {
  ({ page, errors } = await openPage({ webgpu: true }));
});
afterAll(async () => {
  await page.close();
  await closeBrowser();
});
afterEach(() => {
  expect(errors).toEqual([]);
});

test('the harbour is the same picture on WebGPU and on WebGL2', async () => {
  const result = await page.evaluate(async (url) => {
    const { openLens, Scene, loadModel } = umber;
    const pictures: Uint8Array[] = [];
    const ledgers: number[][] = [];
    for (const backend of ['webgpu', 'webgl2'] as const) {
      const lens = await openLens(undefined, { backend });
      const scene = new Scene();
      (await loadModel(url)).placeIn(scene);
      const [eye] = scene.cameras.keys();
      const target = lens.createTarget({ width: 160, height: 100 });
      lens.draw(scene, eye!, target);
      // A second time: the textures are decoded and uploaded by now.
      lens.draw(scene, eye!, target);
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
