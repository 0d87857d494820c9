import type * as Umber from 'umber-lens';
import type { Backend, RenderPath } from 'umber-lens';
import { testPage } from './stage.js';

interface Stage {
  lens: Umber.Lens;
  scene: Umber.Scene;
  camera: Umber.SceneNode;
  put: (
    color: readonly number[],
    at: number[],
    size?: number,
    options?: Umber.NodeOptions,
    into?: Umber.Scene,
  ) => Umber.SceneNode;
}

/** Made in the page: flat boxes before a camera that sees 4 x 3 metres. */
const STAGE = `globalThis.stage = async (options = {}) => {
  const { box, openLens, Scene } = umber;
  const lens = await openLens(undefined, { antialias: false, onMessage: () => undefined, ...options });
  const scene = new Scene({ clearColor: [0, 0, 0, 1] });
  const put = (color, at, size = 1, more = {}, into = scene) => into.createNode({
    translation: at,
    mesh: {
      geometry: box({ width: size, height: size, depth: 0.2 }),
      material: { unlit: true, baseColorFactor: color.length === 4 ? color : [...color, 1], ...(color.length === 4 ? { alphaMode: 'blend' } : {}) },
    },
    ...more,
  });
  const camera = scene.createNode({
    translation: [0, 0, 10],
    camera: { type: 'orthographic', xmag: 2, ymag: 1.5, znear: 0.1, zfar: 20 },
  });
  return { lens, scene, camera, put };
}; globalThis.at = (pixels, width, x, y) => [...pixels.subarray((y * width + x) * 4, (y * width + x) * 4 + 4)];`;

declare const stage: (options?: Umber.LensOptions) => Promise<Stage>;
declare const at: (pixels: Umber.TypedNumbers, width: number, x: number, y: number) => number[];

const [RED, GREEN, BLUE] = [
  [255, 0, 0, 255],
  [0, 255, 0, 255],
  [0, 0, 255, 255],
];

describe.each<Backend>(['webgl2', 'webgpu'])('views and targets on %s', (backend) => {
  const held = testPage({ as: backend });
  beforeAll(() => held.page.evaluate(STAGE));

  test('two views side by side: neither touches the other', async () => {
    const found = await held.page.evaluate(async () => {
      const { lens, scene, camera, put } = await stage();
      put([1, 0, 0], [0, 0, 0], 2);
      const other = scene.createNode({
        translation: [0, 5, 10],
        camera: { type: 'orthographic', xmag: 2, ymag: 1.5, znear: 0.1, zfar: 20 },
      });
      put([0, 1, 0], [0, 5, 0], 2);
      const target = lens.createTarget({ width: 80, height: 30 });
      const [left, right] = [
        { x: 0, y: 0, width: 40, height: 30 },
        { x: 40, y: 0, width: 40, height: 30 },
      ];
      lens.draw(scene, camera, { target, viewport: left });
      lens.draw(scene, other, { target, viewport: right });
      const both = await target.read();
      // Each alone, in a target of its size.
      const small = lens.createTarget({ width: 40, height: 30 });
      lens.draw(scene, other, { target: small });
      const alone = await small.read();
      let apart = 0;
      for (let y = 0; y < 30; y++)
        for (let i = 0; i < 160; i++) if (both[y * 320 + 160 + i] !== alone[y * 160 + i]) apart++;
      // An inset with effects of its own, over a part of the left one.
      lens.draw(scene, camera, {
        target,
        viewport: { x: 2, y: 2, width: 16, height: 12 },
        finish: [{ type: 'invert' }],
      });
      await lens.whenReady();
      lens.draw(scene, camera, {
        target,
        viewport: { x: 2, y: 2, width: 16, height: 12 },
        finish: [{ type: 'invert' }],
      });
      const inset = await target.read();
      const found = {
        left: at(both, 80, 20, 15),
        right: at(both, 80, 60, 15),
        apart,
        inset: at(inset, 80, 10, 8),
        beside: at(inset, 80, 20, 15),
        right2: at(inset, 80, 60, 15),
      };
      lens.dispose();
      return found;
    });
    expect(found).toEqual({
      left: RED,
      right: GREEN,
      apart: 0,
      inset: [0, 255, 255, 255],
      beside: RED,
      right2: GREEN,
    });
  });

  test('a scissor cuts what changes, and a scene may be drawn over what is there', async () => {
    const found = await held.page.evaluate(async () => {
      const { lens, scene, camera, put } = await stage();
      const { Scene } = umber;
      put([1, 0, 0], [0, 0, 0], 2);
      const overlay = new Scene({ clearColor: [0, 1, 0, 1] });
      put([0, 0, 1, 0.5], [0.5, 0, 0], 1, {}, overlay);
      const eye = overlay.createNode({
        translation: [0, 0, 10],
        camera: { type: 'orthographic', xmag: 2, ymag: 1.5, znear: 0.1, zfar: 20 },
      });
      const target = lens.createTarget({ width: 80, height: 60 });
      const read = async (): Promise<Umber.TypedNumbers> => target.read();
      lens.draw(scene, camera, { target });
      lens.draw(overlay, eye, { target, clear: { color: false } });
      const over = await read();
      lens.draw(overlay, eye, { target, scissor: { x: 0, y: 0, width: 10, height: 10 } });
      const cut = await read();
      const found = {
        under: at(over, 80, 25, 30),
        over: at(over, 80, 50, 30),
        cut: at(cut, 80, 5, 5),
        kept: at(cut, 80, 25, 30),
      };
      lens.dispose();
      return found;
    });
    expect(found.under).toEqual(RED);
    // Blended as screens have it: the target holds what is shown.
    expect(found.over[0]).toBeGreaterThan(120);
    expect(found.over[2]).toBeGreaterThan(120);
    expect(found.over[1]).toBe(0);
    expect(found).toMatchObject({ cut: GREEN, kept: RED });
  });

  test.each<[boolean, RenderPath]>([
    [false, 'forward'],
    [true, 'forward'],
    [false, 'deferred'],
    [true, 'prepass'],
  ])('depths are kept for a second scene (antialiased: %s, %s)', async (antialias, renderPath) => {
    const found = await held.page.evaluate(
      async ([smooth, path]) => {
        const { lens, scene, camera, put } = await stage({ antialias: smooth });
        const { Scene } = umber;
        lens.view.renderPath = path;
        put([1, 0, 0], [-0.5, 0, 0], 1);
        const second = new Scene();
        put([0, 1, 0], [0, 0, -1], 1, {}, second);
        put([0, 0, 1], [-0.5, 0.4, 1], 0.4, {}, second);
        const eye = second.createNode({
          translation: [0, 0, 10],
          camera: { type: 'orthographic', xmag: 2, ymag: 1.5, znear: 0.1, zfar: 20 },
        });
        const target = lens.createTarget({ width: 80, height: 60 });
        for (let i = 0; i < 3; i++) {
          lens.draw(scene, camera, { target, keepDepth: true });
          lens.draw(second, eye, { target, clear: { color: false, depth: false } });
          await lens.whenReady();
        }
        const pixels = await target.read();
        const found = [at(pixels, 80, 36, 32), at(pixels, 80, 46, 32), at(pixels, 80, 30, 22)];
        lens.dispose();
        return found;
      },
      [antialias, renderPath] as const,
    );
    expect(found).toEqual([RED, GREEN, BLUE]);
  });

  test('depths that nobody has kept are told of, once', async () => {
    const heard = await held.page.evaluate(async () => {
      const heard: string[] = [];
      const { lens, scene, camera } = await stage({ onMessage: ({ summary }) => void heard.push(summary) });
      const target = lens.createTarget({ width: 40, height: 30 });
      const goOn = { clear: { color: false, depth: false } };
      const viewport = { x: 0, y: 0, width: 20, height: 30 };
      lens.draw(scene, camera, { target, keepDepth: true });
      lens.draw(scene, camera, { target, ...goOn });
      const rightly = heard.filter((message) => message.includes('depths'));
      // Another size has depths of its own, and so has another target.
      for (let i = 0; i < 2; i++) lens.draw(scene, camera, { target, viewport, ...goOn });
      const other = lens.createTarget({ width: 40, height: 30 });
      lens.draw(scene, camera, { target: other, ...goOn });
      lens.dispose();
      return [rightly, heard.filter((message) => message.includes('depths'))];
    });
    const told = (size: string): string =>
      `a picture of ${size} pixels goes on with depths that no draw has kept, so nothing is hidden by them`;
    expect(heard).toEqual([[], [told('20 x 30'), told('40 x 30')]]);
  });

  test('targets have formats and layers, and are shown on things', async () => {
    const found = await held.page.evaluate(async () => {
      const { lens, scene, camera, put } = await stage();
      const { Scene } = umber;
      scene.clearColor = [0, 0, 0, 0];
      put([0.5, 0.25, 0.125], [-1, 0, 0], 1.6);
      put([0.5, 0.25, 0.125, 0.5], [1, 0, 0], 1.6);
      const floats = lens.createTarget({ width: 8, height: 6, format: 'rgba16float' });
      lens.draw(scene, camera, { target: floats });
      const numbers = await floats.read<Float32Array>();
      const cube = lens.createTarget({ width: 8, height: 8, shape: 'cube' });
      scene.clearColor = [0, 0, 1, 1];
      lens.draw(scene, camera, { target: cube, layer: 3 });
      const side = await cube.read(3);
      const otherSide = await cube.read(2);
      scene.clearColor = [0, 0, 0, 0];
      // A wall that shows a picture, seen so that it fills the view.
      const picture = lens.createTarget({ width: 64, height: 48 });
      const wall = new Scene({ clearColor: [0, 0, 0, 1] });
      const [width, height] = [4, 3];
      const shown = wall.createNode({
        mesh: {
          geometry: umber.plane({ width, depth: height }),
          material: { unlit: true, alphaMode: 'blend', baseColorTexture: { texture: picture.texture } },
        },
        rotation: umber.axisAngle([1, 0, 0], Math.PI / 2),
      });
      const eye = wall.createNode({
        translation: [0, 0, 10],
        camera: { type: 'orthographic', xmag: 2, ymag: 1.5, znear: 0.1, zfar: 20 },
      });
      const target = lens.createTarget({ width: 64, height: 48 });
      lens.draw(scene, camera, { target: picture });
      lens.draw(wall, eye, { target });
      await lens.whenReady();
      const drawn = async (): Promise<Umber.TypedNumbers> => {
        lens.draw(scene, camera, { target: picture });
        lens.draw(wall, eye, { target });
        return target.read();
      };
      const first = await drawn();
      put([0, 1, 0], [0, 0, 1], 4);
      const second = await drawn();
      // A picture in itself: it shows the one before.
      (shown.mesh!.primitives[0]!.material as { baseColorTexture: object }).baseColorTexture = {
        texture: target.texture,
      };
      wall.clearColor = [1, 0, 0, 1];
      lens.draw(wall, eye, { target });
      await lens.whenReady();
      lens.draw(wall, eye, { target });
      const itself = await target.read();
      const found = {
        linear: [...numbers.slice((3 * 8 + 2) * 4, (3 * 8 + 2) * 4 + 4)],
        half: [...numbers.slice((3 * 8 + 6) * 4, (3 * 8 + 6) * 4 + 4)],
        side: at(side, 8, 0, 0),
        otherSide: at(otherSide, 8, 0, 0),
        opaque: at(first, 64, 16, 24),
        blended: at(first, 64, 48, 24),
        changed: at(second, 64, 16, 24),
        itself: at(itself, 64, 16, 24),
      };
      lens.dispose();
      return found;
    });
    const near = (wanted: number[], apart: number): unknown[] =>
      wanted.map((part) => expect.closeTo(part, apart) as unknown);
    expect(found.linear).toEqual(near([0.5, 0.25, 0.125, 1], 3));
    expect(found.half).toEqual(near([0.25, 0.125, 0.0625, 0.5], 3));
    expect(found.side).toEqual(BLUE);
    expect(found.otherSide).toEqual([0, 0, 0, 0]);
    expect(found.opaque.map((part, k) => Math.abs(part - [188, 137, 99, 255][k]!) <= 2)).toEqual([
      true,
      true,
      true,
      true,
    ]);
    // Half of that over black, in linear light.
    expect(found.blended.map((part, k) => Math.abs(part - [137, 99, 71, 255][k]!) <= 3)).toEqual([
      true,
      true,
      true,
      true,
    ]);
    expect(found.changed).toEqual(GREEN);
    expect(found.itself).toEqual(GREEN);
  });

  test('a cube of what is around is read by directions, and smaller levels of it are its means', async () => {
    const found = await held.page.evaluate(async () => {
      const { lens, scene, camera, put } = await stage();
      const heard: string[] = [];
      lens.on('message', ({ summary }) => heard.push(summary));
      // A box of its own color on each side of the middle, and three lanes that show one direction each.
      const colors = [
        [1, 0, 0],
        [0.3, 0, 0],
        [0, 1, 0],
        [0, 0.3, 0],
        [0, 0, 1],
        [0, 0, 0.3],
      ];
      const around: Umber.SceneNode[] = colors.map((color, k) => {
        const at = [0, 0, 0];
        at[k >> 1] = (k & 1) === 0 ? 4 : -4;
        return put(color, at, 8, { scale: [1, 1, 1] });
      });
      for (const [k, node] of around.entries())
        node.setMesh([
          {
            geometry: umber.box({
              width: [0.2, 8, 8][k >> 1]!,
              height: [8, 0.2, 8][k >> 1]!,
              depth: [8, 8, 0.2][k >> 1]!,
            }),
            material: node.mesh!.primitives[0]!.material!,
          },
        ]);
      const cube = lens.createTarget({
        width: 16,
        height: 16,
        shape: 'cube',
        format: 'rgba16float',
        levels: true,
      });
      const look = { toneMapping: 'none' } as const;
      umber.drawCube(lens, scene, [0, 0, 0], cube, { look });
      for (const node of around) node.setVisible(false);
      const shader = umber.compileMaterialShader(`
        struct Settings { level: f32, way: vec3f }
        var around: texture_cube<f32>; // data
        var aroundSampler: sampler;
        fn outputColor(s: Settings) -> vec4f { return vec4f(textureSampleLevel(around, aroundSampler, s.way, s.level).rgb, 1); }`);
      const settings: Record<string, unknown> = { level: 0, way: [1, 0, 0], around: cube.texture };
      const screen = scene.createNode({
        mesh: {
          geometry: umber.box({ width: 4, height: 3, depth: 0.1 }),
          material: { shader, settings } as Umber.Material,
        },
      });
      const target = lens.createTarget({ width: 8, height: 6, format: 'rgba16float' });
      const shown = async (): Promise<number[]> => {
        await lens.load(scene);
        lens.draw(scene, camera, { target, look });
        return at(await target.read<Float32Array>(), 8, 4, 3)
          .slice(0, 3)
          .map((part) => Math.round(part * 100) / 100);
      };
      const seen: number[][] = [];
      for (const way of [
        [1, 0, 0],
        [-1, 0, 0],
        [0, 1, 0],
        [0, -1, 0],
        [0, 0, 1],
        [0, 0, -1],
      ]) {
        settings['way'] = way;
        seen.push(await shown());
      }
      settings['level'] = 4;
      const mean = await shown();
      settings['around'] = undefined;
      settings['level'] = 0;
      const none = await shown();
      // A picture is no cube.
      settings['around'] = target.texture;
      await shown();
      screen.remove();
      let refused = '';
      try {
        umber.drawCube(lens, scene, [0, 0, 0], target);
      } catch (error) {
        refused = String(error);
      }
      lens.dispose();
      return { seen, mean, none, heard, refused };
    });
    expect(found.seen).toEqual([
      [1, 0, 0],
      [0.3, 0, 0],
      [0, 1, 0],
      [0, 0.3, 0],
      [0, 0, 1],
      [0, 0, 0.3],
    ]);
    expect(found.mean[2]).toBeCloseTo(0.3, 1);
    expect(found.none).toEqual([0, 0, 0]);
    expect(found.heard.join()).toMatch(/the setting "around" is of shape 2d/);
    expect(found.refused).toMatch(/a target of shape 2d has no six pictures/);
  });

  test('a target tells how far away what was drawn is', async () => {
    const found = await held.page.evaluate(async () => {
      const { lens, scene, put } = await stage({ antialias: true });
      const eye = scene.createNode({
        translation: [0, 0, 10],
        camera: { type: 'perspective', yfov: 0.4, znear: 0.1 },
      });
      put([1, 0, 0], [-0.7, 0, 0]);
      put([1, 0, 0], [0.7, 0, 4]);
      const far = lens.createTarget({ width: 40, height: 30, depth: true });
      await lens.load(scene);
      lens.draw(scene, eye, { target: far });
      const shader = umber.compileEffect(`
        var metres: texture_2d<f32>; // data
        var metresSampler: sampler;
        fn effect(p: Pixel) -> vec4f { return vec4f(vec3f(textureSampleLevel(metres, metresSampler, p.place, 0).r / 20), 1); }`);
      const target = lens.createTarget({ width: 40, height: 30 });
      lens.view.finish = [{ type: 'shader', shader, settings: { metres: far.depth! } }];
      const empty = new umber.Scene();
      await lens.load(empty);
      lens.draw(empty, empty.createNode({ camera: { type: 'perspective', yfov: 0.4, znear: 0.1 } }), {
        target,
      });
      await lens.whenReady();
      lens.draw(empty, [...empty.cameras.keys()][0]!, { target });
      const pixels = await target.read();
      lens.dispose();
      return [
        at(pixels, 40, 15, 15)[0],
        at(pixels, 40, 27, 15)[0],
        at(pixels, 40, 2, 2)[0],
        far.texture === far.depth,
      ];
    });
    // Fronts lie a tenth of a metre before their middles.
    expect(Math.abs((found[0] as number) - (9.9 / 20) * 255)).toBeLessThan(1.5);
    expect(Math.abs((found[1] as number) - (5.9 / 20) * 255)).toBeLessThan(1.5);
    expect(found.slice(2)).toEqual([0, false]);
  });

  test('a reflected camera sees what the mirrored scene would show, cut at the plane', async () => {
    const found = await held.page.evaluate(async () => {
      const { lens, scene, put } = await stage();
      const { planeOf, reflectCamera } = umber;
      const mirror = scene.createNode({
        translation: [0.3, -0.8, -0.5],
        rotation: umber.axisAngle([1, 0.2, 0], -1.3),
      });
      const plane = planeOf(mirror);
      const camera = scene.createNode({
        translation: [1, 1.5, 6],
        rotation: umber.axisAngle([1, 0.2, 0.1], -0.55),
        camera: { type: 'perspective', yfov: 0.4, znear: 0.1 },
      });
      put([1, 0, 0], [0, 0.6, 0], 0.8, { rotation: umber.axisAngle([0, 1, 0], 0.5) });
      put([0, 1, 0], [-0.9, 0.2, 0.6], 0.5);
      // Behind the plane: it is in no reflection.
      const behind = put([0, 0, 1], [0.3, -3, -0.5], 3);
      const reflected = scene.createNode({ name: 'reflected' });
      reflectCamera(reflected, camera, plane);
      const target = lens.createTarget({ width: 80, height: 60 });
      lens.draw(scene, reflected, { target });
      const ours = await target.read();
      // All things reflected by a matrix, and seen by the camera itself.
      const [nx, ny, nz, d] = plane;
      const matrix = [
        ...[1 - 2 * nx * nx, -2 * nx * ny, -2 * nx * nz, 0, -2 * nx * ny, 1 - 2 * ny * ny, -2 * ny * nz, 0],
        ...[-2 * nx * nz, -2 * ny * nz, 1 - 2 * nz * nz, 0, -2 * d * nx, -2 * d * ny, -2 * d * nz, 1],
      ];
      behind.remove();
      const other = scene.createNode({ matrix });
      for (const node of [...scene.meshes.keys()]) node.setParent(other);
      lens.draw(scene, camera, { target });
      const theirs = await target.read();
      let [apart, covered] = [0, 0];
      for (let y = 0; y < 60; y++)
        for (let x = 0; x < 80; x++) {
          const [a, b] = [at(ours, 80, 79 - x, y), at(theirs, 80, x, y)];
          if (b[0]! + b[1]! > 0) covered++;
          if (a.some((part, k) => part !== b[k])) apart++;
        }
      lens.dispose();
      return { apart, covered };
    });
    expect(found.covered).toBeGreaterThan(200);
    // Edges may fall to one pixel or the next.
    expect(found.apart).toBeLessThan(20);
  });

  test('cameras see what is visible to them, and picking goes by it', async () => {
    const found = await held.page.evaluate(async () => {
      const { lens, scene, camera, put } = await stage();
      const roof = scene.createNode({ visibleTo: 0b01 });
      put([1, 0, 0], [0, 0, 1], 1, { parent: roof, name: 'roof' });
      put([0, 1, 0], [0, 0, 0], 1, { name: 'floor' });
      const target = lens.createTarget({ width: 80, height: 60 });
      const seen = async (sees: number | undefined): Promise<[number[], string | undefined]> => {
        camera.setCamera({
          type: 'orthographic',
          xmag: 2,
          ymag: 1.5,
          znear: 0.1,
          zfar: 20,
          ...(sees === undefined ? {} : { sees }),
        });
        lens.draw(scene, camera, { target });
        const size = { width: 80, height: 60 };
        const hit = await lens.pick(scene, camera, 40, 30, { size });
        return [at(await target.read(), 80, 40, 30), hit?.node.name];
      };
      const found = [await seen(undefined), await seen(0b10), await seen(0b11), await seen(0b01)];
      roof.visibleTo = 0xffffffff;
      found.push(await seen(0b10));
      lens.dispose();
      return found;
    });
    expect(found).toEqual([
      [RED, 'roof'],
      [GREEN, 'floor'],
      [RED, 'roof'],
      [RED, 'roof'],
      [RED, 'roof'],
    ]);
  });

  test('a snapshot is the last picture as a file, with its alpha, at any size', async () => {
    const found = await held.page.evaluate(async () => {
      const { lens, scene, camera, put } = await stage();
      scene.clearColor = [0, 0, 0, 0];
      put([0.5, 0.25, 0.125, 0.5], [0, 0, 0], 2);
      const none = await lens.snapshot().catch((error: unknown) => String(error));
      lens.draw(scene, camera, { target: lens.createTarget({ width: 40, height: 30 }) });
      const blob = await lens.snapshot({ width: 80 });
      const bitmap = await createImageBitmap(blob, { premultiplyAlpha: 'none' });
      const canvas = new OffscreenCanvas(bitmap.width, bitmap.height);
      const context = canvas.getContext('2d')!;
      context.drawImage(bitmap, 0, 0);
      const { data } = context.getImageData(0, 0, bitmap.width, bitmap.height);
      const found = {
        none,
        type: blob.type,
        size: [bitmap.width, bitmap.height],
        middle: [...data.subarray((30 * 80 + 40) * 4, (30 * 80 + 40) * 4 + 4)],
        corner: [...data.subarray(0, 4)],
      };
      lens.dispose();
      return found;
    });
    expect(found).toMatchObject({ type: 'image/png', size: [80, 60], corner: [0, 0, 0, 0] });
    expect(found.none).toContain('nothing was drawn yet');
    expect(found.middle.map((part, k) => Math.abs(part - [188, 137, 99, 128][k]!) <= 2)).toEqual([
      true,
      true,
      true,
      true,
    ]);
  });

  test('what cannot be drawn into is refused, with what there is', async () => {
    const found = await held.page.evaluate(async () => {
      const { lens, scene, camera } = await stage();
      const target = lens.createTarget({ width: 40, height: 30 });
      const said = [
        { viewport: { x: 30, y: 0, width: 20, height: 20 } },
        { viewport: { x: 0, y: 0, width: 0, height: 20 } },
        { scissor: { x: Number.NaN, y: 0, width: 1, height: 20 } },
        { layer: 2 },
      ].map((part) => {
        try {
          lens.draw(scene, camera, { target, ...part });
          return 'drawn';
        } catch (error) {
          return String(error);
        }
      });
      lens.dispose();
      return said;
    });
    expect(found).toEqual([
      expect.stringContaining('the viewport is not within the target of 40 x 30 pixels'),
      expect.stringContaining('a viewport of 0 x 20 at 0, 0 shows nothing'),
      expect.stringContaining('a scissor of 1 x 20 at NaN, 0 shows nothing'),
      expect.stringContaining('the target has no layer 2'),
    ]);
  });
});
