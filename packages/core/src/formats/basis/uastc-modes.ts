/** How the blocks of a mode are made up: the table of the specification of UASTC. */
export interface UastcMode {
  /** Bits of each weight. */
  weightBits: number;
  /** ASTC's number of the range that colours have. */
  range: number;
  subsets: 1 | 2 | 3;
  /** Weights a pixel. */
  planes: 1 | 2;
  /** 2: brightness and opacity; 3: RGB; 4: RGBA. */
  components: 2 | 3 | 4;
  /** Bits of hints for other formats, which are passed over. */
  hints: number;
}

const mode = (
  weightBits: number,
  range: number,
  subsets: 1 | 2 | 3,
  planes: 1 | 2,
  components: 2 | 3 | 4,
  hints: number,
): UastcMode => ({ weightBits, range, subsets, planes, components, hints });

/** The mode of blocks of one colour, which have nothing of these. */
export const ONE_COLOR = 8;

export const UASTC_MODES: readonly UastcMode[] = [
  mode(4, 19, 1, 1, 3, 15),
  mode(2, 20, 1, 1, 3, 15),
  mode(3, 8, 2, 1, 3, 15),
  mode(2, 7, 3, 1, 3, 15),
  mode(2, 12, 2, 1, 3, 15),
  mode(3, 20, 1, 1, 3, 15),
  mode(2, 18, 1, 2, 3, 15),
  mode(2, 12, 2, 1, 3, 15),
  mode(0, 0, 1, 1, 4, 0),
  mode(2, 8, 2, 1, 4, 23),
  mode(4, 13, 1, 1, 4, 17),
  mode(2, 13, 1, 2, 4, 17),
  mode(3, 19, 1, 1, 4, 17),
  mode(1, 20, 1, 2, 4, 23),
  mode(2, 20, 1, 1, 4, 23),
  mode(4, 20, 1, 1, 2, 23),
  mode(2, 20, 2, 1, 2, 23),
  mode(2, 20, 1, 2, 2, 23),
  mode(5, 11, 1, 1, 3, 15),
];

/** The bits that each mode begins with, lowest first, and how many. */
const CODES: readonly (readonly [code: number, bits: number])[] = [
  [0x1, 4],
  [0x35, 6],
  [0x1d, 5],
  [0x3, 5],
  [0x13, 5],
  [0xb, 5],
  [0x1b, 5],
  [0x7, 5],
  [0x17, 5],
  [0xf, 5],
  [0x2, 3],
  [0x0, 2],
  [0x6, 3],
  [0x1f, 5],
  [0xd, 5],
  [0x5, 7],
  [0x15, 6],
  [0x25, 6],
  [0x9, 4],
];

/** By the first seven bits: the mode and the length of its code; modes that are not there: 255. */
export const MODE_BY_BITS: readonly { mode: number; bits: number }[] = Array.from(
  { length: 128 },
  (_, first) => {
    const found = CODES.findIndex(([code, bits]) => (first & ((1 << bits) - 1)) === code);
    return found < 0 ? { mode: 255, bits: 7 } : { mode: found, bits: CODES[found]![1] }; // found
  },
);

/** Seeds of ASTC's partitions that two other formats have as well, by the pattern's number. */
export const TWO_SUBSETS = [
  28, 20, 16, 29, 91, 9, 107, 72, 149, 204, 50, 114, 496, 17, 78, 39, 252, 828, 43, 156, 116, 210, 476, 273,
  684, 359, 246, 195, 694, 524,
];
export const THREE_SUBSETS = [260, 74, 32, 156, 183, 15, 745, 0, 335, 902, 254];
/** Two subsets of three that another format has: mode 7. */
export const TWO_OF_THREE = [
  36, 48, 61, 137, 161, 183, 226, 281, 302, 307, 479, 495, 593, 594, 605, 799, 812, 988, 993,
];
