import type * as Umber from 'umber-lens';
import type { Backend } from 'umber-lens';
import { testPage } from './stage.js';

interface Stage {
  lens: Umber.Lens;
  scene: Umber.Scene;
  camera: Umber.SceneNode;
  pixels: () => Promise<Uint8Array>;
  texture: (width: number, height: number, by: (x: number, y: number) => number[]) => Umber.Texture;
}

/** Made in the page: a flat picture of 80 x 60 pixels. */
const STAGE = `globalThis.stage = async (clear = [0, 0, 0, 1]) => {
  const lens = await umber.openLens(undefined, { antialias: false, onMessage: () => undefined });
  const scene = new umber.Scene({ clearColor: clear });
  const target = lens.createTarget({ width: 80, height: 60 });
  const camera = umber.pixelCamera(scene, target);
  const pixels = async () => {
    await lens.load(scene);
    lens.draw(scene, camera, { target });
    await lens.whenReady();
    await new Promise((done) => setTimeout(done, 0));
    lens.draw(scene, camera, { target });
    return target.read();
  };
  const texture = (width, height, by) => {
    const data = new Uint8Array(width * height * 4);
    for (let y = 0; y < height; y++) for (let x = 0; x < width; x++) data.set(by(x, y), (y * width + x) * 4);
    return { image: { content: { kind: 'pixels', width, height, data } }, sampler: { magFilter: 'linear' } };
  };
  return { lens, scene, camera, pixels, texture };
}; globalThis.at = (pixels, x, y) => [...pixels.subarray((y * 80 + x) * 4, (y * 80 + x) * 4 + 4)];`;

declare const stage: (clear?: number[]) => Promise<Stage>;
declare const at: (pixels: Uint8Array, x: number, y: number) => number[];

describe.each<Backend>(['webgl2', 'webgpu'])('flat pictures on %s', (backend) => {
  const held = testPage({ as: backend });
  beforeAll(() => held.page.evaluate(STAGE));

  test('a card covers its pixels, from the upper left, and shows its texture as it is', async () => {
    const found = await held.page.evaluate(async () => {
      const { lens, scene, camera, pixels, texture } = await stage();
      // Red above, green below; the last column is blue.
      const flag = texture(16, 8, (x, y) =>
        x === 15 ? [0, 0, 255, 255] : y < 4 ? [200, 0, 0, 255] : [0, 200, 0, 255],
      );
      const mesh = umber.card({ texture: flag });
      const node = scene.createNode({ name: 'flag', translation: [10, 20, 0], mesh });
      const shown = await pixels();
      let covered = 0;
      for (let i = 0; i < shown.length; i += 4) if (shown[i]! + shown[i + 1]! + shown[i + 2]! > 0) covered++;
      const hit = await lens.pick(scene, camera, 12, 22, { size: { width: 80, height: 60 } });
      node.effects = [{ type: 'invert' }];
      const inverted = await pixels();
      lens.dispose();
      return {
        covered,
        corners: [
          at(shown, 10, 20),
          at(shown, 24, 27),
          at(shown, 25, 20),
          at(shown, 9, 20),
          at(shown, 10, 19),
        ],
        hit: hit?.node.name,
        inverted: at(inverted, 10, 20),
      };
    });
    expect(found).toEqual({
      covered: 16 * 8,
      corners: [
        [200, 0, 0, 255],
        [0, 200, 0, 255],
        [0, 0, 255, 255],
        [0, 0, 0, 255],
        [0, 0, 0, 255],
      ],
      hit: 'flag',
      inverted: [55, 255, 255, 255],
    });
  });

  test('what comes later in the tree lies over what came before, whatever it is made of', async () => {
    const found = await held.page.evaluate(async () => {
      const { lens, scene, pixels, texture } = await stage();
      const { card } = umber;
      const plain = texture(4, 4, () => [255, 255, 255, 255]);
      const add = (
        color: [number, number, number, number],
        parent?: Umber.SceneNode,
        texture?: Umber.Texture,
      ) =>
        scene.createNode({
          ...(parent ? { parent } : {}),
          translation: [parent ? 0 : 10, parent ? 0 : 10, 0],
          mesh: card({ width: 20, height: 20, color, ...(texture ? { texture } : {}) }),
        });
      const first = add([1, 0, 0, 1]);
      const second = add([0, 1, 0, 1], undefined, plain);
      const found = [at(await pixels(), 15, 15)];
      const child = add([0, 0, 1, 1], first, plain);
      found.push(at(await pixels(), 15, 15));
      second.remove();
      found.push(at(await pixels(), 15, 15));
      child.setParent(undefined);
      add([1, 1, 0, 1]);
      found.push(at(await pixels(), 15, 15));
      lens.dispose();
      return found;
    });
    expect(found).toEqual([
      [0, 255, 0, 255],
      // Below the first, it comes before the second.
      [0, 255, 0, 255],
      [0, 0, 255, 255],
      [255, 255, 0, 255],
    ]);
  });

  test('edges of what is transparent have no dark fringes, also where it is drawn larger and smaller', async () => {
    const found = await held.page.evaluate(async () => {
      const { lens, scene, pixels, texture } = await stage([1, 1, 1, 1]);
      // White within, transparent black without.
      const disc = texture(16, 16, (x, y) =>
        Math.hypot(x - 7.5, y - 7.5) < 6 ? [255, 255, 255, 255] : [0, 0, 0, 0],
      );
      scene.createNode({
        translation: [3, 3, 0],
        mesh: umber.card({ texture: disc, width: 50, height: 50 }),
      });
      scene.createNode({
        translation: [60, 40, 0],
        mesh: umber.card({ texture: disc, width: 7, height: 7 }),
      });
      const faded = scene.createNode({
        translation: [60, 5, 0],
        mesh: umber.card({ texture: disc, color: [1, 1, 1, 0.5] }),
      });
      const shown = await pixels();
      const darkest = shown.reduce((least, value) => Math.min(least, value), 255);
      scene.clearColor = [0, 0, 0, 1];
      const half = at(await pixels(), 68, 13);
      faded.remove();
      lens.dispose();
      return { darkest, half };
    });
    expect(found.darkest).toBeGreaterThanOrEqual(254);
    expect(Math.abs(found.half[0]! - 188)).toBeLessThanOrEqual(1);
  });

  test('corners of slices keep their size, and parts of a texture are shown alone', async () => {
    const found = await held.page.evaluate(async () => {
      const { lens, scene, pixels, texture } = await stage();
      // A frame: red corners of 3, green edges, a blue middle.
      const inner = (v: number): boolean => v >= 3 && v < 9;
      const frame = texture(12, 12, (x, y) =>
        inner(x) && inner(y) ? [0, 0, 255, 255] : inner(x) || inner(y) ? [0, 255, 0, 255] : [255, 0, 0, 255],
      );
      frame.sampler = { magFilter: 'nearest', minFilter: 'nearest', mipmapFilter: 'none' };
      scene.createNode({
        translation: [0, 0, 0],
        mesh: umber.card({ texture: frame, width: 40, height: 30, slices: [3, 3, 3, 3] }),
      });
      scene.createNode({
        translation: [60, 50, 0],
        mesh: umber.card({ texture: frame, frame: { x: 3, y: 3, width: 6, height: 6 }, anchor: [1, 1] }),
      });
      const shown = await pixels();
      lens.dispose();
      return [
        [
          at(shown, 2, 2),
          at(shown, 3, 2),
          at(shown, 3, 3),
          at(shown, 36, 15),
          at(shown, 37, 15),
          at(shown, 38, 28),
        ],
        [at(shown, 54, 44), at(shown, 59, 49), at(shown, 60, 50), at(shown, 53, 44)],
      ];
    });
    const [R, G, B, none] = [
      [255, 0, 0, 255],
      [0, 255, 0, 255],
      [0, 0, 255, 255],
      [0, 0, 0, 255],
    ];
    expect(found).toEqual([
      [R, G, B, B, G, R],
      [B, B, none, none],
    ]);
  });

  test('thousands of one texture are one draw; cards in space face the camera, in pixels if asked', async () => {
    const found = await held.page.evaluate(async () => {
      const { lens, scene, pixels, texture } = await stage();
      const dot = texture(4, 4, () => [255, 255, 255, 255]);
      // A mesh may be on any number of nodes; 60 of them differ in their color.
      const meshes = Array.from({ length: 60 }, (_, i) =>
        umber.card({ texture: dot, width: 1, height: 1, color: [1, i / 60, 0, 1] }),
      );
      for (let i = 0; i < 3000; i++)
        scene.createNode({ translation: [i % 80, Math.floor(i / 80), 0], mesh: meshes[i % 60]! });
      await pixels();
      const { draws } = lens.ledger;
      const space = new umber.Scene({ clearColor: [0, 0, 0, 1] });
      const camera = space.createNode({
        translation: [3, 2, 5],
        rotation: umber.facing([-3, -2, -5]),
        camera: { type: 'perspective', yfov: 0.8, znear: 0.1 },
      });
      const node = space.createNode({
        mesh: umber.card({ texture: dot, units: 'metres', width: 12, height: 8 }),
      });
      umber.faceCamera(node, camera, { pictureHeight: 60 });
      const target = lens.createTarget({ width: 80, height: 60 });
      await lens.load(space);
      lens.draw(space, camera, { target });
      await lens.whenReady();
      lens.draw(space, camera, { target });
      const shown = await target.read();
      let covered = 0;
      for (let i = 0; i < shown.length; i += 4) if (shown[i]! > 128) covered++;
      lens.dispose();
      return { draws, covered };
    });
    expect(found.draws).toBeLessThanOrEqual(2);
    expect(Math.abs(found.covered - 96)).toBeLessThanOrEqual(4);
  });
});
