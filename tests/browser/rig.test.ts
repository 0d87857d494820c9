import type { CDPSession } from 'playwright-core';
import type { OrbitRig, SceneNode } from 'umber-lens';
import { testPage } from './stage.js';

const stage = testPage();
let cdp: CDPSession;

interface RigWindow {
  rig: OrbitRig;
  camera: SceneNode;
}

interface State {
  azimuth: number;
  elevation: number;
  distance: number;
  target: number[];
  place: number[];
}

beforeAll(async () => {
  cdp = await stage.page.context().newCDPSession(stage.page);
  await cdp.send('Emulation.setTouchEmulationEnabled', { enabled: true, maxTouchPoints: 3 });
});

/** A rig as it begins, without inertia unless said otherwise: at (0, 3, 4), looking at the origin from 5 m. */
beforeEach(async () => {
  await stage.page.evaluate(() => {
    const held = window as unknown as Partial<RigWindow>;
    held.rig?.dispose();
    const { orbitRig, Scene } = umber;
    const camera = { type: 'perspective', yfov: 1, znear: 0.1 } as const;
    held.camera = new Scene().createNode({ translation: [0, 3, 4], camera });
    held.rig = orbitRig(held.camera, document.querySelector('canvas')!, {
      halfLife: 0,
      distanceRange: [1, 50],
    });
  });
});

/** Lets a sixtieth of a second pass in the rig. */
const state = (): Promise<State> =>
  stage.page.evaluate(() => {
    const { rig, camera: cameraNode } = window as unknown as RigWindow;
    rig.update(1 / 60);
    const { azimuth, elevation, distance, target } = rig;
    return {
      azimuth,
      elevation,
      distance,
      target: [...target],
      place: [...cameraNode.readWorldPosition([0, 0, 0])],
    };
  });

type Finger = [id: number, x: number, y: number];
const touch = (type: 'touchStart' | 'touchMove' | 'touchEnd', ...fingers: Finger[]): Promise<unknown> =>
  cdp.send('Input.dispatchTouchEvent', { type, touchPoints: fingers.map(([id, x, y]) => ({ id, x, y })) });

test('it begins where its node stands', async () => {
  const { azimuth, elevation, distance, place } = await state();
  expect([azimuth, distance]).toEqual([0, 5]);
  expect(elevation).toBeCloseTo(Math.asin(3 / 5), 6);
  [0, 3, 4].forEach((v, k) => expect(place[k]).toBeCloseTo(v, 5));
});

test('one finger turns: the height of the canvas is half a turn', async () => {
  await touch('touchStart', [1, 160, 100]);
  await touch('touchMove', [1, 210, 100]);
  const { azimuth, elevation, target } = await state();
  expect(azimuth).toBeCloseTo((-50 / 200) * Math.PI, 5);
  expect(elevation).toBeCloseTo(Math.asin(0.6), 6);
  expect(target).toEqual([0, 0, 0]);
  await touch('touchEnd');
  // What is let go of stays.
  expect((await state()).azimuth).toBeCloseTo((-50 / 200) * Math.PI, 5);
});

test('two fingers that part come nearer by as much as they part', async () => {
  await touch('touchStart', [1, 140, 100], [2, 180, 100]);
  await touch('touchMove', [1, 120, 100], [2, 200, 100]);
  const { distance, target } = await state();
  // 40 pixels became 80.
  expect(distance).toBeCloseTo(2.5, 4);
  expect(Math.hypot(...target)).toBeLessThan(1e-6);
  await touch('touchEnd');
});

test('two fingers that move together pan, as far as what they touch', async () => {
  await touch('touchStart', [1, 140, 100], [2, 180, 100]);
  await touch('touchMove', [1, 160, 100], [2, 200, 100]);
  const { distance, target, azimuth } = await state();
  // 20 of 200 pixels, of what is seen at 5 m: 2 * 5 * tan(0.5).
  expect(target[0]).toBeCloseTo(-0.1 * 10 * Math.tan(0.5), 2);
  expect(distance).toBeCloseTo(5, 3);
  expect(azimuth).toBe(0);
  await touch('touchEnd');
});

test('a third finger changes nothing, and a gesture that the browser takes away lets go', async () => {
  await touch('touchStart', [1, 140, 100], [2, 180, 100], [3, 200, 150]);
  await touch('touchMove', [1, 140, 100], [2, 180, 100], [3, 250, 190]);
  const a = await state();
  expect([a.azimuth, a.distance]).toEqual([0, 5]);
  await cdp.send('Input.dispatchTouchEvent', { type: 'touchCancel', touchPoints: [] });
  await touch('touchStart', [1, 160, 100]);
  await touch('touchMove', [1, 180, 100]);
  // One finger alone turns again.
  expect((await state()).azimuth).toBeCloseTo((-20 / 200) * Math.PI, 5);
  await touch('touchEnd');
});

test('fingers never scroll or zoom the page, until the rig is disposed of', async () => {
  const action = (): Promise<string> =>
    stage.page.evaluate(() => document.querySelector('canvas')!.style.touchAction);
  expect(await action()).toBe('none');
  await stage.page.evaluate(() => (window as unknown as RigWindow).rig.dispose());
  expect(await action()).toBe('');
  await touch('touchStart', [1, 160, 100]);
  await touch('touchMove', [1, 210, 100]);
  await touch('touchEnd');
  expect((await state()).azimuth).toBe(0);
});

test('arrow keys turn, with shift they pan, plus and minus move; only while the canvas has the focus', async () => {
  const { keyboard } = stage.page;
  await stage.page.evaluate(() => document.querySelector('canvas')!.blur());
  await keyboard.down('ArrowRight');
  expect((await state()).azimuth).toBe(0);
  await keyboard.up('ArrowRight');
  await stage.page.focus('canvas');
  await keyboard.down('ArrowRight');
  const turned = await state();
  expect(turned.azimuth).toBeCloseTo(1.5 / 60, 6);
  // As long as it is held.
  expect((await state()).azimuth).toBeCloseTo(3 / 60, 6);
  await keyboard.up('ArrowRight');
  expect((await state()).azimuth).toBeCloseTo(3 / 60, 6);
  await keyboard.down('ArrowUp');
  expect((await state()).elevation).toBeGreaterThan(turned.elevation);
  await keyboard.up('ArrowUp');
  await keyboard.down('Shift');
  await keyboard.down('ArrowRight');
  const panned = await state();
  expect(Math.hypot(...panned.target)).toBeGreaterThan(0.01);
  expect(panned.azimuth).toBeCloseTo(3 / 60, 6);
  await keyboard.up('ArrowRight');
  await keyboard.up('Shift');
  await keyboard.down('-');
  expect((await state()).distance).toBeCloseTo(5 * Math.exp(1.5 / 60), 4);
  await keyboard.up('-');
  await keyboard.down('+');
  expect((await state()).distance).toBeCloseTo(5, 4);
  await keyboard.up('+');
});

test("the browser's own shortcuts go to the browser, and a lost focus lets go of all keys", async () => {
  const { keyboard } = stage.page;
  await stage.page.focus('canvas');
  await keyboard.down('Control');
  await keyboard.press('-');
  await keyboard.up('Control');
  expect((await state()).distance).toBe(5);
  await keyboard.down('ArrowLeft');
  await stage.page.evaluate(() => document.querySelector('canvas')!.blur());
  expect((await state()).azimuth).toBe(0);
  await keyboard.up('ArrowLeft');
});

test('limits hold, and an orthographic camera grows instead of moving', async () => {
  const { page } = stage;
  await page.mouse.move(160, 100);
  for (let i = 0; i < 40; i++) await page.mouse.wheel(0, 400);
  expect((await state()).distance).toBe(50);
  for (let i = 0; i < 60; i++) await page.mouse.wheel(0, -400);
  expect((await state()).distance).toBe(1);
  const [before, after] = await page.evaluate(() => {
    const { rig, camera: cameraNode } = window as unknown as RigWindow;
    const camera = { type: 'orthographic' as const, xmag: 2, ymag: 1, znear: 0.1, zfar: 100 };
    cameraNode.setCamera(camera);
    rig.distance = 5;
    const start = [camera.xmag, camera.ymag];
    const canvas = document.querySelector('canvas')!;
    canvas.dispatchEvent(new WheelEvent('wheel', { deltaY: 100, cancelable: true }));
    rig.update(1 / 60);
    return [start, [camera.xmag, camera.ymag]];
  });
  // A notch of 100 pixels is 0.12 of an e-fold.
  expect(after![0]).toBeCloseTo(before![0]! * Math.exp(0.12), 5);
  expect(after![1]).toBeCloseTo(before![1]! * Math.exp(0.12), 5);
});

test('a box is framed along the way of looking, in any shape of canvas', async () => {
  for (const [width, height] of [
    [320, 200],
    [120, 200],
  ] as const) {
    await stage.page.setViewportSize({ width, height });
    const most = await stage.page.evaluate(() => {
      const { rig, camera: cameraNode } = window as unknown as RigWindow;
      const canvas = document.querySelector('canvas')!;
      rig.frame({ min: [-1, -0.5, -2], max: [3, 0.5, 2] });
      rig.update(0);
      const view = umber.createCameraView();
      umber.updateCameraView(view, cameraNode, canvas.clientWidth / canvas.clientHeight);
      const m = view.viewProjection;
      let reach = 0;
      for (let corner = 0; corner < 8; corner++) {
        const p = [corner & 1 ? 3 : -1, corner & 2 ? 0.5 : -0.5, corner & 4 ? 2 : -2];
        const at = (r: number): number => m[r]! * p[0]! + m[4 + r]! * p[1]! + m[8 + r]! * p[2]! + m[12 + r]!;
        reach = Math.max(reach, Math.abs(at(0) / at(3)), Math.abs(at(1) / at(3)));
      }
      return reach;
    });
    // 3% of the picture stay free at the nearest edge.
    expect(most).toBeCloseTo(0.94, 3);
  }
  await stage.page.setViewportSize({ width: 320, height: 200 });
});
