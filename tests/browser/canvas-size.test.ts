import type { CDPSession } from 'playwright-core';
import type { Lens, Scene, SceneNode } from 'umber-lens';
import { testPage } from './stage.js';

const stage = testPage();
let cdp: CDPSession;
beforeAll(async () => (cdp = await stage.page.context().newCDPSession(stage.page)));
afterEach(() => cdp.send('Emulation.clearDeviceMetricsOverride'));

interface SizeWindow {
  lens?: Lens;
  scene: Scene;
  camera: SceneNode;
}

/** A lens on a canvas of its own style, without what was there before. */
const open = (style: string, options: { pixelRatio?: number } = {}): Promise<void> =>
  stage.page.evaluate(
    async ([css, given]) => {
      const held = window as unknown as SizeWindow;
      held.lens?.dispose();
      document.querySelector('canvas')!.remove();
      const canvas = document.createElement('canvas');
      canvas.style.cssText = css;
      document.body.append(canvas);
      held.lens = await umber.openLens(canvas, { antialias: false, ...given });
      held.scene = new umber.Scene({ clearColor: [1, 0, 0, 1] });
      held.camera = held.scene.createNode({ camera: { type: 'perspective', yfov: 1, znear: 0.1 } });
    },
    [style, options] as const,
  );

/** Pixels of the canvas after the page was laid out and a frame drawn, and how much of the picture is drawn. */
const drawn = (): Promise<{ pixels: number[]; css: number[]; red: number }> =>
  stage.page.evaluate(async () => {
    const { lens, scene, camera } = window as unknown as Required<SizeWindow>;
    const frame = (): Promise<unknown> => new Promise((done) => requestAnimationFrame(done));
    await frame();
    await frame();
    await frame();
    lens.draw(scene, camera);
    const canvas = document.querySelector('canvas')!;
    const picture = await lens.device.readTexture(lens.device.canvasTexture!);
    let red = 0;
    for (let i = 0; i < picture.length; i += 4) if (picture[i] === 255 && picture[i + 1] === 0) red++;
    return {
      pixels: [canvas.width, canvas.height],
      css: [canvas.clientWidth, canvas.clientHeight],
      red: red / (picture.length / 4),
    };
  });

const ratio = (deviceScaleFactor: number): Promise<unknown> =>
  cdp.send('Emulation.setDeviceMetricsOverride', {
    width: 320,
    height: 200,
    deviceScaleFactor,
    mobile: false,
  });

const style = (css: string): Promise<unknown> =>
  stage.page.evaluate((text) => (document.querySelector('canvas')!.style.cssText = text), css);

test('its pixels follow its size in CSS', async () => {
  await open('width:120px;height:90px');
  expect(await drawn()).toEqual({ pixels: [120, 90], css: [120, 90], red: 1 });
  await style('width:61.5px;height:40px');
  const { pixels, red } = await drawn();
  // 61.5 pixels of CSS cover 61 or 62 of the screen.
  expect([61, 62]).toContain(pixels[0]);
  expect([pixels[1], red]).toEqual([40, 1]);
});

test('a screen of more pixels gets them, also when it changes while the page runs', async () => {
  await open('width:100px;height:50px');
  expect((await drawn()).pixels).toEqual([100, 50]);
  await ratio(2);
  expect(await drawn()).toEqual({ pixels: [200, 100], css: [100, 50], red: 1 });
  await ratio(1.5);
  expect((await drawn()).pixels).toEqual([150, 75]);
  await ratio(1);
  expect((await drawn()).pixels).toEqual([100, 50]);
});

test('a ratio that is given is kept, whatever the screen has', async () => {
  await open('width:100px;height:50px', { pixelRatio: 0.5 });
  expect((await drawn()).pixels).toEqual([50, 25]);
  await ratio(3);
  expect((await drawn()).pixels).toEqual([50, 25]);
  await style('width:60px;height:30px');
  expect((await drawn()).pixels).toEqual([30, 15]);
});

test('a canvas that is hidden is drawn in one pixel, and in all of them once it shows again', async () => {
  await open('width:100px;height:50px');
  await drawn();
  await style('display:none');
  expect((await drawn()).pixels).toEqual([1, 1]);
  await style('width:80px;height:60px');
  expect(await drawn()).toEqual({ pixels: [80, 60], css: [80, 60], red: 1 });
});

test('a canvas without a size in CSS stays as it is laid out, and does not grow with the ratio', async () => {
  await ratio(2);
  // The page's own rule would give it a size.
  await stage.page.evaluate(() => document.querySelector('style')!.remove());
  await open('');
  const first = await drawn();
  const second = await drawn();
  expect(first.css).toEqual([300, 150]);
  expect(first.pixels).toEqual([600, 300]);
  expect(second).toEqual(first);
});

test('frames into targets have their own size and leave the canvas alone', async () => {
  await open('width:64px;height:48px');
  await drawn();
  const size = await stage.page.evaluate(async () => {
    const { lens, scene, camera } = window as unknown as Required<SizeWindow>;
    const target = lens.createTarget({ width: 10, height: 6 });
    lens.draw(scene, camera, { target });
    const bytes = (await target.read()).length;
    target.dispose();
    const canvas = document.querySelector('canvas')!;
    return [bytes, canvas.width, canvas.height];
  });
  expect(size).toEqual([240, 64, 48]);
});

test('many sizes in turn leave no textures behind', async () => {
  await open('width:64px;height:48px');
  await drawn();
  const before = await stage.page.evaluate(
    () => (window as unknown as Required<SizeWindow>).lens.ledger.living.textures,
  );
  for (let i = 0; i < 6; i++) {
    await style(`width:${40 + i}px;height:30px`);
    await drawn();
  }
  const after = await stage.page.evaluate(() => {
    const { lens, scene, camera } = window as unknown as Required<SizeWindow>;
    for (let i = 0; i < 260; i++) lens.draw(scene, camera);
    return lens.ledger.living.textures;
  });
  expect(after).toBe(before);
});
