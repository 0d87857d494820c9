import { deflateSync } from 'node:zlib';
import { decodeKtx2 } from './decode-ktx2.js';
import { readKtx2Panorama } from './panorama-file.js';
import { readKtx2 } from './read-ktx2.js';

interface Made {
  vkFormat: number;
  width: number;
  height?: number;
  depth?: number;
  layers?: number;
  faces?: number;
  levels: Uint8Array[];
  /** 3: zlib. */
  scheme?: number;
  isSrgb?: boolean;
  /** 1: premultiplied. */
  flags?: number;
  values?: Record<string, string>;
  /** What the levels unpack to, where the file lies about it. */
  plainLengths?: number[];
}

/** A file made by hand after the specification of KTX 2.0. */
function file(made: Made): Uint8Array {
  const { levels, scheme = 0, values = {}, width, height = width } = made;
  const dfd = 28 + 16;
  const pairs = Object.entries(values).map(([key, value]) => Buffer.from(`${key}\0${value}\0`));
  const keyed = Buffer.concat(
    pairs.flatMap((pair) => {
      const length = Buffer.alloc(4);
      length.writeUInt32LE(pair.length);
      return [length, pair, Buffer.alloc((4 - (pair.length % 4)) % 4)];
    }),
  );
  const packed = levels.map((level) => (scheme === 3 ? deflateSync(level) : level));
  const head = 80 + levels.length * 24;
  const start = Math.ceil((head + dfd + keyed.length) / 16) * 16;
  const total = packed.reduce((sum, { length }) => sum + Math.ceil(length / 16) * 16, start);
  const out = Buffer.alloc(total);
  out.set([0xab, 0x4b, 0x54, 0x58, 0x20, 0x32, 0x30, 0xbb, 0x0d, 0x0a, 0x1a, 0x0a]);
  const words = [made.vkFormat, 1, width, height, made.depth ?? 0, made.layers ?? 0, made.faces ?? 1];
  [...words, levels.length, scheme, head, dfd, keyed.length > 0 ? head + dfd : 0, keyed.length].forEach(
    (word, i) => out.writeUInt32LE(word, 12 + i * 4),
  );
  let at = start;
  packed.forEach((level, i) => {
    out.writeBigUInt64LE(BigInt(at), 80 + i * 24);
    out.writeBigUInt64LE(BigInt(level.length), 88 + i * 24);
    out.writeBigUInt64LE(BigInt(made.plainLengths?.[i] ?? levels[i]!.length), 96 + i * 24);
    out.set(level, at);
    at += Math.ceil(level.length / 16) * 16;
  });
  out.writeUInt32LE(dfd, head);
  out.writeUInt16LE(2, head + 8);
  out.writeUInt16LE(dfd - 4, head + 10);
  out[head + 14] = made.isSrgb ? 2 : 1;
  out[head + 15] = made.flags ?? 0;
  keyed.copy(out, head + dfd);
  return new Uint8Array(out);
}

const refusal = (made: Made, change: (bytes: Uint8Array) => Uint8Array = (bytes) => bytes): Promise<string> =>
  decodeKtx2(change(file(made)), { file: 'a.ktx2' }).then(
    () => 'was read',
    (error: { code: string; message: string }) => `${error.code}: ${error.message}`,
  );

test.each<[string, number, number[], string, number[]]>([
  ['R8', 9, [7], 'rgba8unorm', [7, 0, 0, 255]],
  ['RG8', 16, [7, 9], 'rgba8unorm', [7, 9, 0, 255]],
  ['RGB8', 23, [1, 2, 3], 'rgba8unorm', [1, 2, 3, 255]],
  ['BGR8', 30, [1, 2, 3], 'rgba8unorm', [3, 2, 1, 255]],
  ['RGBA8', 37, [1, 2, 3, 4], 'rgba8unorm', [1, 2, 3, 4]],
  ['BGRA8', 44, [1, 2, 3, 4], 'rgba8unorm', [3, 2, 1, 4]],
  // 0x3c00 is 1 as a half.
  ['R16F', 76, [0, 0x3c], 'rgba16float', [0, 0x3c, 0, 0, 0, 0, 0, 0x3c]],
  ['R16', 70, [0xff, 0xff], 'rgba16float', [0, 0x3c, 0, 0, 0, 0, 0, 0x3c]],
  ['RGBA16F', 97, [1, 2, 3, 4, 5, 6, 7, 8], 'rgba16float', [1, 2, 3, 4, 5, 6, 7, 8]],
  [
    'R32F',
    100,
    [0, 0, 0x80, 0x3f],
    'rgba32float',
    [0, 0, 0x80, 0x3f, ...Array<number>(8).fill(0), 0, 0, 0x80, 0x3f],
  ],
  // Of 11, 11 and 10 bits: 1, 2 and 0.5; exponents are 15, 16 and 14.
  [
    'B10G11R11',
    122,
    word((15 << 6) | ((16 << 6) << 11) | ((14 << 5) << 22)),
    'rgba16float',
    [0, 0x3c, 0, 0x40, 0, 0x38, 0, 0x3c],
  ],
  // Mantissas 256, 128 and 64 with the exponent 16: 1, 0.5 and 0.25.
  [
    'E5B9G9R9',
    123,
    word(256 | (128 << 9) | (64 << 18) | (16 << 27)),
    'rgba16float',
    [0, 0x3c, 0, 0x38, 0, 0x34, 0, 0x3c],
  ],
])('%s becomes what GPUs have', async (_, vkFormat, bytes, format, expected) => {
  const decoded = await decodeKtx2(file({ vkFormat, width: 1, levels: [Uint8Array.from(bytes)] }));
  expect(decoded.format).toBe(format);
  expect([...decoded.levels[0]!]).toEqual(expected);
});

function word(value: number): number[] {
  return [0, 8, 16, 24].map((shift) => (value >>> shift) & 255);
}

test('layers, faces and levels are found where they lie, packed by zlib or not', async () => {
  // Two layers of six faces, two levels: each pixel says which it is.
  const level = (side: number, number: number): Uint8Array =>
    Uint8Array.from({ length: 12 * side * side * 4 }, (_, i) =>
      i % 4 === 3 ? 255 : i % 4 === 0 ? Math.floor(i / (side * side * 4)) : number,
    );
  for (const scheme of [0, 3]) {
    const bytes = file({
      vkFormat: 37,
      width: 2,
      layers: 2,
      faces: 6,
      levels: [level(2, 0), level(1, 1)],
      scheme,
    });
    const { levels } = await decodeKtx2(bytes, { layer: 1, face: 2 });
    expect(levels.map((pixels) => [...pixels.subarray(0, 4)])).toEqual([
      [8, 0, 0, 255],
      [8, 1, 1, 255],
    ]);
  }
});

test('channels are exchanged as the file asks', async () => {
  const gray = { vkFormat: 9, width: 1, levels: [Uint8Array.of(77)] };
  const luminance = await decodeKtx2(file({ ...gray, values: { KTXswizzle: 'rrr1' } }));
  expect([...luminance.levels[0]!]).toEqual([77, 77, 77, 255]);
  const halves = { vkFormat: 97, width: 1, levels: [Uint8Array.of(1, 2, 3, 4, 5, 6, 7, 8)] };
  const turned = await decodeKtx2(file({ ...halves, values: { KTXswizzle: 'b0a1' } }));
  expect([...turned.levels[0]!]).toEqual([5, 6, 0, 0, 7, 8, 0, 0x3c]);
  // What is packed becomes pixels for it.
  const packed = { vkFormat: 139, width: 4, levels: [Uint8Array.of(200, 100, 0, 0, 0, 0, 0, 0)] };
  const decoded = await decodeKtx2(file({ ...packed, values: { KTXswizzle: 'rrrr' } }), {
    supported: ['bc4-r-unorm'],
  });
  expect([decoded.format, ...decoded.levels[0]!.subarray(0, 4)]).toEqual(['rgba8unorm', 200, 200, 200, 200]);
});

test('a cube lights from all around, and a panorama too', async () => {
  const sides = Uint8Array.from({ length: 6 * 16 * 16 * 4 }, (_, i) => (i % 4 === 0 && i < 1024 ? 255 : 0));
  const cube = await readKtx2Panorama(file({ vkFormat: 37, width: 16, faces: 6, levels: [sides] }));
  // +X is red: in the middle of a panorama's right half.
  const { data, height, width } = cube;
  const reds = Array.from({ length: width }, (_, x) => data[((height >> 1) * width + x) * 4]!);
  const red = reds.filter((value) => value > 0.5).length;
  expect(red / width).toBeCloseTo(0.25, 1);
  const flat = await readKtx2Panorama(
    file({ vkFormat: 43, width: 4, height: 2, isSrgb: true, levels: [new Uint8Array(32).fill(188)] }),
  );
  expect([flat.width, flat.height]).toEqual([4, 2]);
  expect(flat.data[0]).toBeCloseTo(0.503, 2);
});

test('packed pixels that no GPU here takes are decoded, or refused with the reason', async () => {
  const bc1 = await decodeKtx2(
    file({ vkFormat: 133, width: 6, height: 2, levels: [new Uint8Array(16).fill(255)] }),
  );
  // White in both ends: cut to the picture's size.
  expect([bc1.format, bc1.levels[0]!.length]).toEqual(['rgba8unorm', 6 * 2 * 4]);
  const made = { vkFormat: 145, width: 4, levels: [new Uint8Array(16)] };
  expect(await refusal(made)).toContain(
    'ktx2/unsupported: this GPU does not read bc7-rgba-unorm of this size, and it is not decoded here',
  );
  expect((await decodeKtx2(file(made), { supported: ['bc7-rgba-unorm'] })).format).toBe('bc7-rgba-unorm');
});

test.each<[string, Made, string]>([
  ['a depth', { vkFormat: 37, width: 1, depth: 2, levels: [new Uint8Array(8)] }, 'textures with depth'],
  ['five faces', { vkFormat: 37, width: 1, faces: 5, levels: [new Uint8Array(20)] }, 'it has 5 faces'],
  [
    'too many levels',
    { vkFormat: 37, width: 1, levels: [new Uint8Array(4), new Uint8Array(4)] },
    '2 levels are more',
  ],
  ['sides of a million', { vkFormat: 37, width: 1 << 20, levels: [new Uint8Array(4)] }, 'too-large'],
  [
    'gigabytes out of nothing',
    { vkFormat: 109, width: 16384, levels: [new Uint8Array(16)], scheme: 3 },
    'would unpack to 4294967296',
  ],
  [
    'too few bytes',
    { vkFormat: 37, width: 2, levels: [new Uint8Array(12)] },
    'level 0 has 12 bytes instead of 16',
  ],
  [
    'more bytes than there is room',
    { vkFormat: 37, width: 1, levels: [new Uint8Array(1000)], scheme: 3 },
    'level 0 cannot be unpacked',
  ],
  [
    'rows from below',
    { vkFormat: 37, width: 1, levels: [new Uint8Array(4)], values: { KTXorientation: 'ru' } },
    'rows are ordered "ru"',
  ],
  [
    'an order of channels that is none',
    { vkFormat: 37, width: 1, levels: [new Uint8Array(4)], values: { KTXswizzle: 'xyzw' } },
    'ordered "xyzw"',
  ],
  [
    'opacity in the colours',
    { vkFormat: 37, width: 1, levels: [new Uint8Array(4)], flags: 1 },
    'opacity is multiplied',
  ],
  ['a format that nobody knows', { vkFormat: 9999, width: 1, levels: [new Uint8Array(4)] }, 'format 9999'],
])('%s is refused', async (_, made, message) => {
  expect(await refusal(made)).toContain(message);
});

test('files that are cut off anywhere are refused', async () => {
  const whole = file({
    vkFormat: 37,
    width: 4,
    levels: [new Uint8Array(64), new Uint8Array(16), new Uint8Array(4)],
  });
  for (let length = 0; length < whole.length - 16; length += 7)
    await expect(readKtx2(whole.slice(0, length))).rejects.toMatchObject({ code: 'ktx2/broken' });
});
