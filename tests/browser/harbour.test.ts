import type { Page } from 'playwright-core';
import type { Lens, OrbitRig, Scene, SceneNode } from 'umber-lens';
import { closeBrowser, hideWebgpu, newPage, site } from './stage.js';

interface HarbourWindow {
  lens: Lens;
  scene: Scene;
  camera: SceneNode;
  rig: OrbitRig;
}

let page: Page;
const errors: string[] = [];
let sawBar = false;

beforeAll(async () => {
  page = await newPage({ viewport: { width: 320, height: 200 } });
  await page.addInitScript(hideWebgpu);
  page.on('pageerror', (error) => errors.push(String(error)));
  page.on('console', (message) => message.type() === 'error' && errors.push(message.text()));
  // The bar may be gone before anybody asks: the page notes it.
  await page.addInitScript(() => {
    new MutationObserver(() => {
      if (document.querySelector('.loading progress')) Object.assign(window, { sawBar: true });
    }).observe(document, { subtree: true, childList: true });
  });
  await page.goto(site('harbour/index.html?pixels=all'), { waitUntil: 'commit' });
  await page.waitForFunction(() => (window as unknown as HarbourWindow).lens?.ledger.frame > 3);
  sawBar = await page.evaluate(() => 'sawBar' in window);
});
afterAll(async () => {
  await page.close();
  await closeBrowser();
});

const read = <T>(get: (w: HarbourWindow) => T): Promise<T> => page.evaluate(`(${get.toString()})(window)`);
const frames = (n: number): Promise<unknown> =>
  page.evaluate(async (count) => {
    const { lens } = window as unknown as HarbourWindow;
    const from = lens.ledger.frame;
    while (lens.ledger.frame < from + count) await new Promise((done) => requestAnimationFrame(done));
  }, n);

/** Lets what the hand set in motion glide to its end, without drawing all the frames of it. */
const rest = async (): Promise<void> => {
  await frames(1);
  await read((w) => {
    for (let i = 0; i < 40; i++) w.rig.update(0.1);
  });
};

test('it loads with a progress bar that goes away, and says nothing on the console', async () => {
  expect(sawBar).toBe(true);
  expect(await page.locator('.loading').count()).toBe(0);
  expect(errors).toEqual([]);
});

test('the picture has sky above, sea below and crates of many shades in between', async () => {
  const colors = await page.evaluate(async () => {
    const { lens, scene, camera } = window as unknown as HarbourWindow;
    const target = lens.createTarget({ width: 160, height: 100 });
    lens.draw(scene, camera, { target });
    const pixels = await target.read();
    target.dispose();
    const mean = (y0: number, y1: number): number[] => {
      const sum = [0, 0, 0];
      for (let i = y0 * 640; i < y1 * 640; i++) if (i % 4 < 3) sum[i % 4]! += pixels[i]!;
      return sum.map((s) => s / ((y1 - y0) * 160));
    };
    const shades = new Set<number>();
    for (let i = 0; i < pixels.length; i += 4)
      shades.add((pixels[i]! >> 3) * 1024 + (pixels[i + 1]! >> 3) * 32 + (pixels[i + 2]! >> 3));
    return { top: mean(0, 5), low: mean(36, 42), bottom: mean(95, 100), shades: shades.size };
  });
  // An evening sky is warmer towards the sea.
  const warmth = ([red, , blue]: number[]): number => red! - blue!;
  expect(warmth(colors.low)).toBeGreaterThan(warmth(colors.top) + 10);
  expect(colors.bottom[0]!).toBeLessThan(colors.top[0]! - 40);
  expect(colors.shades).toBeGreaterThan(250);
});

test('the crates of the quay cost one draw', async () => {
  const result = await page.evaluate(() => {
    const { lens, scene, camera } = window as unknown as HarbourWindow;
    const crates = scene.find('crates')!;
    lens.draw(scene, camera);
    const all = lens.ledger.draws;
    crates.setVisible(false);
    lens.draw(scene, camera);
    const without = lens.ledger.draws;
    crates.setVisible(true);
    return { count: [...crates.children()].length, cost: all - without };
  });
  expect(result.count).toBeGreaterThanOrEqual(400);
  expect(result.cost).toBe(1);
});

test('buoys bob, and the line of figures tells what a frame costs', async () => {
  const height = (): Promise<number> =>
    read((w) => w.scene.find('port buoy')!.readTranslation([0, 0, 0])[1]!);
  const before = await height();
  await frames(4);
  expect(await height()).not.toBe(before);
  await page.waitForFunction(() =>
    /frames\/s · \d+ draws · [\d,]+ triangles/.test(document.querySelector('.figures')?.textContent ?? ''),
  );
});

test('dragging orbits, the wheel moves, secondary drag pans, keys turn, and limits hold', async () => {
  const state = (): Promise<{ azimuth: number; elevation: number; distance: number; target: number[] }> =>
    read((w) => ({
      azimuth: w.rig.azimuth,
      elevation: w.rig.elevation,
      distance: w.rig.distance,
      target: [...w.rig.target],
    }));
  // What follows is about the hand: of the harbour nothing is drawn meanwhile.
  const show = (isShown: boolean): Promise<void> =>
    page.evaluate((shown) => {
      const { scene } = window as unknown as HarbourWindow;
      for (const node of scene.root.children()) node.setVisible(shown);
    }, isShown);
  await show(false);
  const a = await state();
  await page.mouse.move(160, 100);
  await page.mouse.down();
  await page.mouse.move(220, 120, { steps: 4 });
  await frames(2);
  await page.mouse.up();
  await rest();
  const b = await state();
  expect(b.azimuth).toBeLessThan(a.azimuth - 0.5);
  expect(b.elevation).toBeGreaterThan(a.elevation);
  expect(b.target).toEqual(a.target);
  await page.mouse.wheel(0, -300);
  await page.waitForFunction((d) => (window as unknown as HarbourWindow).rig.distance < d, b.distance);
  await rest();
  const c = await state();
  // The notch itself is exp(-0.36); its glide adds at most as much again.
  expect(c.distance / b.distance).toBeLessThan(Math.exp(-0.36) + 1e-6);
  expect(c.distance / b.distance).toBeGreaterThan(Math.exp(-0.72) - 1e-6);
  await page.mouse.down({ button: 'right' });
  await page.mouse.move(260, 120, { steps: 3 });
  await page.mouse.up({ button: 'right' });
  await rest();
  const d = await state();
  // 40 pixels of 200 are a fifth of what the view spans at the target.
  const moved = Math.hypot(...d.target.map((v, k) => v - c.target[k]!));
  const span = 2 * Math.tan((await read((w) => (w.camera.camera as { yfov: number }).yfov)) / 2) * c.distance;
  expect(moved / span).toBeGreaterThan(0.2 - 1e-6);
  expect(moved / span).toBeLessThan(1);
  await page.keyboard.down('ArrowRight');
  await frames(3);
  await page.keyboard.up('ArrowRight');
  const e = await state();
  expect(e.azimuth).toBeGreaterThan(d.azimuth);
  await page.mouse.move(160, 10);
  await page.mouse.down();
  await page.mouse.move(160, -4000);
  await frames(3);
  await page.mouse.up();
  expect((await state()).elevation).toBeGreaterThanOrEqual(0.02 - 1e-9);
  await show(true);
});

test('two fingers pinch', async () => {
  await rest();
  await read((w) => (w.rig.distance = 30));
  const before = 30;
  await page.evaluate(() => {
    const canvas = document.querySelector('canvas')!;
    canvas.setPointerCapture = () => undefined;
    const send = (type: string, pointerId: number, clientX: number): unknown =>
      canvas.dispatchEvent(
        new PointerEvent(type, { pointerId, clientX, clientY: 100, pointerType: 'touch', bubbles: true }),
      );
    send('pointerdown', 11, 140);
    send('pointerdown', 12, 180);
    send('pointermove', 12, 220);
    send('pointermove', 11, 100);
    send('pointerup', 11, 100);
    send('pointerup', 12, 220);
  });
  await frames(2);
  expect(await read((w) => w.rig.distance)).toBeLessThan(before * 0.7);
});

test('a node can be framed', async () => {
  const corners = await page.evaluate(() => {
    const { lens, scene, camera, rig } = window as unknown as HarbourWindow;
    rig.frame(scene.find('starboard buoy')!);
    rig.update(0);
    lens.draw(scene, camera);
    return { target: [...rig.target], distance: rig.distance, culled: lens.ledger.culled };
  });
  expect(corners.target[0]).toBeCloseTo(-9.5, 0);
  expect(corners.distance).toBeLessThan(12);
  expect(corners.culled).toBeGreaterThan(0);
});

test('resizing keeps the canvas sharp', async () => {
  await page.setViewportSize({ width: 240, height: 160 });
  await frames(4);
  expect(
    await page.evaluate(() => [
      document.querySelector('canvas')!.width,
      document.querySelector('canvas')!.height,
    ]),
  ).toEqual([240, 160]);
});

test('a hidden page is not drawn, and time stands still', async () => {
  const frozen = await page.evaluate(async () => {
    const { lens } = window as unknown as HarbourWindow;
    Object.defineProperty(document, 'hidden', { value: true, configurable: true });
    document.dispatchEvent(new Event('visibilitychange'));
    const from = lens.ledger.frame;
    await new Promise((done) => setTimeout(done, 300));
    const during = lens.ledger.frame - from;
    Object.defineProperty(document, 'hidden', { value: false, configurable: true });
    document.dispatchEvent(new Event('visibilitychange'));
    return during;
  });
  expect(frozen).toBe(0);
  await frames(2);
});

test('disposing leaves nothing alive on the GPU', async () => {
  const living = await page.evaluate(() => {
    const { lens } = window as unknown as HarbourWindow;
    lens.dispose();
    return { ...lens.ledger.living };
  });
  expect(living).toMatchObject({ total: 0, bufferBytes: 0, textureBytes: 0 });
});
