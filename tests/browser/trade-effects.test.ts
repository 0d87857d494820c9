import type * as Umber from 'umber-lens';
import type { Backend, Effect } from 'umber-lens';
import { testPage } from './stage.js';

interface Given {
  effects: Effect[][];
  /** Boxes before the camera: a linear color, and where: left, bottom, width, height in metres of 4 x 3. */
  boxes: [color: number[], at: number[], turn?: number][];
  clear?: number[];
  antialias?: boolean;
  /** Whether linear light is read. */
  isLight?: boolean;
  size?: [number, number];
}

/** The picture without effects, and with each list. */
async function pictures(given: Given): Promise<number[][]> {
  const { box, Scene } = umber;
  const {
    antialias = false,
    clear = [0, 0, 0, 1],
    isLight = false,
    size: [width, height] = [80, 60],
  } = given;
  const lens = await keptLens({ antialias });
  const target = lens.createTarget({ width, height, ...(isLight ? { format: 'rgba16float' as const } : {}) });
  const scene = new Scene({ clearColor: clear });
  for (const [[r, g, b], [x, y, w, h], turn = 0] of given.boxes)
    scene.createNode({
      translation: [x! + w! / 2, y! + h! / 2, 0],
      rotation: umber.axisAngle([0, 0, 1], turn),
      mesh: {
        geometry: box({ width: w!, height: h!, depth: 0.1 }),
        material: {
          baseColorFactor: [0, 0, 0, 1],
          metallicFactor: 0,
          specularFactor: 0,
          emissiveFactor: [r!, g!, b!],
        },
      },
    });
  const camera = scene.createNode({
    translation: [2, 1.5, 10],
    camera: { type: 'orthographic', xmag: 2, ymag: 1.5, znear: 0.1, zfar: 20 },
  });
  const found: number[][] = [];
  for (const list of [[], ...given.effects]) {
    lens.view.finish = list;
    await lens.load(scene);
    lens.draw(scene, camera, { target });
    found.push([...(await target.read<Umber.TypedNumbers>())]);
  }
  target.dispose();
  return found;
}

const at = (pixels: number[], x: number, y: number, width = 80): number[] =>
  pixels.slice((y * width + x) * 4, (y * width + x) * 4 + 4);
/** Radiance that the soft curve shows so. */
const light = (shown: number): number =>
  shown < 0.76 ? shown : 0.52 + 0.0576 / (1 - Math.min(shown, 0.9996));
const WHITE_BOX: Given['boxes'] = [
  [
    [0.5, 0.5, 0.5],
    [1, 0.75, 2, 1.5],
  ],
];

describe.each<Backend>(['webgl2', 'webgpu'])('effects of the trade on %s', (backend) => {
  const held = testPage({ as: backend });
  const drawn = (given: Given): Promise<number[][]> => held.page.evaluate(pictures, given);

  test('bloom spreads light and loses none; what is not spread is as it was', async () => {
    const [plain, none, some, all, cut] = (await drawn({
      boxes: [
        [
          [1.5, 1, 0.6], // nearer to white half floats tell light apart less well
          [1.8, 1.3, 0.4, 0.4],
        ],
        [
          [0.3, 0.3, 0.3],
          [1.2, 1.3, 0.3, 0.3],
        ],
      ],
      effects: [
        [{ type: 'bloom', amount: 0 }],
        [{ type: 'bloom', amount: 0.2, spread: 0.4 }],
        [{ type: 'bloom', amount: 1, spread: 0.4 }],
        [{ type: 'bloom', amount: 0.2, spread: 0.4, threshold: 1 }],
      ],
      isLight: true,
      size: [128, 96],
    })) as [number[], number[], number[], number[], number[]];
    const sum = (pixels: number[], channel: number): number =>
      pixels.reduce((total, value, i) => (i % 4 === channel ? total + light(value) : total), 0);
    for (const channel of [0, 1, 2])
      for (const pixels of [none, some, all])
        expect(Math.abs(sum(pixels, channel) / sum(plain, channel) - 1)).toBeLessThan(0.02);
    // Beside the lamp it is lit, the farther the less.
    const beside = (pixels: number[], away: number): number => at(pixels, 70 + away, 48, 128)[0]!;
    expect(beside(plain, 4)).toBe(0);
    expect(beside(some, 4)).toBeGreaterThan(beside(some, 12));
    expect(beside(some, 12)).toBeGreaterThan(0.001);
    expect(Math.max(...none.map((value, i) => Math.abs(value - plain[i]!)))).toBeLessThan(0.004);
    // What is darker than the threshold keeps its light.
    const [grey, greyOfCut] = [at(plain, 43, 49, 128), at(cut, 43, 49, 128)];
    expect(greyOfCut[0]).toBeGreaterThanOrEqual(grey[0]!);
  });

  test('sharpening leaves what is even, and lets edges stand out by a little', async () => {
    const [plain, sharp] = (await drawn({
      boxes: WHITE_BOX,
      clear: [0.1, 0.1, 0.1, 1],
      effects: [[{ type: 'sharpen', amount: 1 }]],
    })) as [number[], number[]];
    expect(at(sharp, 40, 30)).toEqual(at(plain, 40, 30));
    expect(at(sharp, 5, 5)).toEqual(at(plain, 5, 5));
    const row = Array.from({ length: 80 }, (_, x) => at(sharp, x, 30)[0]!);
    expect(Math.max(...row)).toBeGreaterThan(at(plain, 40, 30)[0]!);
    expect(Math.min(...row)).toBeLessThan(at(plain, 5, 30)[0]!);
  });

  test('fringes grow from the middle outwards, red to one side and blue to the other', async () => {
    const [, fringed] = (await drawn({
      boxes: [
        [
          [0.7, 0.7, 0.7],
          [0.5, 0.5, 3, 2],
        ],
      ],
      effects: [[{ type: 'chromatic-aberration', amount: 8 }]],
    })) as [number[], number[]];
    const first = (channel: number): number =>
      Array.from({ length: 80 }, (_, x) => at(fringed, x, 30)[channel]!).findIndex((value) => value > 90);
    // Of 8 pixels at the corner, 50 pixels away: 30 pixels away it is 4.8 between red and blue.
    expect(first(2) - first(0)).toBeGreaterThanOrEqual(4);
    expect(first(2) - first(0)).toBeLessThanOrEqual(6);
    expect(first(1) - first(0)).toBeGreaterThanOrEqual(1);
    const middle = at(fringed, 40, 30);
    expect(middle[0]).toBe(middle[2]);
  });

  test('a lens bends what is beside the middle, and the picture stays full', async () => {
    const boxes: Given['boxes'] = [
      [
        [0.7, 0.7, 0.7],
        [0, 0, 4, 3],
      ],
      [
        [0.7, 0, 0],
        [1.95, 0, 0.1, 3],
      ],
      [
        [0, 0.7, 0],
        [0.4, 0, 0.1, 3],
      ],
    ];
    const [plain, barrel, cushion] = (await drawn({
      boxes,
      effects: [[{ type: 'lens-distortion', amount: 0.3 }], [{ type: 'lens-distortion', amount: -0.2 }]],
    })) as [number[], number[], number[]];
    for (const pixels of [barrel, cushion])
      for (const corner of [at(pixels, 0, 0), at(pixels, 79, 0), at(pixels, 0, 59), at(pixels, 79, 59)])
        expect(corner[3]).toBe(255);
    // The middle line stays where it is; the one beside it bends.
    const green = (pixels: number[], y: number): number =>
      Array.from({ length: 80 }, (_, x) => at(pixels, x, y)).findIndex(([r, g]) => g! > 150 && r! < 100);
    expect(at(barrel, 40, 5)[1]).toBeLessThan(120);
    expect(green(plain, 2)).toBe(green(plain, 30));
    expect(green(barrel, 2)).toBeGreaterThan(green(barrel, 30));
    expect(green(cushion, 2)).toBeLessThan(green(cushion, 30));
  });

  test('grain leaves black and white alone, keeps the mean and is another in each frame', async () => {
    const [plain, one, other] = (await drawn({
      boxes: [
        [
          [0.2, 0.2, 0.2],
          [0, 0, 4, 2],
        ],
      ],
      effects: [[{ type: 'film-grain', amount: 0.1 }], [{ type: 'film-grain', amount: 0.1 }]],
    })) as [number[], number[], number[]];
    const rows = (pixels: number[]): number[] => pixels.slice(80 * 30 * 4).filter((_, i) => i % 4 === 0);
    const mean = (values: number[]): number => values.reduce((sum, value) => sum + value, 0) / values.length;
    expect(Math.abs(mean(rows(one)) - mean(rows(plain)))).toBeLessThan(1.5);
    const spread = Math.sqrt(mean(rows(one).map((value) => (value - mean(rows(one))) ** 2)));
    expect(spread).toBeGreaterThan(4);
    expect(at(one, 40, 5)).toEqual(at(plain, 40, 5));
    expect(rows(one)).not.toEqual(rows(other));
  });

  test('tables grade colors: one that changes nothing, one that exchanges channels, between entries', async () => {
    const table = (by: (r: number, g: number, b: number) => number[]): Umber.ColorTable => ({
      size: 5,
      colors: Array.from({ length: 125 }, (_, i) =>
        by((i % 5) / 4, (Math.floor(i / 5) % 5) / 4, Math.floor(i / 25) / 4),
      ).flat(),
    });
    const [plain, same, swapped, half] = (await drawn({
      boxes: [
        [
          [0.7, 0.1, 0.02],
          [0, 0, 2, 3],
        ],
        [
          [0.05, 0.3, 0.6],
          [2, 0, 2, 3],
        ],
      ],
      effects: [
        [{ type: 'lut', table: table((r, g, b) => [r, g, b]) }],
        [{ type: 'lut', table: table((r, g, b) => [b, g, r]) }],
        [{ type: 'lut', amount: 0.5, table: table(() => [0, 0, 0]) }],
      ],
    })) as [number[], number[], number[], number[]];
    for (const x of [20, 60]) {
      const [r, g, b] = at(plain, x, 30) as [number, number, number, number];
      const near = (wanted: number[], got: number[]): void =>
        wanted.forEach((part, k) => expect(Math.abs(part - got[k]!)).toBeLessThanOrEqual(1));
      near([r, g, b], at(same, x, 30));
      near([b, g, r], at(swapped, x, 30));
      near([r / 2, g / 2, b / 2], at(half, x, 30));
    }
  });

  test('edges without steps: nearer to what many samples give', async () => {
    const boxes: Given['boxes'] = [[[0.6, 0.6, 0.6], [1, 0.75, 2, 1.5], 0.12]];
    const [plain, smooth] = (await drawn({ boxes, effects: [[{ type: 'smooth-edges' }]] })) as [
      number[],
      number[],
    ];
    const [sampled] = (await drawn({ boxes, effects: [], antialias: true })) as [number[]];
    const apart = (pixels: number[]): number =>
      pixels.reduce((sum, value, i) => sum + Math.abs(value - sampled[i]!), 0);
    expect(apart(smooth)).toBeLessThan(apart(plain) * 0.7);
    expect(at(smooth, 40, 30)).toEqual(at(plain, 40, 30));
  });

  test("a lens's discs are as large as its formula says, and what is in focus is sharp", async () => {
    const found = await held.page.evaluate(async () => {
      const { box, openLens, Scene } = umber;
      const lens = await openLens(undefined, { antialias: false, onMessage: () => undefined });
      const [width, height] = [160, 120];
      const target = lens.createTarget({ width, height, format: 'rgba16float' });
      const scene = new Scene({ clearColor: [0, 0, 0, 1] });
      const camera = scene.createNode({ camera: { type: 'perspective', yfov: 0.6, znear: 0.1 } });
      // Single pixels of light, near by and far away, side by side.
      const dot = (x: number, z: number): Umber.SceneNode => {
        const size = (2 * z * Math.tan(0.3)) / height;
        return scene.createNode({
          translation: [x * size, 0, -z],
          mesh: {
            geometry: box({ width: size * 1.9, height: size * 1.9, depth: 0.001 }),
            material: { unlit: true, baseColorFactor: [0.7, 0.7, 0.7, 1] },
          },
        });
      };
      const near = dot(-40, 2);
      dot(0, 4);
      dot(40, 12);
      const radii = async (focus: number | Umber.SceneNode): Promise<number[]> => {
        lens.view.finish = [{ type: 'depth-of-field', focus, fStop: 0.5, sensorHeight: 0.05, maxRadius: 30 }];
        await lens.load(scene);
        lens.draw(scene, camera, { target });
        const pixels = await target.read<Float32Array>();
        return [40, 80, 120].map((middle) => {
          let most = 0;
          for (let y = 0; y < height; y++)
            for (let x = middle - 19; x <= middle + 19; x++)
              if (pixels[(y * width + x) * 4]! > 2e-4)
                most = Math.max(most, Math.hypot(x + 0.5 - middle, y + 0.5 - height / 2));
          return most;
        });
      };
      const found = [await radii(4), await radii(near)];
      lens.dispose();
      return found;
    });
    const radius = (distance: number, focus: number): number => {
      const f = 0.05 / 2 / Math.tan(0.3);
      return ((((f * f) / 0.5 / (focus - f)) * Math.abs(distance - focus)) / distance / 0.05 / 2) * 120;
    };
    [4, 2].forEach((focus, row) =>
      [2, 4, 12].forEach((distance, k) => {
        // The dot itself is two pixels wide.
        expect(Math.abs(found[row]![k]! - radius(distance, focus) - 0.7)).toBeLessThan(1.3);
      }),
    );
  });
});
