import { type BlockDecoder, paintBlack } from './bc.js';

/** Reads blocks of ETC1, ETC2 and EAC into pixels, by the formulas of the Khronos Data Format Specification, chapters 21 and 22. */

/** What the inner and the outer two of four colours differ by from that of their half. */
export const INTENSITIES = [
  [2, 8],
  [5, 17],
  [9, 29],
  [13, 42],
  [18, 60],
  [24, 80],
  [33, 106],
  [47, 183],
] as const;
const DISTANCES = [3, 6, 11, 16, 23, 32, 41, 64] as const;

const byte = (value: number): number => Math.max(0, Math.min(255, value));
const wide4 = (value: number): number => value * 17;
const wide5 = (value: number): number => (value << 3) | (value >> 2);
const wide6 = (value: number): number => (value << 2) | (value >> 4);
const wide7 = (value: number): number => (value << 1) | (value >> 6);

/** Number of 0..3 that a pixel has; pixels go down the columns. */
function numberOf(low: number, x: number, y: number): number {
  const i = x * 4 + y;
  return (((low >>> (16 + i)) & 1) << 1) | ((low >>> i) & 1);
}

function words(bytes: Uint8Array, at: number): [high: number, low: number] {
  const word = (k: number): number =>
    ((bytes[at + k]! << 24) | (bytes[at + k + 1]! << 16) | (bytes[at + k + 2]! << 8) | bytes[at + k + 3]!) >>>
    0; // eight bytes
  return [word(0), word(4)];
}

/** @param isPunched whether the differential bit says that all is opaque instead */
function readColors(bytes: Uint8Array, at: number, out: Uint8Array, isPunched: boolean): void {
  const [high, low] = words(bytes, at);
  const part = (shift: number, bits: number): number => (high >>> shift) & ((1 << bits) - 1);
  const flag = part(1, 1) === 1;
  const isOpaque = !isPunched || flag;
  if (!isPunched && !flag) {
    const first = [wide4(part(28, 4)), wide4(part(20, 4)), wide4(part(12, 4))];
    const second = [wide4(part(24, 4)), wide4(part(16, 4)), wide4(part(8, 4))];
    return halves(out, high, low, first, second, true);
  }
  const base = [part(27, 5), part(19, 5), part(11, 5)];
  const signed = (value: number): number => (value > 3 ? value - 8 : value);
  const other = [24, 16, 8].map((shift, c) => base[c]! + signed(part(shift, 3))); // three
  const isOut = (c: number): boolean => other[c]! < 0 || other[c]! > 31;
  if (isOut(0)) return tMode(out, high, low, isOpaque);
  if (isOut(1)) return hMode(out, high, low, isOpaque);
  if (isOut(2)) return planar(out, high, low);
  return halves(out, high, low, base.map(wide5), other.map(wide5), isOpaque);
}

function put(out: Uint8Array, x: number, y: number, color: readonly number[], more: number): void {
  const to = (y * 4 + x) * 4;
  for (let c = 0; c < 3; c++) out[to + c] = byte(color[c]! + more); // three
  out[to + 3] = 255;
}

function halves(
  out: Uint8Array,
  high: number,
  low: number,
  first: readonly number[],
  second: readonly number[],
  isOpaque: boolean,
): void {
  const isFlipped = (high & 1) === 1;
  const tables = [(high >>> 5) & 7, (high >>> 2) & 7];
  for (let x = 0; x < 4; x++)
    for (let y = 0; y < 4; y++) {
      const half = (isFlipped ? y : x) >> 1;
      const [inner, outer] = INTENSITIES[tables[half]!]!; // eight tables
      const number = numberOf(low, x, y);
      if (!isOpaque && number === 2) {
        out.fill(0, (y * 4 + x) * 4, (y * 4 + x) * 4 + 4);
        continue;
      }
      const size = number & 1 ? outer : isOpaque ? inner : 0;
      put(out, x, y, half ? second : first, number & 2 ? -size : size);
    }
}

/** Paints pixels in four colours. */
function paint(
  out: Uint8Array,
  low: number,
  colors: readonly (readonly number[])[],
  isOpaque: boolean,
): void {
  for (let x = 0; x < 4; x++)
    for (let y = 0; y < 4; y++) {
      const number = numberOf(low, x, y);
      if (!isOpaque && number === 2) out.fill(0, (y * 4 + x) * 4, (y * 4 + x) * 4 + 4);
      else put(out, x, y, colors[number]!, 0); // four
    }
}

const moved = (color: readonly number[], by: number): number[] => color.map((value) => byte(value + by));

function tMode(out: Uint8Array, high: number, low: number, isOpaque: boolean): void {
  const part = (shift: number, bits: number): number => (high >>> shift) & ((1 << bits) - 1);
  const first = [(part(27, 2) << 2) | part(24, 2), part(20, 4), part(16, 4)].map(wide4);
  const second = [part(12, 4), part(8, 4), part(4, 4)].map(wide4);
  const distance = DISTANCES[(part(2, 2) << 1) | part(0, 1)]!; // eight
  paint(out, low, [first, moved(second, distance), second, moved(second, -distance)], isOpaque);
}

function hMode(out: Uint8Array, high: number, low: number, isOpaque: boolean): void {
  const part = (shift: number, bits: number): number => (high >>> shift) & ((1 << bits) - 1);
  const one = [part(27, 4), (part(24, 3) << 1) | part(20, 1), (part(19, 1) << 3) | part(15, 3)];
  const two = [part(11, 4), part(7, 4), part(3, 4)];
  const number = (four: readonly number[]): number => (four[0]! << 8) | (four[1]! << 4) | four[2]!; // three each
  const last = number(one) >= number(two) ? 1 : 0;
  const distance = DISTANCES[(part(2, 1) << 2) | (part(0, 1) << 1) | last]!; // eight
  const [first, second] = [one.map(wide4), two.map(wide4)];
  paint(
    out,
    low,
    [moved(first, distance), moved(first, -distance), moved(second, distance), moved(second, -distance)],
    isOpaque,
  );
}

/** Colours at three corners, and planes through them. */
function planar(out: Uint8Array, high: number, low: number): void {
  const part = (word: number, shift: number, bits: number): number => (word >>> shift) & ((1 << bits) - 1);
  const origin = [
    wide6(part(high, 25, 6)),
    wide7((part(high, 24, 1) << 6) | part(high, 17, 6)),
    wide6((part(high, 16, 1) << 5) | (part(high, 11, 2) << 3) | part(high, 7, 3)),
  ];
  const right = [
    wide6((part(high, 2, 5) << 1) | part(high, 0, 1)),
    wide7(part(low, 25, 7)),
    wide6(part(low, 19, 6)),
  ];
  const below = [wide6(part(low, 13, 6)), wide7(part(low, 6, 7)), wide6(part(low, 0, 6))];
  for (let y = 0; y < 4; y++)
    for (let x = 0; x < 4; x++) {
      const color = origin.map(
        (o, c) => (x * (right[c]! - o) + y * (below[c]! - o) + 4 * o + 2) >> 2, // three each
      );
      put(out, x, y, color, 0);
    }
}

/** Modifiers of EAC, by table and number. */
export const EAC_MODIFIERS: readonly (readonly number[])[] = [
  [-3, -6, -9, -15],
  [-3, -7, -10, -13],
  [-2, -5, -8, -13],
  [-2, -4, -6, -13],
  [-3, -6, -8, -12],
  [-3, -7, -9, -11],
  [-4, -7, -8, -11],
  [-3, -5, -8, -11],
  [-2, -6, -8, -10],
  [-2, -5, -8, -10],
  [-2, -4, -8, -10],
  [-2, -5, -7, -10],
  [-3, -4, -7, -10],
  [-1, -2, -3, -10],
  [-4, -6, -8, -9],
  [-3, -5, -7, -9],
].map((lower) => [...lower, ...lower.map((value) => -value - 1)]);

/** @param isEleven whether the numbers have eleven bits, as those of one and two channels do */
function readEac(bytes: Uint8Array, at: number, out: Uint8Array, channel: number, isEleven: boolean): void {
  const base = bytes[at]!; // eight bytes
  const factor = bytes[at + 1]! >> 4;
  const modifiers = EAC_MODIFIERS[bytes[at + 1]! & 15]!; // sixteen
  for (let x = 0; x < 4; x++)
    for (let y = 0; y < 4; y++) {
      const bit = 45 - (x * 4 + y) * 3;
      let number = 0;
      for (let k = 0; k < 3; k++) number |= ((bytes[at + 7 - ((bit + k) >> 3)]! >> ((bit + k) & 7)) & 1) << k;
      const modifier = modifiers[number]!; // eight
      const value = isEleven
        ? (Math.max(0, Math.min(2047, base * 8 + 4 + modifier * (factor === 0 ? 1 : factor * 8))) * 255) /
          2047
        : byte(base + modifier * factor);
      out[(y * 4 + x) * 4 + channel] = Math.round(value);
    }
}

export const ETC_DECODERS: Readonly<Record<string, BlockDecoder>> = {
  'etc2-rgb8unorm': (bytes, at, out) => readColors(bytes, at, out, false),
  'etc2-rgb8a1unorm': (bytes, at, out) => readColors(bytes, at, out, true),
  'etc2-rgba8unorm': (bytes, at, out) => {
    readColors(bytes, at + 8, out, false);
    readEac(bytes, at, out, 3, false);
  },
  'eac-r11unorm': (bytes, at, out) => {
    paintBlack(out);
    readEac(bytes, at, out, 0, true);
  },
  'eac-rg11unorm': (bytes, at, out) => {
    paintBlack(out);
    readEac(bytes, at, out, 0, true);
    readEac(bytes, at + 8, out, 1, true);
  },
};
