import type { CDPSession } from 'playwright-core';
import type { PointerEvents, SceneNode } from 'umber-lens';
import { testPage } from './stage.js';

const stage = testPage();
let cdp: CDPSession;

interface Held {
  pointers: PointerEvents;
  log: string[];
  crate: SceneNode;
  lid: SceneNode;
  ball: SceneNode;
  orbit: { dispose(): void; azimuth: number; distance: number };
}

beforeAll(async () => {
  cdp = await stage.page.context().newCDPSession(stage.page);
});

/** A crate with a lid on its right, and a ball on the left: seen from above, 32 pixels a metre, the middle at (160, 100). */
beforeEach(async () => {
  await cdp.send('Emulation.setTouchEmulationEnabled', { enabled: false });
  // Before the page hears of it.
  await stage.page.mouse.move(1, 1);
  await stage.page.evaluate(async () => {
    const held = window as unknown as Held;
    held.pointers?.dispose();
    held.orbit?.dispose();
    const { Scene, box, orbitRig, pointerEvents, preparePicking } = umber;
    const scene = new Scene();
    held.crate = scene.createNode({ name: 'crate', mesh: { geometry: box() }, translation: [1, 0, 0] });
    held.lid = scene.createNode({
      name: 'lid',
      parent: held.crate,
      mesh: { geometry: box() },
      translation: [1, 0.2, 0],
    });
    held.ball = scene.createNode({ name: 'ball', mesh: { geometry: box() }, translation: [-2, 0, 0] });
    const camera = scene.createNode({
      translation: [0, 10, 0.001],
      camera: { type: 'orthographic', xmag: 5, ymag: 3.125, znear: 0.1, zfar: 100 },
    });
    const canvas = document.querySelector('canvas')!;
    // First of all, so that what nodes keep to themselves is kept although the rig was there before.
    held.orbit = orbitRig(camera, canvas, { halfLife: 0 });
    held.pointers = pointerEvents(camera, canvas);
    held.log = [];
    for (const node of [held.crate, held.lid, held.ball])
      for (const type of [
        'pointerenter',
        'pointerleave',
        'pointerdown',
        'pointerup',
        'click',
        'dblclick',
        'contextmenu',
        'wheel',
      ] as const)
        held.pointers.on(node, type, (event) =>
          held.log.push(
            `${event.type} ${event.currentTarget.name}${event.target === event.currentTarget ? '' : ` by ${event.target.name}`}`,
          ),
        );
    await preparePicking(scene);
  });
});

/** What nodes were told since it was asked last. */
const told = (): Promise<string[]> => stage.page.evaluate(() => (window as unknown as Held).log.splice(0));
const LID = [160 + 64, 100] as const;
const CRATE = [160 + 32, 100] as const;
const BALL = [160 - 64, 100] as const;

test('the mouse comes, goes and clicks, from the inmost node up', async () => {
  const { mouse } = stage.page;
  await mouse.move(...CRATE);
  expect(await told()).toEqual(['pointerenter crate']);
  await mouse.move(...LID);
  expect(await told()).toEqual(['pointerenter lid']);
  await mouse.click(...LID);
  expect(await told()).toEqual([
    'pointerdown lid',
    'pointerdown crate by lid',
    'pointerup lid',
    'pointerup crate by lid',
    'click lid',
    'click crate by lid',
  ]);
  await mouse.move(...BALL);
  expect(await told()).toEqual(['pointerleave lid', 'pointerleave crate by lid', 'pointerenter ball']);
  await mouse.dblclick(...BALL);
  expect(await told()).toEqual([
    'pointerdown ball',
    'pointerup ball',
    'click ball',
    'pointerdown ball',
    'pointerup ball',
    'click ball',
    'dblclick ball',
  ]);
  await mouse.move(160, 20);
  expect(await told()).toEqual(['pointerleave ball']);
});

test('pressed here and lifted there is no click, nor is one far from where it was pressed', async () => {
  const { mouse } = stage.page;
  await mouse.move(...LID);
  await mouse.down();
  await mouse.move(...CRATE);
  await mouse.up();
  // What both ends are on is not meant either once the mouse has moved.
  expect((await told()).filter((line) => line.startsWith('click'))).toEqual([]);
  await mouse.move(CRATE[0] - 10, CRATE[1]);
  await mouse.down();
  await mouse.move(CRATE[0] + 4, CRATE[1]);
  await mouse.up();
  expect((await told()).filter((line) => line.startsWith('click'))).toEqual([]);
  await mouse.move(CRATE[0] - 2, CRATE[1]);
  await mouse.down();
  await mouse.move(CRATE[0], CRATE[1]);
  await mouse.up();
  expect((await told()).filter((line) => line.startsWith('click'))).toEqual(['click crate']);
});

test('a handler stops what nodes above would hear, and a stopped one hears no more', async () => {
  await stage.page.evaluate(() => {
    const { pointers, lid, log } = window as unknown as Held;
    const stop = pointers.on(lid, 'pointerdown', (event) => {
      log.push('stopped');
      event.stopPropagation();
      stop();
    });
  });
  await stage.page.mouse.click(...LID);
  expect(await told()).toEqual([
    'pointerenter crate by lid',
    'pointerenter lid',
    'pointerdown lid',
    'stopped',
    'pointerup lid',
    'pointerup crate by lid',
    'click lid',
    'click crate by lid',
  ]);
  await stage.page.mouse.click(...LID);
  expect((await told()).slice(0, 2)).toEqual(['pointerdown lid', 'pointerdown crate by lid']);
});

test('what is dragged follows the hand, and the rig on the same canvas does not hear of it', async () => {
  const { mouse } = stage.page;
  const state = (): Promise<[number, number[], string]> =>
    stage.page.evaluate(() => {
      const { orbit, crate } = window as unknown as Held;
      return [
        orbit.azimuth,
        [...crate.readWorldPosition([0, 0, 0])],
        document.querySelector('canvas')!.style.cursor,
      ];
    });
  await stage.page.evaluate(() => {
    const { pointers, crate, log } = window as unknown as Held;
    pointers.cursor(crate, 'grab');
    pointers.on(crate, 'drag', ({ phase, moved, target }) => {
      log.push(`${phase} ${target.name}`);
      const [x, y, z] = crate.readTranslation([0, 0, 0]);
      crate.setTranslation(x + moved[0], y + moved[1], z + moved[2]);
    });
  });
  await mouse.move(...LID);
  expect((await state())[2]).toBe('grab');
  await mouse.down();
  for (let i = 1; i <= 4; i++) await mouse.move(LID[0] - i * 8, LID[1] + i * 4);
  await mouse.up();
  const lines = (await told()).filter((line) => !/enter|leave/.test(line));
  expect(lines).toEqual([
    'pointerdown lid',
    'pointerdown crate by lid',
    'start lid',
    'move lid',
    'move lid',
    'move lid',
    'pointerup lid',
    'pointerup crate by lid',
    'end lid',
  ]);
  const [azimuth, at] = await state();
  // 32 pixels to the left and 16 down, at 32 a metre.
  expect(at).toEqual([0, 0, 0.5].map((v) => expect.closeTo(v, 2) as number));
  // Beside everything the rig turns.
  await mouse.move(160, 180);
  expect((await state())[2]).toBe('');
  await mouse.down();
  await mouse.move(180, 180);
  await mouse.up();
  await stage.page.evaluate(() =>
    (window as unknown as { orbit: { update(d: number): void } }).orbit.update(0.02),
  );
  expect((await state())[0]).not.toBe(azimuth);
});

test('a wheel is told, and kept from rigs by who prevents it', async () => {
  const { mouse } = stage.page;
  const distance = (): Promise<number> =>
    stage.page.evaluate(() => {
      const { orbit } = window as unknown as Held & { orbit: { update(d: number): void } };
      orbit.update(0.02);
      return orbit.distance;
    });
  const before = await distance();
  await stage.page.evaluate(() => {
    const { pointers, ball, log } = window as unknown as Held;
    pointers.on(ball, 'wheel', (event) => {
      log.push(`by ${event.deltaY}`);
      event.preventDefault();
    });
  });
  await mouse.move(...BALL);
  await mouse.wheel(0, 100);
  await stage.page.waitForFunction(() => (window as unknown as Held).log.length >= 3);
  expect(await told()).toEqual(['pointerenter ball', 'wheel ball', 'by 100']);
  expect(await distance()).toBe(before);
});

test('the menu of a second button is told with its keys, and prevented by who says so', async () => {
  await stage.page.evaluate(() => {
    const { pointers, ball, log } = window as unknown as Held;
    pointers.on(ball, 'contextmenu', (event) => {
      log.push(
        `${event.shiftKey} ${event.metaKey} ${event.button} ${Math.round(event.offsetX)} ${event.pointerType}`,
      );
      event.preventDefault();
      log.push(String(event.original.defaultPrevented));
    });
  });
  await stage.page.keyboard.down('Shift');
  await stage.page.mouse.move(...BALL);
  await told();
  await stage.page.mouse.click(...BALL, { button: 'right' });
  await stage.page.keyboard.up('Shift');
  const lines = await told();
  expect(lines).toContain('contextmenu ball');
  expect(lines).toContain(`true false 2 ${BALL[0]} mouse`);
  expect(lines).toContain('true');
});

test('a pointer that the browser takes away is cancelled', async () => {
  const lines = await stage.page.evaluate(
    ([x, y]) => {
      const { pointers, ball, log } = window as unknown as Held;
      pointers.on(ball, 'pointercancel', ({ type, pointerId }) => log.push(`${type} ${pointerId}`));
      const canvas = document.querySelector('canvas')!;
      for (const type of ['pointerdown', 'pointercancel'])
        canvas.dispatchEvent(
          new PointerEvent(type, {
            pointerId: 7,
            pointerType: 'touch',
            clientX: x!,
            clientY: y!,
            button: 0,
            buttons: 1,
          }),
        );
      return log.splice(0);
    },
    [...BALL],
  );
  expect(lines).toContain('pointercancel 7');
  expect(lines.filter((line) => line.startsWith('click') || line.startsWith('pointerup'))).toEqual([]);
});

test('fingers each have their own node, and take leave when they are lifted', async () => {
  await cdp.send('Emulation.setTouchEmulationEnabled', { enabled: true, maxTouchPoints: 3 });
  const touch = (
    type: 'touchStart' | 'touchMove' | 'touchEnd',
    ...places: (readonly [number, number])[]
  ): Promise<unknown> =>
    cdp.send('Input.dispatchTouchEvent', { type, touchPoints: places.map(([x, y], id) => ({ x, y, id })) });
  await touch('touchStart', BALL);
  await touch('touchStart', BALL, CRATE);
  expect(await told()).toEqual([
    'pointerenter ball',
    'pointerdown ball',
    'pointerenter crate',
    'pointerdown crate',
  ]);
  await touch('touchEnd', BALL);
  expect(await told()).toEqual(['pointerup ball', 'click ball', 'pointerleave ball']);
  await touch('touchEnd');
  expect(await told()).toEqual(['pointerup crate', 'click crate', 'pointerleave crate']);
});

test('things that move under a mouse that stands are left and come upon', async () => {
  await stage.page.mouse.move(...BALL);
  await told();
  await stage.page.evaluate(() => {
    const { ball, crate, pointers } = window as unknown as Held;
    ball.setTranslation(-4, 0, 0);
    crate.setTranslation(-2, 0, 0);
    pointers.update();
  });
  expect(await told()).toEqual(['pointerleave ball', 'pointerenter crate']);
  await stage.page.evaluate(() => {
    const { crate, pointers } = window as unknown as Held;
    crate.remove();
    pointers.update();
  });
  expect(await told()).toEqual(['pointerleave crate']);
});

test('a name that is no event is refused with the one that may be meant', async () => {
  const said = await stage.page.evaluate(() => {
    const { pointers, ball } = window as unknown as Held;
    return ['clik', 'double-click', 'mouseenter', 'down', 'onclick', 'tilt'].map((name) => {
      try {
        pointers.on(ball, name as never, () => undefined);
        return '';
      } catch (error) {
        return /Did you mean "([^"]*)"/.exec(String(error))?.[1] ?? String(error).split('\n')[0];
      }
    });
  });
  expect(said.slice(0, 5)).toEqual(['click', 'dblclick', 'pointerenter', 'pointerdown', 'click']);
  expect(said[5]).toContain('nodes know no event "tilt"');
});
