import type { CDPSession } from 'playwright-core';
import type * as Umber from 'umber-lens';
import { testPage } from './stage.js';

const stage = testPage();
let cdp: CDPSession;

interface Held {
  rig: Umber.Rig & Record<string, unknown>;
  camera: Umber.SceneNode;
  scene: Umber.Scene;
  [more: string]: unknown;
}

/** A floor of 20 m, a step of 20 cm from z = -2 on, a wall at z = -5, and a table to the right. */
beforeEach(async () => {
  cdp ??= await stage.page.context().newCDPSession(stage.page);
  await stage.page.evaluate(() => {
    const held = window as unknown as Held;
    held.rig?.dispose();
    const { Scene, box } = umber;
    held.scene = new Scene();
    const put = (name: string, at: number[], size: number[]): void =>
      void held.scene.createNode({
        name,
        mesh: { geometry: box() },
        translation: at as [number, number, number],
        scale: size as [number, number, number],
      });
    put('floor', [0, -0.5, 0], [20, 1, 20]);
    put('step', [0, 0.1, -6], [20, 0.2, 8]);
    put('wall', [0, 1.5, -5.5], [20, 3, 1]);
    put('table', [3, 0.8, 0], [1, 1.6, 1]);
    const camera = { type: 'perspective', yfov: 1, znear: 0.1 } as const;
    held.camera = held.scene.createNode({ translation: [0, 1.6, 0], camera });
  });
});

/** Lets seconds pass in the rig, in frames of a sixtieth; how the camera stands then. */
const pass = (seconds: number): Promise<{ at: number[]; ahead: number[]; most: number }> =>
  stage.page.evaluate((time) => {
    const { rig, camera: cameraNode } = window as unknown as Held;
    let most = 0;
    const before = cameraNode.readWorldPosition([0, 0, 0]);
    for (let i = 0; i < Math.round(time * 60); i++) {
      rig.update(1 / 60);
      const now = cameraNode.readWorldPosition([0, 0, 0]);
      most = Math.max(most, Math.hypot(...now.map((v, k) => v - before[k]!)));
      for (let k = 0; k < 3; k++) before[k] = now[k]!;
    }
    cameraNode.scene.update();
    const m = cameraNode.readWorld(new Float32Array(12));
    return { at: [...before], ahead: [-m[2]!, -m[6]!, -m[10]!], most };
  }, seconds);

const near = (...values: number[]): unknown[] => values.map((v) => expect.closeTo(v, 1));

describe('walking', () => {
  beforeEach(() =>
    stage.page.evaluate(() => {
      const held = window as unknown as Held;
      held.rig = umber.walkRig(held.camera, document.querySelector('canvas')!, { jump: 0.5 }) as never;
      document.querySelector('canvas')!.focus();
    }),
  );

  test('goes where it looks, takes the step, and stops at the wall', async () => {
    const { keyboard } = stage.page;
    expect((await pass(0.5)).at).toEqual(near(0, 1.6, 0));
    await keyboard.down('KeyW');
    expect((await pass(0.5)).at).toEqual(near(0, 1.6, -0.83));
    const end = await pass(4);
    await keyboard.up('KeyW');
    // Half a metre thick is the body about the camera, and the wall's face is at -5.
    expect(end.at).toEqual([expect.closeTo(0, 2), expect.closeTo(1.8, 2), expect.closeTo(-4.7, 2)]);
    // Up the step softly: no frame leaps.
    expect(end.most).toBeLessThan(0.06);
  });

  test('slides along a wall, and arrows turn', async () => {
    const { keyboard } = stage.page;
    await pass(0.2);
    await keyboard.down('ArrowRight');
    const turned = await pass(0.4);
    await keyboard.up('ArrowRight');
    expect(Math.atan2(turned.ahead[0]!, -turned.ahead[2]!)).toBeCloseTo(0.4 * 1.8, 1);
    await keyboard.down('ArrowUp');
    const { at } = await pass(6);
    await keyboard.up('ArrowUp');
    expect(at[2]).toBeCloseTo(-4.7, 1);
    expect(at[0]).toBeGreaterThan(5);
  });

  test('a table is in the way, shift runs, and a drag looks about', async () => {
    const { keyboard, mouse } = stage.page;
    await keyboard.down('KeyD');
    const { at } = await pass(4);
    expect(at).toEqual(near(2.2, 1.6, 0));
    await keyboard.up('KeyD');
    await keyboard.down('Shift');
    await keyboard.down('KeyA');
    expect((await pass(1)).at[0]).toBeLessThan(2.2 - 4);
    await keyboard.up('KeyA');
    await keyboard.up('Shift');
    await mouse.move(100, 100);
    await mouse.down();
    await mouse.move(200, 100);
    await mouse.up();
    const { ahead } = await pass(0.1);
    // Half the height to the right pulls the view to the left by half of a quarter turn.
    expect(Math.atan2(-ahead[0]!, -ahead[2]!)).toBeCloseTo(Math.PI / 4, 3);
  });

  test('falls from the edge, and comes back to where it stood', async () => {
    await stage.page.evaluate(() => {
      const feet = (window as unknown as Held).rig['feet'] as number[];
      feet[0] = 9.5;
      feet[1] = 3;
    });
    const fallen = await pass(0.5);
    // 9.81 / 2 x 0.5², less what steps of a sixtieth round.
    expect(fallen.at[1]).toBeCloseTo(4.6 - 1.226, 0);
    expect((await pass(1)).at[1]).toBeCloseTo(1.6, 2);
    await stage.page.keyboard.down('KeyD');
    await pass(0.8);
    await stage.page.keyboard.up('KeyD');
    expect((await pass(0.6)).at[1]).toBeLessThan(0.5);
    const back = await pass(4);
    expect(back.at[1]).toBeCloseTo(1.6, 1);
    expect(Math.abs(back.at[0]!)).toBeLessThan(10.01);
  });

  test('jumps as high as it was told, once', async () => {
    await pass(0.2);
    await stage.page.keyboard.down('Space');
    let most = 0;
    for (let i = 0; i < 20; i++) most = Math.max(most, (await pass(1 / 60)).at[1]!);
    await stage.page.keyboard.up('Space');
    expect(most - 1.6).toBeCloseTo(0.5, 1);
    expect((await pass(1)).at[1]).toBeCloseTo(1.6, 2);
  });
});

test('flying goes through everything, up and down, and the wheel changes how fast', async () => {
  const { keyboard, mouse } = stage.page;
  await stage.page.evaluate(() => {
    const held = window as unknown as Held;
    held.rig = umber.flyRig(held.camera, document.querySelector('canvas')!, {
      keys: { up: ['KeyR'] },
    }) as never;
    document.querySelector('canvas')!.focus();
  });
  await keyboard.down('KeyW');
  expect((await pass(2)).at[2]).toBeLessThan(-7);
  await keyboard.up('KeyW');
  const { at } = await pass(1);
  await keyboard.down('KeyR');
  expect((await pass(1)).at[1]! - at[1]!).toBeGreaterThan(3);
  await keyboard.up('KeyR');
  await mouse.move(160, 100);
  await mouse.wheel(0, 300);
  await stage.page.waitForFunction(() => ((window as unknown as Held).rig['speed'] as number) !== 4);
  expect(await stage.page.evaluate(() => (window as unknown as Held).rig['speed'])).toBeCloseTo(
    4 * Math.exp(-0.36),
    3,
  );
  expect(
    await stage.page.evaluate(() => {
      const { camera: cameraNode } = window as unknown as Held;
      try {
        umber.flyRig(cameraNode, document.querySelector('canvas')!, {
          keys: { foreward: ['KeyW'] } as never,
        });
        return '';
      } catch (error) {
        return String(error);
      }
    }),
  ).toContain('Did you mean "forward"?');
});

test('following stays behind what turns, catches up, and keeps it in sight', async () => {
  await stage.page.evaluate(() => {
    const held = window as unknown as Held;
    const tug = held.scene.createNode({ name: 'tug', translation: [0, 0, 3] });
    held['tug'] = tug;
    held.rig = umber.followRig(held.camera, tug, {
      offset: [0, 2, 4],
      lookAt: [0, 1, 0],
      staysInSight: true,
    }) as never;
  });
  const first = await pass(1 / 60);
  expect(first.at).toEqual(near(0, 2, 7));
  expect(first.ahead[1]).toBeCloseTo(-1 / Math.hypot(1, 4), 3);
  await stage.page.evaluate(() => {
    const { tug } = window as unknown as { tug: Umber.SceneNode };
    tug.setTranslation(5, 0, 3);
    tug.setRotation(...umber.axisAngle([0, 1, 0], Math.PI / 2));
  });
  const [soon, then] = [await pass(0.1), await pass(2)];
  expect(soon.at[0]).toBeLessThan(6);
  expect(soon.most).toBeLessThan(1);
  expect(then.at).toEqual(near(9, 2, 3));
  // The wall is between: the camera comes before it.
  await stage.page.evaluate(() => {
    const { tug } = window as unknown as { tug: Umber.SceneNode };
    tug.setTranslation(0, 0, -4);
    tug.setRotation(...umber.axisAngle([0, 1, 0], Math.PI));
  });
  expect((await pass(2)).at[2]).toBeGreaterThan(-5);
});

test('a plan looks straight down, is dragged, and grows about the pointer', async () => {
  const { mouse } = stage.page;
  await stage.page.evaluate(() => {
    const held = window as unknown as Held;
    held.camera.setCamera({ type: 'orthographic', xmag: 8, ymag: 5, znear: 0.1, zfar: 100 });
    held.rig = umber.planRig(held.camera, document.querySelector('canvas')!) as never;
  });
  const seen = (): Promise<{ target: number[]; height: number }> =>
    stage.page.evaluate(() => {
      const { rig } = window as unknown as Held;
      return { target: [...(rig['target'] as number[])], height: rig['height'] as number };
    });
  expect((await pass(0.1)).ahead).toEqual([0, -1, 0].map((v) => expect.closeTo(v, 5) as number));
  // 20 pixels a metre.
  await mouse.move(100, 100);
  await mouse.down();
  await mouse.move(140, 120);
  await mouse.up();
  await pass(0.1);
  expect((await seen()).target).toEqual([-2, 0, -1].map((v) => expect.closeTo(v, 4) as number));
  await mouse.move(260, 40);
  const under = async (): Promise<number[]> => {
    const { target, height } = await seen();
    return [target[0]! + ((260 - 160) / 200) * height, target[2]! + ((40 - 100) / 200) * height];
  };
  const before = await under();
  await mouse.wheel(0, -400);
  await stage.page.waitForTimeout(50);
  await pass(1);
  expect((await seen()).height).toBeCloseTo(10 * Math.exp(-0.48), 3);
  expect(await under()).toEqual(before.map((v) => expect.closeTo(v, 3) as number));
  // Two fingers that part enlarge it too.
  await cdp.send('Emulation.setTouchEmulationEnabled', { enabled: true, maxTouchPoints: 2 });
  const touch = (type: 'touchStart' | 'touchMove' | 'touchEnd', ...xs: number[]): Promise<unknown> =>
    cdp.send('Input.dispatchTouchEvent', { type, touchPoints: xs.map((x, id) => ({ x, y: 100, id })) });
  const { height } = await seen();
  await touch('touchStart', 140, 180);
  await touch('touchMove', 120, 200);
  await touch('touchEnd');
  await pass(1);
  expect((await seen()).height).toBeCloseTo(height / 2, 2);
  await cdp.send('Emulation.setTouchEmulationEnabled', { enabled: false });
  await stage.page.evaluate(() => {
    const { rig, scene } = window as unknown as Held & { rig: { frame(what: unknown): void; side: string } };
    rig.side = 'front';
    rig.frame(scene.find('table'));
  });
  const framed = await pass(0.1);
  expect(framed.ahead).toEqual([0, 0, -1].map((v) => expect.closeTo(v, 5) as number));
  expect(framed.at.slice(0, 2)).toEqual(near(3, 0.8));
  expect((await seen()).height).toBeCloseTo(1.6 * 1.08, 3);
});

test('a way is gone along as fast everywhere, halted by the space bar, and keys move along it', async () => {
  await stage.page.evaluate(() => {
    const held = window as unknown as Held;
    const points: [number, number, number][] = [
      [0, 1, 0],
      [1, 1, 0],
      [10, 1, 0],
    ];
    held.rig = umber.pathRig(held.camera, points, {
      speed: 2,
      element: document.querySelector('canvas')!,
    }) as never;
    document.querySelector('canvas')!.focus();
  });
  expect((await pass(1)).at[0]).toBeCloseTo(2, 1);
  const { at, ahead } = await pass(2);
  expect(at[0]).toBeCloseTo(6, 1);
  expect(ahead).toEqual(near(1, 0, 0));
  // The key is looked at once a frame.
  await stage.page.keyboard.down('Space');
  await pass(1 / 60);
  await stage.page.keyboard.up('Space');
  const halted = (await pass(0.1)).at[0];
  expect((await pass(1)).at[0]).toBe(halted);
  await stage.page.keyboard.down('ArrowLeft');
  expect((await pass(0.5)).at[0]).toBeLessThan(halted! - 1.5);
  await stage.page.keyboard.up('ArrowLeft');
});

test('an camera is handed over in mid-flight, without a leap of place or way of looking, there and back', async () => {
  const steps = await stage.page.evaluate(() => {
    const held = window as unknown as Held;
    const { orbitRig, walkRig, planRig, pathRig, handOver } = umber;
    const { camera: cameraNode } = held;
    const canvas = document.querySelector('canvas')!;
    const orbit = orbitRig(cameraNode, canvas, { target: [0, 1, 0] });
    const walk = walkRig(cameraNode, canvas, { resting: true });
    const plan = planRig(cameraNode, canvas, { resting: true, height: 8 });
    const way = pathRig(
      cameraNode,
      [
        [0, 3, 6],
        [6, 3, 0],
        [0, 3, -4],
      ],
      { resting: true, lookAt: [0, 0, 0], speed: 4 },
    );
    const found: { most: number; turned: number; end: number[]; active: boolean[] }[] = [];
    let rig: Umber.Rig = orbit;
    orbit.azimuth = 1;
    orbit.distance = 6;
    orbit.update(1 / 60);
    const before = cameraNode.readWorldPosition([0, 0, 0]);
    const looked = cameraNode.readRotation([0, 0, 0, 1]);
    const go = (frames: number): void => {
      let [most, turned] = [0, 0];
      for (let i = 0; i < frames; i++) {
        rig.update(1 / 60);
        const now = cameraNode.readWorldPosition([0, 0, 0]);
        const turn = cameraNode.readRotation([0, 0, 0, 1]);
        most = Math.max(most, Math.hypot(...now.map((v, k) => v - before[k]!)));
        const dot = Math.abs(turn.reduce((sum, v, k) => sum + v * looked[k]!, 0));
        turned = Math.max(turned, 2 * Math.acos(Math.min(1, dot)));
        for (let k = 0; k < 3; k++) before[k] = now[k]!;
        for (let k = 0; k < 4; k++) looked[k] = turn[k]!;
      }
      found.push({ most, turned, end: [...before], active: [orbit, walk, plan, way].map((r) => r.isActive) });
    };
    go(5);
    rig = handOver(rig, way);
    go(20);
    // Before it has come there.
    rig = handOver(rig, plan);
    go(20);
    rig = handOver(rig, walk);
    go(120);
    rig = handOver(rig, orbit);
    go(90);
    for (const each of [orbit, walk, plan, way]) each.dispose();
    held.rig = rig as never;
    return found;
  });
  for (const { most, turned } of steps) {
    // Ten metres in 0.8 seconds are at most a third of a metre a frame, and half a turn 0.1.
    expect(most).toBeLessThan(0.4);
    expect(turned).toBeLessThan(0.12);
  }
  expect(steps.map(({ active }) => active.indexOf(true))).toEqual([0, 3, 2, 1, 0]);
  expect(steps.every(({ active }) => active.filter(Boolean).length === 1)).toBe(true);
  // Who walks stands on the ground.
  expect(steps[3]!.end[1]).toBeGreaterThan(1.5);
  expect(steps[3]!.end[1]).toBeLessThan(1.9);
});

test('keys lead to the canvas with a ring, screen readers are told its name, and all is taken back', async () => {
  const { page } = stage;
  await page.evaluate(() => {
    const held = window as unknown as Held;
    const canvas = document.querySelector('canvas')!;
    const before = document.createElement('button');
    canvas.before(before);
    before.focus();
    held.rig = umber.walkRig(held.camera, canvas, { label: 'The harbour' }) as never;
  });
  await page.keyboard.press('Tab');
  const canvas = (): Promise<(string | null)[]> =>
    page.evaluate(() => {
      const element = document.querySelector('canvas')!;
      const style = getComputedStyle(element);
      return [
        document.activeElement === element ? 'focused' : 'not',
        element.matches(':focus-visible') &&
        style.outlineStyle !== 'none' &&
        parseFloat(style.outlineOffset) < 0
          ? 'ring'
          : 'none',
        element.getAttribute('role'),
        element.getAttribute('aria-label'),
        element.getAttribute('tabindex'),
      ];
    });
  expect(await canvas()).toEqual(['focused', 'ring', 'application', 'The harbour', '0']);
  await page.evaluate(() => (window as unknown as Held).rig.dispose());
  expect((await canvas()).slice(2)).toEqual([null, null, null]);
  await page.evaluate(() => document.querySelector('button')!.remove());
});

test('who asked for less motion sees no glide: things stop and are handed over at once, and ways stand still', async () => {
  await stage.page.emulateMedia({ reducedMotion: 'reduce' });
  const found = await stage.page.evaluate(() => {
    const held = window as unknown as Held;
    const { orbitRig, pathRig, handOver } = umber;
    const canvas = document.querySelector('canvas')!;
    const orbit = orbitRig(held.camera, canvas);
    const way = pathRig(
      held.camera,
      [
        [5, 1, 5],
        [9, 1, 5],
      ],
      { resting: true },
    );
    handOver(orbit, way);
    const at = [...held.camera.readWorldPosition([0, 0, 0])];
    for (let i = 0; i < 60; i++) way.update(1 / 60);
    const later = [...held.camera.readWorldPosition([0, 0, 0])];
    orbit.dispose();
    held.rig = way as never;
    return { at, later, isPlaying: way.isPlaying };
  });
  await stage.page.emulateMedia({ reducedMotion: null });
  expect(found).toEqual({ at: [5, 1, 5], later: [5, 1, 5], isPlaying: false });
});
