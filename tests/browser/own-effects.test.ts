import type * as Umber from 'umber-lens';
import type { Backend } from 'umber-lens';
import { testPage } from './stage.js';

interface Stage {
  lens: Umber.Lens;
  scene: Umber.Scene;
  camera: Umber.SceneNode;
  target: Umber.RenderTarget;
  box: Umber.SceneNode;
  read: (x: number, y: number) => Promise<number[]>;
}

/** Made in the page: a red box at distance 4 in the left half of a picture of 80 x 60, and nothing else. */
const STAGE = `globalThis.stage = async (options = {}) => {
  const { box, openLens, Scene } = umber;
  const heard = [];
  const lens = await openLens(undefined, { antialias: options.antialias ?? false, onMessage: ({ summary }) => heard.push(summary) });
  const scene = new Scene({ clearColor: [0, 0, 0, 1] });
  const node = scene.createNode({ translation: [-1.5, 0, 0], mesh: { geometry: box({ width: 2, height: 2, depth: 2 }), material: { unlit: true, baseColorFactor: [1, 0, 0, 1] } } });
  const camera = scene.createNode({ translation: [0, 0, 5], camera: options.camera ?? { type: 'perspective', yfov: 0.8, znear: 0.1 } });
  const target = lens.createTarget({ width: 80, height: 60 });
  const read = async (x, y) => {
    await lens.load(scene);
    lens.draw(scene, camera, { target });
    const pixels = await target.read();
    return [...pixels.subarray((y * 80 + x) * 4, (y * 80 + x) * 4 + 4)];
  };
  return { lens, scene, camera, target, box: node, read, heard };
};`;

declare const stage: (options?: {
  antialias?: boolean;
  camera?: Umber.Camera;
}) => Promise<Stage & { heard: string[] }>;

describe.each<Backend>(['webgl2', 'webgpu'])("effects of one's own on %s", (backend) => {
  const held = testPage({ as: backend });
  beforeAll(() => held.page.evaluate(STAGE));

  test('colors, places, settings and textures, written to at any frame', async () => {
    const found = await held.page.evaluate(async () => {
      const { lens, read } = await stage();
      const shader = umber.compileEffect(`
        struct Settings {
          amount: f32, // 0..1 = 0.5   how much
          shift: vec2f,
        }
        // Lies over everything.
        var tint: texture_2d<f32>;
        var tintSampler: sampler;
        fn effect(p: Pixel, s: Settings) -> vec4f {
          if p.position.y < 20 { return vec4f(p.place, 0, 1); }
          if p.position.y < 30 { return textureSampleLevel(tint, tintSampler, p.place, 0); }
          let c = colorAt(p.place + s.shift);
          return vec4f(mix(c.rgb, 1 - c.rgb, s.amount), 1);
        }`);
      const settings: Record<string, number | number[] | object> = { shift: [0, 0] };
      lens.view.finish = [{ type: 'shader', shader, settings: settings as never }];
      const found: Record<string, number[]> = { place: await read(60, 10) };
      found['half'] = await read(20, 40);
      settings['amount'] = 1;
      found['inverted'] = await read(20, 40);
      settings['shift'] = [-0.5, 0];
      found['shifted'] = await read(60, 40);
      settings['tint'] = {
        image: { content: { kind: 'pixels', width: 1, height: 1, data: new Uint8Array([0, 0, 255, 255]) } },
      };
      found['texture'] = await read(20, 25);
      lens.dispose();
      return found;
    });
    expect(found['place']!.map((part, k) => Math.abs(part - [193, 45, 0, 255][k]!) <= 1)).toEqual([
      true,
      true,
      true,
      true,
    ]);
    expect(found['half']!.map((part) => Math.abs(part - 128) <= 1)).toEqual([true, true, true, false]);
    expect(found['inverted']).toEqual([0, 255, 255, 255]);
    expect(found['shifted']).toEqual([0, 255, 255, 255]);
    expect(found['texture']).toEqual([0, 0, 255, 255]);
  });

  test.each([true, false])(
    'distances in metres, of both kinds of cameras (antialiased: %s)',
    async (antialias) => {
      const found = await held.page.evaluate(async (smooth) => {
        const text = `fn effect(p: Pixel) -> vec4f {
        let d = distanceAt(p.place);
        return vec4f(saturate(d / 10), select(0.0, 1.0, d > 1000), depthAt(p.place), 1);
      }`;
        const shader = umber.compileEffect(text);
        const found: number[][] = [];
        for (const camera of [
          { type: 'perspective', yfov: 0.8, znear: 0.1 },
          { type: 'perspective', yfov: 0.8, znear: 0.1, zfar: 50 },
          { type: 'orthographic', xmag: 2.5, ymag: 2, znear: 0.1, zfar: 50 },
        ] as Umber.Camera[]) {
          const { lens, read } = await stage({ antialias: smooth, camera });
          lens.view.finish = [{ type: 'shader', shader }];
          found.push(await read(16, 30), await read(70, 30));
          lens.dispose();
        }
        return found;
      }, antialias);
      // The box's face is 4 metres away.
      for (const i of [0, 2, 4]) {
        expect(Math.abs(found[i]![0]! - 102)).toBeLessThanOrEqual(1);
        expect(found[i]![1]).toBe(0);
        expect(found[i]![2]).toBeGreaterThan(0);
        expect(found[i + 1]!.slice(0, 3)).toEqual([255, 255, 0]);
      }
    },
  );

  test('what it made of the frame before, and another picture of its list', async () => {
    const found = await held.page.evaluate(async () => {
      const { lens, box, read } = await stage();
      const trail = umber.compileEffect(
        'fn effect(p: Pixel) -> vec4f { return max(p.color, beforeAt(p.place) * 0.5); }',
      );
      lens.view.finish = [{ type: 'shader', shader: trail }];
      const found: Record<string, number[]> = { first: await read(20, 30) };
      box.setTranslation(100, 0, 0);
      found['half'] = await read(20, 30);
      found['quarter'] = await read(20, 30);
      box.setTranslation(-1.5, 0, 0);
      const both = umber.compileEffect(
        'fn effect(p: Pixel) -> vec4f { return vec4f(p.color.r, secondAt(p.place).g, secondAt(p.place).b, 1); }',
      );
      lens.view.finish = [
        { type: 'invert', result: 'inverted' },
        { type: 'shader', shader: both, in: 'SourceGraphic', in2: 'inverted' },
      ];
      found['both'] = await read(20, 30);
      lens.dispose();
      return found;
    });
    expect(found['first']).toEqual([255, 0, 0, 255]);
    expect(Math.abs(found['half']![0]! - 128)).toBeLessThanOrEqual(1);
    expect(Math.abs(found['quarter']![0]! - 64)).toBeLessThanOrEqual(1);
    expect(found['both']).toEqual([255, 255, 255, 255]);
  });

  test('on a node it knows the node alone: its places, its distances, its alpha', async () => {
    const found = await held.page.evaluate(async () => {
      const { lens, box, read } = await stage();
      const shader = umber.compileEffect(`fn effect(p: Pixel) -> vec4f {
        return vec4f(p.place.x, select(0.0, 1.0, distanceAt(p.place) < 4.1), 0, p.color.a * 0.5);
      }`);
      box.effects = [{ type: 'shader', shader }];
      const found = { left: await read(8, 30), right: await read(24, 30), beside: await read(60, 30) };
      lens.dispose();
      return found;
    });
    expect(found.left[0]).toBeLessThan(found.right[0]!);
    // Green at half, over black, in linear light.
    expect(Math.abs(found.left[1]! - 188)).toBeLessThanOrEqual(2);
    expect(found.beside).toEqual([0, 0, 0, 255]);
  });

  test('what is no effect is told, and the picture is drawn', async () => {
    const found = await held.page.evaluate(async () => {
      const { lens, read, heard } = await stage();
      const shader = umber.compileMaterialShader(
        'fn surface(p: Fragment) -> Surface { return surfaceDefaults(p); }',
      );
      lens.view.finish = [{ type: 'shader', shader }, { type: 'invert' }];
      const color = await read(20, 30);
      lens.dispose();
      return { color, heard };
    });
    expect(found.color).toEqual([0, 255, 255, 255]);
    expect(found.heard).toEqual([
      expect.stringContaining('the shader of effect 1 of lens.view.finish has no hook "effect"'),
    ]);
  });
});
