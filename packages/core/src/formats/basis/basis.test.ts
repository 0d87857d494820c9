import { encodeToKTX2 } from 'ktx2-encoder';
import { BC_DECODERS } from '../blocks/bc.js';
import { ETC_DECODERS } from '../blocks/etc2.js';
import { decodeKtx2 } from '../ktx2/decode-ktx2.js';
import { readKtx2 } from '../ktx2/read-ktx2.js';
import { astcPartition } from './astc-partitions.js';
import { ASTC_RANGES, astcColors, astcWeight } from './astc-ranges.js';
import { BitReader, BitWriter } from './bits.js';
import { HuffmanTable } from './huffman.js';
import { readUastcBlock } from './uastc-block.js';
import { THREE_SUBSETS, TWO_OF_THREE, TWO_SUBSETS, UASTC_MODES } from './uastc-modes.js';

const SIZE = 64;

/** Bytes by chance, the same each time. */
function chance(seed: number): () => number {
  let state = seed;
  return () => ((state = (Math.imul(state, 1664525) + 1013904223) >>> 0) >>> 8) / 2 ** 24;
}

/** Blocks of all kinds: slopes, edges, one colour, channels that go their own ways. */
function blocks(kind: 'colors' | 'opacity' | 'gray'): Uint8Array {
  const next = chance(3);
  const out = new Uint8Array(SIZE * SIZE * 4);
  for (let by = 0; by < SIZE; by += 4)
    for (let bx = 0; bx < SIZE; bx += 4) {
      const ends = Array.from({ length: 4 }, () => Array.from({ length: 4 }, () => next() * 255));
      const [slope, edge] = [next() * 6.3, next() * 6.3];
      const way = Math.floor(next() * 4);
      for (let y = 0; y < 4; y++)
        for (let x = 0; x < 4; x++) {
          const at = ((by + y) * SIZE + bx + x) * 4;
          const along = (angle: number): number =>
            ((x - 1.5) * Math.cos(angle) + (y - 1.5) * Math.sin(angle)) / 4.3;
          const half = way > 0 && along(edge) > 0 ? 2 : 0;
          const t = way === 3 ? 0 : along(slope) + 0.5;
          for (let c = 0; c < 4; c++) out[at + c] = ends[half]![c]! * (1 - t) + ends[half + 1]![c]! * t;
          if (kind === 'gray') out[at + 1] = out[at + 2] = out[at]!;
          if (kind === 'colors') out[at + 3] = 255;
          // Opacity that has nothing to do with the colours.
          else if (way === 2) out[at + 3] = 255 * (along(edge + 2) + 0.5);
        }
    }
  return out;
}

async function encode(data: Uint8Array, isUASTC: boolean): Promise<Uint8Array> {
  const { log } = console;
  console.log = () => undefined;
  const imageDecoder = (): Promise<{ data: Uint8Array; width: number; height: number }> =>
    Promise.resolve({ data, width: SIZE, height: SIZE });
  const options = {
    isUASTC,
    uastcLDRQualityLevel: 3,
    qualityLevel: 255,
    generateMipmap: false,
    needSupercompression: false,
    imageDecoder,
  };
  return encodeToKTX2(new Uint8Array(1), options).finally(() => (console.log = log));
}

/** What differs over the picture, in decibels: 40 is hardly seen. */
function decibels(a: ArrayLike<number>, b: ArrayLike<number>): number {
  let sum = 0;
  for (let i = 0; i < a.length; i++) sum += (a[i]! - b[i]!) ** 2;
  return 10 * Math.log10((255 * 255) / (sum / a.length));
}

/** The pixels of packed blocks. */
function unpacked(bytes: Uint8Array, stride: number, decode: (typeof BC_DECODERS)[string]): Uint8Array {
  const out = new Uint8Array(SIZE * SIZE * 4);
  const block = new Uint8Array(64);
  for (let i = 0; i < bytes.length / stride; i++) {
    decode(bytes, i * stride, block);
    const [bx, by] = [(i % (SIZE / 4)) * 4, Math.floor(i / (SIZE / 4)) * 4];
    for (let y = 0; y < 4; y++) out.set(block.subarray(y * 16, y * 16 + 16), ((by + y) * SIZE + bx) * 4);
  }
  return out;
}

test.each(['colors', 'opacity', 'gray'] as const)(
  'UASTC of %s: all modes that are met look right',
  async (kind) => {
    const source = blocks(kind);
    const file = await encode(source, true);
    const { levels } = await readKtx2(file);
    const pixels = (await decodeKtx2(file)).levels[0]!;
    expect(decibels(pixels, source)).toBeGreaterThan(31);
    const met = new Map<number, number[]>();
    for (let i = 0; i < levels[0]!.length / 16; i++) {
      const { mode } = readUastcBlock(levels[0]!.subarray(i * 16, i * 16 + 16));
      const number = UASTC_MODES.indexOf(mode);
      const [bx, by] = [(i % (SIZE / 4)) * 4, Math.floor(i / (SIZE / 4)) * 4];
      let sum = 0;
      for (let y = 0; y < 4; y++)
        for (let x = 0; x < 16; x++) {
          const at = ((by + y) * SIZE + bx) * 4 + x;
          sum += (pixels[at]! - source[at]!) ** 2;
        }
      met.set(number, [...(met.get(number) ?? []), Math.sqrt(sum / 64)]);
    }
    // A mode that was taken wrongly apart would be noise: 80 and more.
    for (const [mode, errors] of met) {
      const middle = errors.sort((a, b) => a - b)[errors.length >> 1]!;
      expect([mode, middle < 20]).toEqual([mode, true]);
    }
    const wanted = { colors: [2, 3, 4, 7, 8, 18], opacity: [9, 10, 12], gray: [15, 16, 17] }[kind];
    expect(wanted.filter((mode) => !met.has(mode)).length).toBeLessThanOrEqual(1);
  },
);

test.each(['colors', 'opacity'] as const)(
  'ETC1S of %s is the same as ETC2, and near to it as BC',
  async (kind) => {
    const file = await encode(blocks(kind), false);
    const pixels = (await decodeKtx2(file)).levels[0]!;
    const as = async (format: string): Promise<Uint8Array> => {
      const { levels, format: made } = await decodeKtx2(file, { supported: [format] });
      expect(made).toBe(format);
      return levels[0]!;
    };
    if (kind === 'colors') {
      const etc = unpacked(await as('etc2-rgb8unorm'), 8, ETC_DECODERS['etc2-rgb8unorm']!);
      expect(etc).toEqual(pixels);
      const bc = unpacked(await as('bc1-rgba-unorm'), 8, BC_DECODERS['bc1-rgba-unorm']!);
      expect(decibels(bc, pixels)).toBeGreaterThan(32);
      return;
    }
    const etc = unpacked(await as('etc2-rgba8unorm'), 16, ETC_DECODERS['etc2-rgba8unorm']!);
    // Colours to the bit; opacity by EAC's tables, which are others.
    for (let i = 0; i < etc.length; i++)
      if ((i & 3) !== 3 && etc[i] !== pixels[i]) expect([i, etc[i]]).toEqual([i, pixels[i]]);
    expect(decibels(etc, pixels)).toBeGreaterThan(40);
    const bc = unpacked(await as('bc3-rgba-unorm'), 16, BC_DECODERS['bc3-rgba-unorm']!);
    expect(decibels(bc, pixels)).toBeGreaterThan(32);
  },
);

test('every pattern has as many subsets as it should, and the first pixel is in one of them', () => {
  for (const seed of [...TWO_SUBSETS, ...TWO_OF_THREE])
    expect([...new Set(astcPartition(seed, 2))].sort()).toEqual([0, 1]);
  for (const seed of THREE_SUBSETS) expect([...new Set(astcPartition(seed, 3))].sort()).toEqual([0, 1, 2]);
  // Halves beside each other, from the common table: columns 0 and 1 against 2 and 3.
  expect([...astcPartition(28, 2)]).toEqual([0, 0, 1, 1, 0, 0, 1, 1, 0, 0, 1, 1, 0, 0, 1, 1]);
});

test('colours and weights of a range reach from end to end, in steps that hardly differ', () => {
  for (const range of [7, 8, 11, 12, 13, 18, 19, 20]) {
    const values = [...astcColors(range)].sort((a, b) => a - b);
    const { bits, steps } = ASTC_RANGES[range]!;
    expect([values[0], values.at(-1), new Set(values).size]).toEqual([0, 255, steps << bits]);
    const step = 255 / (values.length - 1);
    values.forEach((value, i) => expect(Math.abs(value - i * step)).toBeLessThanOrEqual(2));
  }
  for (const bits of [1, 2, 3, 4, 5])
    expect([astcWeight(0, bits), astcWeight((1 << bits) - 1, bits)]).toEqual([0, 64]);
});

test('bits are read as they were written, and the end is noticed', () => {
  const bytes = new Uint8Array(8);
  const to = new BitWriter(bytes);
  const numbers = [
    [5, 3],
    [1000, 10],
    [0, 1],
    [65535, 16],
    [1, 7],
  ] as const;
  for (const [value, count] of numbers) to.write(value, count);
  const from = new BitReader(bytes);
  expect(numbers.map(([, count]) => from.read(count))).toEqual(numbers.map(([value]) => value));
  expect(from.isOver).toBe(false);
  from.read(24);
  from.read(24);
  expect(from.isOver).toBe(true);
});

test('codes of Huffman are canonical, and those that cannot be are refused', () => {
  // Lengths 1, 2, 3, 3: 0, 10, 110, 111, the highest bit first.
  const table = new HuffmanTable(Uint8Array.of(1, 2, 3, 3));
  const again = new BitReader(Uint8Array.of(0b0011_1010));
  // 0, then 10, then 111.
  expect([table.read(again), table.read(again), table.read(again)]).toEqual([0, 1, 3]);
  expect(() => new HuffmanTable(Uint8Array.of(1, 1, 1))).toThrow('codes do not fit together');
  const sparse = new HuffmanTable(Uint8Array.of(2, 0, 2));
  expect(() => sparse.read(new BitReader(Uint8Array.of(0b11)))).toThrow('bits that stand for nothing');
});
