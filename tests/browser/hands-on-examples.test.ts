import type { Page } from 'playwright-core';
import type { Lens, Scene, SceneNode } from 'umber-lens';
import { closeBrowser, hideWebgpu, newPage, site } from './stage.js';

afterAll(closeBrowser);

interface ExamplePage {
  lens: Lens;
  scene: Scene;
  example: { camera: SceneNode; frame(time: number): void };
}

/** An example's page as it is used, small; without WebGPU, which has no canvas without a window. */
async function open(name: string, errors: string[]): Promise<Page> {
  const page = await newPage({ viewport: { width: 320, height: 200 } });
  page.on('pageerror', (error) => errors.push(String(error)));
  await page.addInitScript(hideWebgpu);
  await page.goto(site(`${name}/index.html`));
  await page.waitForFunction(() => (window as unknown as ExamplePage).lens?.ledger.frame > 2);
  return page;
}

const placeOf = (page: Page, name: string): Promise<number[]> =>
  page.evaluate(
    (wanted) => [...(window as unknown as ExamplePage).scene.root.find(wanted)!.readWorldPosition([0, 0, 0])],
    name,
  );

test('the shore crab walks to where one clicks, with its feet on the ground', async () => {
  const errors: string[] = [];
  const page = await open('shore-crab', errors);
  const before = await placeOf(page, 'crab');
  // Left of the middle, on the sand.
  await page.mouse.click(90, 120);
  const goal = await page.waitForFunction(() => {
    const mark = (window as unknown as ExamplePage).scene.root.find('mark')!;
    return mark.visible ? [...mark.readWorldPosition([0, 0, 0])] : undefined;
  });
  const [x, , z] = (await goal.jsonValue())!;
  await page.waitForFunction(
    ([gx, gz]) => {
      const [cx, , cz] = (window as unknown as ExamplePage).scene.root
        .find('crab')!
        .readWorldPosition([0, 0, 0]);
      return Math.hypot(cx! - gx!, cz! - gz!) < 0.04;
    },
    [x!, z!],
  );
  expect(Math.hypot(before[0]! - x!, before[2]! - z!)).toBeGreaterThan(0.05);
  const feet = await page.evaluate(() => {
    const { scene } = window as unknown as ExamplePage;
    return ['left', 'right'].flatMap((side) =>
      [1, 2, 3, 4].map((i) => scene.root.find(`${side} tip ${i}`)!.readWorldPosition([0, 0, 0])[1]!),
    );
  });
  // Those in the air are lifted by little more than two centimetres; the sand lies within a few of the sea.
  for (const height of feet) expect(Math.abs(height)).toBeLessThan(0.09);
  expect(errors).toEqual([]);
  await page.close();
});

test('crates fall, rise when gravity is turned over, and stay one draw', async () => {
  const errors: string[] = [];
  const page = await open('crate-pour', errors);
  const heights = (): Promise<number[]> =>
    page.evaluate(() => {
      const { scene } = window as unknown as ExamplePage;
      const all: number[] = [];
      for (const node of scene.root.descendants())
        if (node.name.startsWith('crate ')) all.push(node.readWorldPosition([0, 0, 0])[1]);
      return all.filter((y) => y > -3);
    });
  await page.waitForFunction(() => {
    const { scene } = window as unknown as ExamplePage;
    return (
      [...scene.root.descendants()].filter((node) => {
        if (!node.name.startsWith('crate ')) return false;
        const y = node.readWorldPosition([0, 0, 0])[1]!;
        return y > 1 && y < 2;
      }).length > 4
    );
  });
  const lying = (await heights()).length;
  await page.locator('input[type=range]').first().fill('9.81');
  await page.waitForFunction(() => {
    const { scene } = window as unknown as ExamplePage;
    return [...scene.root.descendants()].some(
      (node) => node.name.startsWith('crate ') && node.readWorldPosition([0, 0, 0])[1]! > 5.9,
    );
  });
  const risen = await heights();
  expect(lying).toBeGreaterThan(4);
  // Nothing goes through the net.
  expect(Math.max(...risen)).toBeLessThan(6.6);
  // Sea, quay, net and crates, and the sky.
  const draws = await page.evaluate(() => {
    const { lens } = window as unknown as ExamplePage;
    return lens.ledger.passes.find(({ name }) => name === 'opaque')!.draws;
  });
  expect(draws).toBeLessThanOrEqual(5);
  expect(errors).toEqual([]);
  await page.close();
});

test('all gulls and their shadows are three draws, and the page tells what they do', async () => {
  const errors: string[] = [];
  const page = await open('gulls', errors);
  await page.waitForFunction(() =>
    ['glide', 'flap', 'walk'].every((state) =>
      document.querySelector('output')?.textContent?.includes(state),
    ),
  );
  const draws = await page.evaluate(async () => {
    const { lens, scene, example } = window as unknown as ExamplePage;
    for (const name of ['sea', 'quay']) scene.root.find(name)!.setVisible(false);
    scene.backdrop = undefined as never;
    lens.draw(scene, example.camera);
    await lens.whenReady();
    const of = (wanted: string): number => lens.ledger.passes.find(({ name }) => name === wanted)?.draws ?? 0;
    // They move in each of the frames, so that the maps are drawn anew. A list that is mended may be in pieces for some of them.
    const found: number[][] = [];
    for (let i = 0; i < 6; i++) {
      example.frame(200 + i * 3);
      lens.draw(scene, example.camera);
      found.push([of('shadows'), of('opaque'), of('blended')]);
    }
    return found.filter(([shadows]) => shadows! > 0).sort((a, b) => a[0]! - b[0]!)[0];
  });
  expect(draws).toEqual([2, 1, 0]);
  expect(errors).toEqual([]);
  await page.close();
});
