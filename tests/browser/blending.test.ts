import type * as Umber from 'umber-lens';
import type { Backend, Material, RenderPath } from 'umber-lens';
import { testPage } from './stage.js';

/** Things before the camera, by the order in which they are made: a color, metres towards it, and more of their material. */
type Thing = [color: number[], z: number, more?: Material];

type Given = [things: Thing[], clear: number[], renderPath: RenderPath];

/** The linear color of the middle of their picture, on nothing but `clear`. */
async function middle([things, clear, renderPath]: Given): Promise<number[]> {
  const { box, Scene } = umber;
  const lens = await keptLens({ antialias: false });
  lens.view.renderPath = renderPath;
  const target = lens.createTarget({ width: 8, height: 8, format: 'rgba16float' });
  const scene = new Scene({ clearColor: clear });
  for (const [color, z, more] of things)
    scene.createNode({
      translation: [0, 0, z],
      mesh: {
        geometry: box({ width: 2, height: 2, depth: 0.5 }),
        material: { unlit: true, baseColorFactor: color as [number, number, number, number], ...more },
      },
    });
  const camera = scene.createNode({
    translation: [0, 0, 10],
    camera: { type: 'orthographic', xmag: 0.5, ymag: 0.5, znear: 0.1, zfar: 20 },
  });
  await lens.load(scene);
  lens.draw(scene, camera, { target });
  const pixels = await target.read<Float32Array>();
  target.dispose();
  return [...pixels.slice((4 * 8 + 4) * 4, (4 * 8 + 4) * 4 + 4)];
}

const [S, D] = [
  [0.5, 0.25, 0.75, 0.5],
  [0.25, 0.5, 0.125, 1],
];
const mixed = (by: (s: number, d: number) => number): number[] =>
  S.slice(0, 3).map((part, k) => by(part, D[k]!));

describe.each<Backend>(['webgl2', 'webgpu'])('states of materials on %s', (backend) => {
  const held = testPage({ as: backend });
  const drawn = (things: Thing[], clear = [0, 0, 0, 1], path: RenderPath = 'forward'): Promise<number[]> =>
    held.page.evaluate(middle, [things, clear, path] satisfies Given as Given);
  const close = (wanted: number[]): unknown[] => wanted.map((part) => expect.closeTo(part, 2) as unknown);

  test.each<[Material['blend'], number[]]>([
    ['over', mixed((s, d) => s * 0.5 + d * 0.5)],
    ['add', mixed((s, d) => s * 0.5 + d)],
    ['multiply', mixed((s, d) => s * 0.5 * d + d * 0.5)],
    ['screen', mixed((s, d) => s * 0.5 + d * (1 - s * 0.5))],
    // Without a texture or a hook nothing is multiplied yet.
    ['premultiplied', mixed((s, d) => s * 0.5 + d * 0.5)],
    [{ color: { srcFactor: 'zero', dstFactor: 'src' } }, mixed((s, d) => d * s * 0.5)],
    [
      { color: { srcFactor: 'one', dstFactor: 'one', operation: 'max' } },
      mixed((s, d) => Math.max(s * 0.5, d)),
    ],
  ])('blend %j', async (blend, wanted) => {
    const found = await drawn([
      [D, -1],
      [S, 0, { blend: blend! }],
    ]);
    expect(found.slice(0, 3)).toEqual(close(wanted));
  });

  test('what lights what is there leaves its alpha, and a page shows through', async () => {
    expect(await drawn([[S, 0, { blend: 'add' }]], [0, 0, 0, 0])).toEqual(close([0.25, 0.125, 0.375, 0]));
  });

  // The paths are the same on both: one interface draws them all.
  test.each<RenderPath>(backend === 'webgl2' ? ['forward', 'prepass', 'deferred'] : ['forward'])(
    'depths, faces, masks and orders, drawn %s',
    async (path) => {
      const [red, green] = [
        [1, 0, 0, 1],
        [0, 1, 0, 1],
      ];
      const color = async (things: Thing[]): Promise<number[]> =>
        (await drawn(things, [0, 0, 0, 1], path)).slice(0, 3);
      // Seen through whatever hides it: last, whatever is there.
      const always: Material = { depthCompare: 'always', drawOrder: 1 };
      expect(
        await color([
          [green, -1, always],
          [red, 1],
        ]),
      ).toEqual([0, 1, 0]);
      // It hides nothing: what comes later and lies behind it is seen.
      expect(
        await color([
          [red, 1, { depthWrite: false, drawOrder: -1 }],
          [green, -1],
        ]),
      ).toEqual([0, 1, 0]);
      // First and last among what is as near.
      expect(
        await color([
          [green, 0, { drawOrder: 1 }],
          [red, 0],
        ]),
      ).toEqual([0, 1, 0]);
      expect(
        await color([
          [green, 0, { drawOrder: -1 }],
          [red, 0],
        ]),
      ).toEqual([1, 0, 0]);
      // Depth alone: a hole in what lies behind.
      expect(
        await color([
          [red, 1, { writeMask: 0, drawOrder: -1 }],
          [green, -1],
        ]),
      ).toEqual([0, 0, 0]);
      expect(await color([[[1, 1, 1, 1], 1, { writeMask: 5 }]])).toEqual([1, 0, 1]);
      // Of the nearer one the inside is seen, which is behind the other.
      expect(
        await color([
          [red, 0.1, { cullMode: 'front' }],
          [green, 0],
        ]),
      ).toEqual([0, 1, 0]);
      expect(
        await color([
          [green, 0, { depthBias: 1 << 18 }],
          [red, 0.01],
        ]),
      ).toEqual([0, 1, 0]);
    },
  );

  test('what is blended goes by its order before its distance', async () => {
    const half = (r: number, g: number): number[] => [r, g, 0, 0.5];
    const things = (far: Material, near: Material): Thing[] => [
      [half(1, 0), -1, { alphaMode: 'blend', ...far }],
      [half(0, 1), 1, { alphaMode: 'blend', ...near }],
    ];
    expect((await drawn(things({}, {}))).slice(0, 2)).toEqual(close([0.25, 0.5]));
    expect((await drawn(things({ drawOrder: 1, depthCompare: 'always' }, {}))).slice(0, 2)).toEqual(
      close([0.5, 0.25]),
    );
    expect((await drawn(things({}, { drawOrder: -8 }))).slice(0, 2)).toEqual(close([0.5, 0.25]));
  });

  test('states may be written to at any time, and a wrong word is told, with the thing drawn marked', async () => {
    const found = await held.page.evaluate(async () => {
      const { box, openLens, Scene } = umber;
      const heard: string[] = [];
      const lens = await openLens(undefined, {
        antialias: false,
        onMessage: ({ summary }) => void heard.push(summary),
      });
      const target = lens.createTarget({ width: 8, height: 8 });
      const scene = new Scene({ clearColor: [0, 0, 1, 1] });
      const material: Umber.Material = { unlit: true, baseColorFactor: [1, 0, 0, 1] };
      scene.createNode({ mesh: { geometry: box({ width: 4, height: 4 }), material } });
      const camera = scene.createNode({
        translation: [0, 0, 4],
        camera: { type: 'orthographic', xmag: 1, ymag: 1, znear: 0.1, zfar: 20 },
      });
      const color = async (): Promise<number[]> => {
        await lens.load(scene);
        lens.draw(scene, camera, { target });
        return [...(await target.read()).slice(0, 3)];
      };
      const found: unknown[] = [await color()];
      material.blend = 'add';
      found.push(await color());
      delete material.blend;
      found.push(await color());
      material.blend = { color: { srcFactor: 'all' } };
      found.push(await color());
      material.blend = { color: { srcFactor: 'one', dstFactor: 'one' } };
      for (let i = 0; i < 70; i++) await color();
      found.push(await color());
      lens.dispose();
      return { found, heard };
    });
    expect(found.found).toEqual([
      [255, 0, 0],
      [255, 0, 255],
      [255, 0, 0],
      [255, expect.any(Number), 0],
      [255, 0, 255],
    ]);
    expect(found.heard).toEqual([expect.stringContaining('there is no factor "all" of blending')]);
  });
});
