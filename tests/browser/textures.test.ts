import { encodeToKTX2 } from 'ktx2-encoder';
import { decodeKtx2, linearPixels, type PackedFormat, texelBytes } from '@umber-lens/core/engine';
import type { Backend } from 'umber-lens';
import { testPage } from './stage.js';

const SIZE = 32;

/** Bytes by chance, the same each time. */
function chance(length: number, seed: number): Uint8Array {
  let state = seed;
  return Uint8Array.from({ length }, () => {
    state = (Math.imul(state, 1664525) + 1013904223) >>> 0;
    return state >>> 24;
  });
}

/** A picture with slopes, edges, noise and opacity. */
function picture(size: number, hasAlpha: boolean): Uint8Array {
  const noise = chance(size * size * 4, 5);
  const out = new Uint8Array(size * size * 4);
  for (let y = 0; y < size; y++)
    for (let x = 0; x < size; x++) {
      const at = (y * size + x) * 4;
      const isChecked = ((x >> 2) + (y >> 3)) % 2 === 0;
      out[at] = (x * 255) / size;
      out[at + 1] = (y * 255) / size;
      out[at + 2] = isChecked ? 220 : 40;
      out[at + 3] = hasAlpha ? 255 - (x * 4 + y * 3) : 255;
      if (x > size / 2 && y > size / 2) for (let c = 0; c < 3; c++) out[at + c]! += noise[at + c]! >> 4;
    }
  return out;
}

/** Encodes as the package does that others write KTX2 with; what it prints is kept to itself. */
async function encode(data: Uint8Array, isUASTC: boolean, generateMipmap = true): Promise<Uint8Array> {
  const { log } = console;
  console.log = () => undefined;
  try {
    return await encodeToKTX2(new Uint8Array(4), {
      isUASTC,
      generateMipmap,
      qualityLevel: 255,
      needSupercompression: true,
      isSetKTX2SRGBTransferFunc: true,
      imageDecoder: () => Promise.resolve({ data, width: SIZE, height: SIZE }),
    });
  } finally {
    console.log = log;
  }
}

/** A file of one level, uncompressed, made by hand after the specification of KTX 2.0. */
function handmade(vkFormat: number, bytes: Uint8Array, size: number): Uint8Array {
  const dfd = 28 + 16;
  const out = new Uint8Array(80 + 24 + dfd + bytes.length);
  const view = new DataView(out.buffer);
  out.set([0xab, 0x4b, 0x54, 0x58, 0x20, 0x32, 0x30, 0xbb, 0x0d, 0x0a, 0x1a, 0x0a]);
  [vkFormat, 1, size, size, 0, 0, 1, 1, 0, 80 + 24, dfd].forEach((word, i) =>
    view.setUint32(12 + i * 4, word, true),
  );
  const levels = 80;
  const start = BigInt(levels + 24 + dfd);
  [start, BigInt(bytes.length), BigInt(bytes.length)].forEach((word, i) =>
    view.setBigUint64(levels + i * 8, word, true),
  );
  view.setUint32(levels + 24, dfd, true);
  view.setUint16(levels + 24 + 8, 2, true);
  view.setUint16(levels + 24 + 10, dfd - 4, true);
  out.set(bytes, Number(start));
  return out;
}

const largest = (a: ArrayLike<number>, b: ArrayLike<number>, channels = [0, 1, 2]): number => {
  let most = 0;
  for (let i = 0; i < a.length; i++)
    if (channels.includes(i & 3)) most = Math.max(most, Math.abs(a[i]! - b[i]!));
  return most;
};

/** What differs over the picture, in decibels: 40 is hardly seen. */
function decibels(a: ArrayLike<number>, b: ArrayLike<number>): number {
  let sum = 0;
  for (let i = 0; i < a.length; i++) sum += (a[i]! - b[i]!) ** 2;
  return 10 * Math.log10((255 * 255) / (sum / a.length));
}

describe.each<Backend>(['webgl2', 'webgpu'])('on %s', (backend) => {
  const stage = testPage({ as: backend });

  /** What is seen of a picture that fills the view, and which formats the GPU takes. */
  const seen = (
    content:
      { kind: 'levels'; format: PackedFormat; levels: number[][] } | { kind: 'encoded'; bytes: number[] },
    size: number,
    isBlended: boolean,
  ): Promise<{ pixels: number[]; formats: string[]; format: string; textureBytes: number }> =>
    stage.page.evaluate(
      async ([given, side, blends]) => {
        const { openLens, Scene, geometryFrom } = umber;
        const lens = await openLens(undefined, { pixelRatio: 1, antialias: false });
        const packed = await lens.device.openPacked();
        const image: umberImage =
          given.kind === 'encoded'
            ? { content: { kind: 'encoded', mimeType: 'image/ktx2', bytes: new Uint8Array(given.bytes) } }
            : {
                content: {
                  ...given,
                  width: side,
                  height: side,
                  levels: given.levels.map((level) => new Uint8Array(level)),
                },
              };
        type umberImage = Parameters<typeof umber.decodeImage>[0];
        const texture = {
          image,
          sampler: {
            magFilter: 'nearest' as const,
            minFilter: 'nearest' as const,
            mipmapFilter: 'none' as const,
          },
        };
        const scene = new Scene({ clearColor: [0, 0, 0, 0] });
        scene.createNode({
          mesh: {
            geometry: geometryFrom(
              {
                position: [-1, -1, 0, 1, -1, 0, 1, 1, 0, -1, 1, 0],
                texcoord0: [0, 1, 1, 1, 1, 0, 0, 0],
              },
              [0, 1, 2, 0, 2, 3],
            ),
            material: {
              unlit: true,
              baseColorTexture: { texture },
              ...(blends ? { alphaMode: 'blend' as const } : {}),
            },
          },
        });
        const camera = scene.createNode({
          translation: [0, 0, 1],
          camera: { type: 'orthographic', xmag: 1, ymag: 1, znear: 0, zfar: 5 },
        });
        const target = lens.createTarget({ width: side, height: side });
        // Drawn until the picture is there.
        for (let i = 0; i < 200; i++) {
          lens.draw(scene, camera, { target });
          if (lens.device.owners().some(({ kind, label }) => kind === 'texture' && label === 'image')) break;
          await new Promise((resolve) => setTimeout(resolve, 20));
        }
        lens.draw(scene, camera, { target });
        const { bytes = 0 } = lens.device.owners().find(({ label }) => label === 'image') ?? {};
        const pixels = [...(await target.read())];
        const formats = [...(packed?.formats ?? [])];
        lens.dispose();
        const { content: made } = image;
        return {
          pixels,
          formats,
          format: made.kind === 'levels' ? made.format : made.kind,
          textureBytes: bytes,
        };
      },
      [content, size, isBlended] as const,
    );

  test.each<[PackedFormat, number]>([
    ['bc1-rgba-unorm', 133],
    ['bc2-rgba-unorm', 135],
    ['bc3-rgba-unorm', 137],
    ['bc4-r-unorm', 139],
    ['bc5-rg-unorm', 141],
    ['etc2-rgb8unorm', 147],
    ['etc2-rgb8a1unorm', 149],
    ['etc2-rgba8unorm', 151],
    ['eac-r11unorm', 153],
    ['eac-rg11unorm', 155],
  ])('%s by chance looks as it is decoded here', async (format, vkFormat) => {
    const bytes = chance(texelBytes(format, SIZE, SIZE), 11);
    const { levels } = await decodeKtx2(handmade(vkFormat, bytes, SIZE));
    const { formats, pixels } = await seen({ kind: 'levels', format, levels: [[...bytes]] }, SIZE, false);
    expect(formats).toContain(format);
    // Those without sRGB are linear numbers, which the picture is encoded from; interpolation may round otherwise.
    const isLinear = /bc4|bc5|eac/.test(format);
    const expected = isLinear ? levels[0]!.map(encoded) : levels[0]!;
    expect(largest(pixels, expected)).toBeLessThanOrEqual(isLinear ? 13 : 3);
    if (isLinear) expect(decibels(pixels, expected)).toBeGreaterThan(40);
    if (!/bc1|bc2|bc3|a1|rgba8/.test(format)) return;
    const blended = await seen({ kind: 'levels', format, levels: [[...bytes]] }, SIZE, true);
    expect(largest(blended.pixels, levels[0]!, [3])).toBeLessThanOrEqual(1);
  });

  test.each([
    ['UASTC', true, false],
    ['UASTC with opacity', true, true],
    ['ETC1S', false, false],
    ['ETC1S with opacity', false, true],
  ])('%s comes packed to the GPU, and looks as the picture it was made of', async (_, isUastc, hasAlpha) => {
    const source = picture(SIZE, hasAlpha);
    const file = await encode(source, isUastc);
    const { levels } = await decodeKtx2(file);
    expect(levels.map(({ length }) => length)).toEqual([4096, 1024, 256, 64, 16, 4]);
    // As good as the encoder is.
    expect(decibels(levels[0]!, source)).toBeGreaterThan(isUastc ? 36 : 25);
    const drawn = await seen({ kind: 'encoded', bytes: [...file] }, SIZE, false);
    expect(drawn.format).toBe(isUastc ? 'astc-4x4-unorm' : hasAlpha ? 'etc2-rgba8unorm' : 'etc2-rgb8unorm');
    expect(largest(drawn.pixels, levels[0]!)).toBeLessThanOrEqual(1);
    expect(drawn.textureBytes).toBeLessThan(SIZE * SIZE * (hasAlpha || isUastc ? 1.5 : 0.75));
    if (!hasAlpha) return;
    const blended = await seen({ kind: 'encoded', bytes: [...file] }, SIZE, true);
    expect(largest(blended.pixels, levels[0]!, [3])).toBeLessThanOrEqual(isUastc ? 1 : 6);
  });
});

const encoded = (value: number): number => {
  const v = value / 255;
  return Math.round(255 * (v <= 0.0031308 ? v * 12.92 : 1.055 * v ** (1 / 2.4) - 0.055));
};

test('linear numbers of an sRGB file', async () => {
  const picture = await decodeKtx2(handmade(43, new Uint8Array([0, 128, 255, 128]), 1));
  const values = linearPixels({ ...picture, isSrgb: true });
  expect([...values].map((v) => v.toFixed(4))).toEqual(['0.0000', '0.2159', '1.0000', '0.5020']);
});
