import { readFileSync } from 'node:fs';
import { testPage } from './stage.js';

const held = testPage();

/** Draws in the worker as a page would: a crate, an orbit rig, and a cursor over the crate. */
const DRAW = `
(async () => {
  const { box, openLens, orbitRig, pointerEvents, receiveCanvas, Scene } = umber;
  const canvas = await receiveCanvas();
  const lens = await openLens(canvas, { backend: 'webgl2', dynamicResolution: false });
  const scene = new Scene({ clearColor: [0, 0, 1, 1] });
  const crate = scene.createNode({ mesh: { geometry: box(), material: { unlit: true, baseColorFactor: [1, 0, 0, 1] } } });
  const camera = scene.createNode({ translation: [0, 0, 4], camera: { type: 'perspective', yfov: 0.8, znear: 0.1 } });
  const rig = orbitRig(camera, canvas);
  const pointers = pointerEvents(camera, canvas);
  pointers.cursor(crate, 'pointer');
  let clicks = 0;
  pointers.on(crate, 'click', () => clicks++);
  lens.run(({ delta }) => {
    rig.update(delta);
    lens.draw(scene, camera);
  });
  setInterval(() => postMessage({ camera: [...camera.readWorldPosition([0, 0, 0])], frames: lens.ledger.frame, clicks, size: [canvas.width, canvas.height] }), 50);
})().catch((error) => postMessage({ failed: String(error) }));
`;

test('a worker draws into the canvas of a page, with rigs, events and cursors', async () => {
  const { page } = held;
  const library = readFileSync('.cache/umber.js', 'utf8');
  await page.evaluate(
    ([text, draw]) => {
      const worker = new Worker(URL.createObjectURL(new Blob([text!, draw!], { type: 'text/javascript' })));
      const said = { last: undefined as unknown };
      worker.addEventListener('message', ({ data }) => {
        if (!data.umberLens) said.last = data;
      });
      umber.forwardCanvas(document.querySelector('canvas')!, worker);
      Object.assign(window, { said, worker });
    },
    [library, DRAW],
  );
  interface Said {
    failed?: string;
    camera: number[];
    frames: number;
    clicks: number;
    size: number[];
  }
  const said = async (until: string): Promise<Said> => {
    await page.waitForFunction(`window.said.last && (window.said.last.failed || (${until}))`, undefined, {
      timeout: 60_000,
    });
    return page.evaluate<Said>('window.said.last');
  };
  const start = await said('said.last.frames > 3');
  expect(start.failed).toBeUndefined();
  expect(start.size).toEqual([320, 200]);
  // The crate is red in the middle of the page, on blue.
  const shot = await page.screenshot();
  const { default: sharp } = await import('sharp');
  const { data, info } = await sharp(shot).removeAlpha().raw().toBuffer({ resolveWithObject: true });
  const at = (x: number, y: number): number[] => [
    ...data.subarray((y * info.width + x) * 3, (y * info.width + x) * 3 + 3),
  ];
  expect([at(160, 100), at(8, 8)]).toEqual([
    [255, 0, 0],
    [0, 0, 255],
  ]);
  // A drag turns the camera about the crate.
  await page.mouse.move(20, 100);
  await page.mouse.down();
  await page.mouse.move(120, 100, { steps: 4 });
  await page.mouse.up();
  const turned = await said('Math.abs(said.last.camera[0]) > 1');
  expect(Math.hypot(...turned.camera)).toBeCloseTo(4, 3);
  // Over the crate the cursor is another one, and clicks arrive.
  await page.mouse.move(160, 100);
  await page.waitForFunction("document.querySelector('canvas').style.cursor === 'pointer'");
  await page.mouse.click(160, 100);
  expect((await said('said.last.clicks > 0')).clicks).toBe(1);
  // A wheel goes nearer, and the page's size is followed.
  await page.mouse.wheel(0, -400);
  await said('Math.hypot(...said.last.camera) < 3.6');
  await page.setViewportSize({ width: 240, height: 160 });
  expect((await said('said.last.size[0] === 240')).size).toEqual([240, 160]);
  await page.evaluate('worker.terminate()');
});
