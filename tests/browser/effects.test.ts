import type * as Umber from 'umber-lens';
import type { Backend, BlendMode, Effect } from 'umber-lens';
import { testPage } from './stage.js';

/** How far two pictures lie apart, of 255, alpha multiplied in: the largest, and the mean. */
interface Difference {
  largest: number;
  mean: number;
  at: number[];
}

/** The interface, lists of effects, and how many pixels at the edges do not count. */
type Given = [backend: Backend, lists: Effect[][], margin: number];

/** Things in flat colors on nothing, some of them half transparent, drawn with effects; and the same through the browser's own filters. */
function compared([backend, lists, margin]: Given): Promise<Difference[]> {
  const { box, openLens, plane, Scene, sphere } = umber;
  const [width, height] = [120, 90];
  const scene = new Scene({ clearColor: [0, 0, 0, 0] });
  const flat = (baseColorFactor: [number, number, number, number]): Umber.Material => ({
    unlit: true,
    doubleSided: true,
    baseColorFactor,
    ...(baseColorFactor[3] < 1 ? { alphaMode: 'blend' as const } : {}),
  });
  const add = (geometry: Umber.Geometry, color: [number, number, number, number], at: number[]): void =>
    void scene.createNode({ translation: at, mesh: { geometry, material: flat(color) } });
  add(box(), [0.9, 0.05, 0.02, 1], [-1.1, 0.3, 0]);
  add(sphere({ radius: 0.6 }), [0.05, 0.5, 0.1, 1], [0.3, 0.1, 0]);
  add(box(), [0.1, 0.2, 0.9, 0.5], [1, -0.2, 0.4]);
  add(plane({ width: 6, depth: 1 }), [0.8, 0.7, 0.2, 1], [0, -0.8, 0]);
  const camera = scene.createNode({
    translation: [0, 0.6, 4],
    rotation: umber.axisAngle([1, 0, 0], -0.12),
    camera: { type: 'perspective', yfov: 0.7, znear: 0.1 },
  });

  const across = (given: number | readonly number[]): string =>
    typeof given === 'number' ? `${given}` : given.join(' ');
  const css = (effect: Umber.Effect): string | undefined => {
    if (effect.colorInterpolation === 'linearRGB') return undefined;
    switch (effect.type) {
      case 'blur':
        return typeof effect.stdDeviation === 'number' ? `blur(${effect.stdDeviation}px)` : undefined;
      case 'hue-rotate':
        return `hue-rotate(${effect.angle ?? 0}rad)`;
      case 'drop-shadow': {
        const { offset = [2, 2], stdDeviation = 2, color = [0, 0, 0, 1] } = effect;
        const [r, g, b, a] = color;
        if (typeof stdDeviation !== 'number') return undefined;
        return `drop-shadow(${offset[0]}px ${offset[1]}px ${stdDeviation}px rgba(${r * 255}, ${g * 255}, ${b * 255}, ${a}))`;
      }
      case 'brightness':
      case 'contrast':
      case 'grayscale':
      case 'invert':
      case 'opacity':
      case 'saturate':
      case 'sepia':
        return `${effect.type}(${effect.amount ?? 1})`;
      default:
        return undefined;
    }
  };
  const transfer = (name: string, fn?: Umber.TransferFunction): string => {
    if (!fn) return '';
    const rest = Object.entries(fn)
      .filter(([key]) => key !== 'type')
      .map(([key, value]) => `${key}="${Array.isArray(value) ? value.join(' ') : String(value)}"`);
    return `<feFunc${name} type="${fn.type}" ${rest.join(' ')}/>`;
  };
  const svg = (effect: Umber.Effect): string => {
    switch (effect.type) {
      case 'blur':
        return `<feGaussianBlur stdDeviation="${across(effect.stdDeviation)}"/>`;
      case 'color-matrix':
        return `<feColorMatrix type="matrix" values="${[...(effect.values as number[])].join(' ')}"/>`;
      case 'hue-rotate':
        return `<feColorMatrix type="hueRotate" values="${((effect.angle ?? 0) * 180) / Math.PI}"/>`;
      case 'saturate':
        return `<feColorMatrix type="saturate" values="${effect.amount ?? 1}"/>`;
      case 'component-transfer':
        return `<feComponentTransfer>${transfer('R', effect.red)}${transfer('G', effect.green)}${transfer('B', effect.blue)}${transfer('A', effect.alpha)}</feComponentTransfer>`;
      case 'offset':
        return `<feOffset dx="${effect.dx ?? 0}" dy="${effect.dy ?? 0}"/>`;
      case 'morphology':
        return `<feMorphology operator="${effect.operator ?? 'erode'}" radius="${across(effect.radius ?? 0)}"/>`;
      case 'convolve': {
        const { order = 3, kernelMatrix, divisor, bias, targetX, targetY, edgeMode, preserveAlpha } = effect;
        const given = { divisor, bias, targetX, targetY, edgeMode, preserveAlpha };
        const rest = Object.entries(given).flatMap(([key, value]) =>
          value === undefined ? [] : [`${key}="${String(value)}"`],
        );
        return `<feConvolveMatrix order="${across(order)}" kernelMatrix="${[...(kernelMatrix as number[])].join(' ')}" ${rest.join(' ')}/>`;
      }
      case 'flood': {
        const { floodColor = [0, 0, 0], floodOpacity = 1 } = effect;
        return `<feFlood flood-color="rgb(${floodColor.map((part) => part * 255).join(',')})" flood-opacity="${floodOpacity}"/>`;
      }
      case 'blend':
        return `<feBlend mode="${effect.mode ?? 'normal'}" in2="${effect.in2 ?? 'SourceGraphic'}"/>`;
      case 'composite': {
        const { operator = 'over', in2 = 'SourceGraphic', k1 = 0, k2 = 0, k3 = 0, k4 = 0 } = effect;
        return `<feComposite operator="${operator}" in2="${in2}" k1="${k1}" k2="${k2}" k3="${k3}" k4="${k4}"/>`;
      }
      case 'displacement': {
        const { map, scale = 0, xChannel = 'alpha', yChannel = 'alpha' } = effect;
        const letter = (name: string): string => name[0]!.toUpperCase();
        return `<feDisplacementMap in2="${map as string}" scale="${scale}" xChannelSelector="${letter(xChannel)}" yChannelSelector="${letter(yChannel)}"/>`;
      }
      case 'turbulence': {
        const { noise = 'turbulence', baseFrequency = 0, numOctaves = 1, seed = 0 } = effect;
        return `<feTurbulence type="${noise}" baseFrequency="${across(baseFrequency)}" numOctaves="${numOctaves}" seed="${seed}"/>`;
      }
      default:
        throw new Error(`no reference for ${effect.type}`);
    }
  };
  /** What others find it by, in its markup. */
  const wired = (effect: Umber.Effect): string => {
    const { in: source, result } = effect;
    const more = `${source ? ` in="${source}"` : ''}${result ? ` result="${result}"` : ''} color-interpolation-filters="${effect.colorInterpolation ?? 'sRGB'}"`;
    return svg(effect).replace(/^<\w+/, (start) => start + more);
  };
  const isWired = (effect: Umber.Effect): boolean => 'in2' in effect || 'in' in effect || 'result' in effect;
  const filterOf = (effect: Umber.Effect, i: number, all: Umber.Effect[]): string => {
    // What names each other is one filter.
    const isOne = all.some(isWired);
    if (isOne && i > 0) return '';
    const short = isOne ? undefined : css(effect);
    if (short) return short;
    const holder = document.createElement('div');
    holder.innerHTML = `<svg width="0" height="0"><filter id="f${i}" filterUnits="userSpaceOnUse" x="0" y="0" width="${width}" height="${height}" >${(isOne ? all : [effect]).map(wired).join('')}</filter></svg>`;
    document.body.append(holder);
    return `url(#f${i})`;
  };
  const contextOf = (): CanvasRenderingContext2D => {
    const canvas = Object.assign(document.createElement('canvas'), { width, height });
    return canvas.getContext('2d')!;
  };

  return (async () => {
    const lens = await openLens(undefined, { antialias: false, backend, onMessage: () => undefined });
    const target = lens.createTarget({ width, height });
    await lens.load(scene);
    lens.draw(scene, camera, { target });
    const plain = await target.read();
    const source = contextOf();
    const straight = new ImageData(width, height);
    for (let i = 0; i < plain.length; i++) {
      const alpha = plain[i | 3]!;
      straight.data[i] = (i & 3) === 3 ? alpha : alpha === 0 ? 0 : Math.round((plain[i]! * 255) / alpha);
    }
    source.putImageData(straight, 0, 0);
    const found: Difference[] = [];
    for (const list of lists) {
      lens.view.finish = list;
      await lens.load(scene);
      lens.draw(scene, camera, { target });
      const ours = await target.read();
      const context = contextOf();
      context.filter = list.map(filterOf).join(' ');
      context.drawImage(source.canvas, 0, 0);
      const theirs = context.getImageData(0, 0, width, height).data;
      document.querySelectorAll('svg').forEach((one) => one.parentElement!.remove());
      let [largest, sum, at] = [0, 0, -1];
      for (let i = 0; i < ours.length; i++) {
        const [x, y] = [(i >> 2) % width, Math.floor((i >> 2) / width)];
        if (Math.min(x, y, width - 1 - x, height - 1 - y) < margin) continue;
        const alpha = theirs[i | 3]!;
        const wanted = (i & 3) === 3 ? alpha : (theirs[i]! * alpha) / 255;
        const apart = Math.abs(ours[i]! - wanted);
        sum += apart;
        if (apart > largest) [largest, at] = [apart, i];
      }
      const pixel = at >> 2;
      found.push({
        largest,
        mean: sum / ours.length,
        at: [pixel % width, Math.floor(pixel / width), at & 3, ours[at]!, theirs[at]!],
      });
    }
    lens.dispose();
    return found;
  })();
}

const SINGLE: Effect[] = [
  { type: 'blur', stdDeviation: 1 },
  { type: 'blur', stdDeviation: 4 },
  { type: 'blur', stdDeviation: [3.5, 0] },
  { type: 'blur', stdDeviation: 3, colorInterpolation: 'linearRGB' },
  { type: 'brightness', amount: 0.4 },
  { type: 'brightness', amount: 1.7 },
  { type: 'contrast', amount: 0.3 },
  { type: 'contrast', amount: 2 },
  { type: 'grayscale' },
  { type: 'grayscale', amount: 0.4 },
  { type: 'hue-rotate', angle: 1 },
  { type: 'hue-rotate', angle: -2.5 },
  { type: 'invert' },
  { type: 'invert', amount: 0.3 },
  { type: 'opacity', amount: 0.35 },
  { type: 'saturate', amount: 0.2 },
  { type: 'saturate', amount: 2.5 },
  { type: 'sepia' },
  { type: 'sepia', amount: 0.5 },
  { type: 'drop-shadow' },
  { type: 'drop-shadow', offset: [-6, 4], stdDeviation: 3, color: [0.8, 0.1, 0.2, 0.7] },
  {
    type: 'color-matrix',
    values: [0.2, 0.7, 0.1, 0, 0, 0, 0.5, 0.5, 0, 0.1, 0.9, 0, 0, 0, -0.1, 0, 0, 0, 0.8, 0.05],
  },
  {
    type: 'color-matrix',
    colorInterpolation: 'linearRGB',
    values: [0.2, 0.7, 0.1, 0, 0, 0, 0.5, 0.5, 0, 0.1, 0.9, 0, 0, 0, 0, 0, 0, 0, 1, 0],
  },
  {
    type: 'component-transfer',
    red: { type: 'table', tableValues: [1, 0.2, 0.9, 0] },
    green: { type: 'discrete', tableValues: [0, 0.5, 1] },
    blue: { type: 'gamma', amplitude: 0.9, exponent: 0.6, offset: 0.05 },
    alpha: { type: 'linear', slope: 0.7, intercept: 0.1 },
  },
  { type: 'turbulence', baseFrequency: 0.05 },
  { type: 'turbulence', noise: 'fractalNoise', baseFrequency: [0.02, 0.11], numOctaves: 3, seed: 7 },
  {
    type: 'turbulence',
    noise: 'fractalNoise',
    baseFrequency: 0.04,
    colorInterpolation: 'linearRGB',
    seed: -3,
  },
  { type: 'offset', dx: 9, dy: -5 },
  { type: 'morphology', radius: 2 },
  { type: 'morphology', operator: 'dilate', radius: [3, 1] },
  { type: 'convolve', kernelMatrix: [0, -1, 0, -1, 5, -1, 0, -1, 0], preserveAlpha: true },
  { type: 'convolve', kernelMatrix: [1, 2, 3, 4, 5, 6, 7, 8, 9], edgeMode: 'none' },
  { type: 'convolve', order: [5, 1], kernelMatrix: [1, 1, 1, 1, 1], edgeMode: 'duplicate', targetX: 0 },
];

const MODES =
  'normal multiply screen overlay darken lighten color-dodge color-burn hard-light soft-light difference exclusion hue saturation color luminosity'.split(
    ' ',
  ) as BlendMode[];

/** Lists whose effects name each other. */
const WIRED: Effect[][] = [
  ...MODES.map((mode): Effect[] => [
    { type: 'flood', floodColor: [0.8, 0.45, 0.25], floodOpacity: 0.7, result: 'ink' },
    { type: 'blend', mode, in: 'SourceGraphic', in2: 'ink' },
  ]),
  ...MODES.map((mode): Effect[] => [
    { type: 'offset', dx: 12, dy: 7 },
    { type: 'blend', mode, in2: 'SourceGraphic' },
  ]),
  ...(['over', 'in', 'out', 'atop', 'xor', 'lighter', 'arithmetic'] as const).map((operator): Effect[] => [
    { type: 'offset', dx: -9, dy: 11, result: 'moved' },
    { type: 'hue-rotate', angle: 2, in: 'SourceGraphic' },
    { type: 'composite', operator, in2: 'moved', k1: 0.3, k2: 0.5, k3: 0.4, k4: 0.02 },
  ]),
  [
    { type: 'blur', stdDeviation: 5, result: 'soft' },
    { type: 'displacement', in: 'SourceGraphic', map: 'soft', scale: 16, xChannel: 'red', yChannel: 'green' },
  ],
  [
    {
      type: 'turbulence',
      noise: 'fractalNoise',
      baseFrequency: [0.03, 0.08],
      numOctaves: 2,
      result: 'ripples',
    },
    {
      type: 'displacement',
      in: 'SourceGraphic',
      map: 'ripples',
      scale: 24,
      xChannel: 'red',
      yChannel: 'green',
    },
  ],
  [
    { type: 'blur', stdDeviation: 2, result: 'soft' },
    { type: 'hue-rotate', angle: 3, in: 'SourceGraphic', result: 'turned' },
    { type: 'saturate', amount: 0.3 },
    { type: 'composite', operator: 'arithmetic', k2: 0.5, k3: 0.5, in2: 'soft' },
    { type: 'blend', mode: 'multiply', in2: 'turned' },
  ],
];

/** Chains of one to four effects by chance, the same in each run. */
function chains(count: number): Effect[][] {
  let state = 12345;
  const random = (): number => (state = (state * 1103515245 + 12345) & 0x7fffffff) / 0x7fffffff;
  return Array.from({ length: count }, () =>
    Array.from({ length: 1 + Math.floor(random() * 4) }, () => SINGLE[Math.floor(random() * SINGLE.length)]!),
  );
}

/** Of 255. The browser keeps linear light in eight bits, which are coarse in the dark; here it is computed in floats. */
const limitOf = ({ colorInterpolation, type }: Effect): number =>
  !['blur', 'drop-shadow', 'convolve'].includes(type) ? 2 : colorInterpolation === 'linearRGB' ? 5 : 3;

describe.each<Backend>(['webgl2', 'webgpu'])(
  "effects are those of the browser's filters on %s",
  (backend) => {
    const held = testPage({ as: backend, filters: true });

    test('each by itself', async () => {
      const lists = SINGLE.map((effect) => [effect]);
      const found = await held.page.evaluate(compared, [backend, lists, 0] satisfies Given as Given);
      const wrong = found.flatMap((difference, i) =>
        difference.largest > limitOf(SINGLE[i]!) ? [{ ...SINGLE[i]!, ...difference }] : [],
      );
      expect(wrong).toEqual([]);
    });

    test('lists whose effects name each other', async () => {
      const found = await held.page.evaluate(compared, [backend, WIRED, 0] satisfies Given as Given);
      const wrong = found.flatMap((difference, i) => {
        // Of a map, a rounding moves pixels of hard edges to one side or the other.
        const isMoved = WIRED[i]!.some(({ type }) => type === 'displacement');
        const isWrong = isMoved ? difference.mean > 0.3 : difference.largest > 3;
        return isWrong ? [{ list: WIRED[i]!, ...difference }] : [];
      });
      expect(wrong).toEqual([]);
    });

    // What an effect moves out of the picture is gone for the next one; the browser keeps it.
    test('40 chains by chance, but for the edges', async () => {
      const lists = chains(40);
      const found = await held.page.evaluate(compared, [backend, lists, 24] satisfies Given as Given);
      const wrong = found.flatMap((difference, i) =>
        // A contrast doubles what roundings before it left.
        difference.mean > 0.5 || difference.largest > 15 ? [{ list: lists[i], ...difference }] : [],
      );
      expect(wrong).toEqual([]);
    });

    test('they change from frame to frame, at any size, with the look and on what is shown', async () => {
      const seen = await held.page.evaluate(async (as) => {
        const { box, openLens, Scene } = umber;
        const lens = await openLens(undefined, { antialias: false, backend: as, onMessage: () => undefined });
        const scene = new Scene({ clearColor: [0, 0, 0, 1] });
        scene.createNode({
          mesh: { geometry: box(), material: { unlit: true, baseColorFactor: [1, 0, 0, 1] } },
        });
        const camera = scene.createNode({
          translation: [0, 0, 3],
          camera: { type: 'perspective', yfov: 0.2, znear: 0.1 },
        });
        const [small, large] = [16, 48].map((size) => lens.createTarget({ width: size, height: size }));
        const middle = async (target: Umber.RenderTarget): Promise<number[]> => {
          lens.draw(scene, camera, { target });
          const pixels = await target.read();
          const at = (target.height / 2) * target.width + target.width / 2;
          return [...pixels.subarray(at * 4, at * 4 + 4)];
        };
        const invert = { type: 'invert' as const, amount: 1 };
        lens.view.finish = [invert];
        await lens.load(scene);
        const answers = [await middle(small!), await middle(large!)];
        invert.amount = 0;
        answers.push(await middle(small!));
        lens.view.finish = [];
        answers.push(await middle(large!));
        lens.look.saturation = 0;
        lens.view.finish = [
          { type: 'blur', stdDeviation: 1 },
          { type: 'invert' },
          { type: 'opacity', amount: 0.5 },
        ];
        await lens.load(scene);
        answers.push(await middle(small!));
        lens.look.saturation = 1;
        lens.draw(scene, camera, { target: small, finish: [{ type: 'brightness', amount: 0 }] });
        answers.push([...(await small!.read()).subarray(0, 4)]);
        const parts = lens.ledger.passes.map(({ name }) => name);
        lens.view.show = 'world-normals';
        lens.view.finish = [{ type: 'grayscale' }];
        await lens.load(scene);
        const [r, g, b] = await middle(large!);
        lens.dispose();
        return { answers, parts, isGrey: r === g && g === b };
      }, backend);
      expect(seen.answers).toEqual([
        [0, 255, 255, 255],
        [0, 255, 255, 255],
        [255, 0, 0, 255],
        [255, 0, 0, 255],
        // Grey of luminance 0.2126, inverted, at half opacity.
        [100, 100, 100, 128].map((n) => expect.closeTo(n, -0.5)) as unknown as number[],
        [0, 0, 0, 255],
      ]);
      expect(seen.parts).toContain('1 brightness');
      expect(seen.isGrey).toBe(true);
    });

    test('what lies beside the picture: nothing, its edge, its other side', async () => {
      const found = await held.page.evaluate(async (as) => {
        const { openLens, plane, Scene } = umber;
        const lens = await openLens(undefined, { antialias: false, backend: as, onMessage: () => undefined });
        const scene = new Scene({ clearColor: [1, 0, 0, 1] });
        scene.createNode({
          translation: [1, 0, 0],
          rotation: umber.axisAngle([1, 0, 0], Math.PI / 2),
          mesh: {
            geometry: plane({ width: 2, depth: 4 }),
            material: { unlit: true, baseColorFactor: [0, 0, 1, 1] },
          },
        });
        const camera = scene.createNode({
          translation: [0, 0, 3],
          camera: { type: 'orthographic', xmag: 2, ymag: 1.5, znear: 0.1, zfar: 9 },
        });
        const target = lens.createTarget({ width: 64, height: 48 });
        const corners: number[][] = [];
        for (const edgeMode of ['none', 'duplicate', 'wrap'] as const) {
          lens.view.finish = [{ type: 'blur', stdDeviation: 4, edgeMode }];
          await lens.load(scene);
          lens.draw(scene, camera, { target });
          corners.push([...(await target.read()).subarray(0, 4)]);
        }
        lens.dispose();
        return corners;
      }, backend);
      const near = (...color: number[]): unknown[] => color.map((n) => expect.closeTo(n, -0.9));
      // A little more than half, and than a quarter of all: the pixel itself lies inside.
      expect(found[0]![3]).toBeGreaterThan(64);
      expect(found[0]![3]).toBeLessThan(90);
      expect(found.slice(1)).toEqual([near(255, 0, 0, 255), near(140, 0, 115, 255)]);
    });

    test('a texture says how far, stretched over the picture', async () => {
      const [moved, offset, plain] = await held.page.evaluate(async (as) => {
        const { box, openLens, Scene } = umber;
        const lens = await openLens(undefined, { antialias: false, backend: as, onMessage: () => undefined });
        const scene = new Scene({ clearColor: [0, 0, 0, 1] });
        scene.createNode({
          mesh: { geometry: box(), material: { unlit: true, baseColorFactor: [1, 0.5, 0, 1] } },
        });
        const camera = scene.createNode({
          translation: [0, 0, 3],
          camera: { type: 'perspective', yfov: 0.8, znear: 0.1 },
        });
        const target = lens.createTarget({ width: 64, height: 48 });
        // Red says half a scale to the right, green nothing.
        const data = new Uint8Array([255, 128, 0, 255, 255, 128, 0, 255]);
        const map = { image: { content: { kind: 'pixels' as const, width: 2, height: 1, data } } };
        const pictures: number[][] = [];
        for (const finish of [
          [{ type: 'displacement', map, scale: 16, xChannel: 'red', yChannel: 'green' }],
          [{ type: 'offset', dx: -8 }],
          [],
        ] as Umber.Effect[][]) {
          lens.view.finish = finish;
          await lens.load(scene);
          lens.draw(scene, camera, { target });
          pictures.push([...(await target.read())]);
        }
        lens.dispose();
        return pictures as [number[], number[], number[]];
      }, backend);
      const apart = (a: number[], b: number[]): number =>
        a.reduce((sum, value, k) => sum + Math.abs(value - b[k]!), 0) / a.length; // as long
      expect(apart(moved, offset)).toBeLessThan(1);
      expect(apart(moved, plain)).toBeGreaterThan(10);
    });
  },
);
