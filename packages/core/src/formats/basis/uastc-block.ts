import { astcPartition } from './astc-partitions.js';
import { ASTC_RANGES } from './astc-ranges.js';
import { BitReader } from './bits.js';
import {
  MODE_BY_BITS,
  ONE_COLOR,
  THREE_SUBSETS,
  TWO_OF_THREE,
  TWO_SUBSETS,
  UASTC_MODES,
  type UastcMode,
} from './uastc-modes.js';

/** A block of 4 x 4 pixels, taken apart. */
export interface UastcBlock {
  mode: UastcMode;
  /** For blocks of one colour: RGBA. */
  color: Uint8Array | undefined;
  /** Seed of ASTC's partition, where there are subsets. */
  seed: number;
  /** By pixel: its subset. */
  partition: Uint8Array;
  /** Component that the second plane of weights is for; 0 where there is none. */
  second: number;
  /** Values of the mode's range: both ends of the first component, of the next, and so on, subset by subset. */
  ends: Uint8Array;
  /** Plane by plane in each pixel. */
  weights: Uint8Array;
}

const WHOLE = new Uint8Array(16);

interface Subsets {
  seed: number;
  partition: Uint8Array;
  /** First pixel of each subset: its weight has its highest bit clear. */
  anchors: readonly number[];
}

const ONE_SUBSET: Subsets = { seed: 0, partition: WHOLE, anchors: [0] };
const known = new Map<number, Subsets>();

function subsetsOf(seed: number, count: number): Subsets {
  const key = seed * 4 + count;
  let found = known.get(key);
  if (!found) {
    const partition = astcPartition(seed, count);
    const anchors = Array.from({ length: count }, (_, subset) => partition.indexOf(subset));
    known.set(key, (found = { seed, partition, anchors }));
  }
  return found;
}

/** @throws Error for a mode or a pattern that is not there */
export function readUastcBlock(bytes: Uint8Array): UastcBlock {
  const from = new BitReader(bytes);
  const { mode: number, bits } = MODE_BY_BITS[from.peek(7)]!; // 128 of them
  from.at = bits;
  const mode = UASTC_MODES[number];
  if (!mode) throw new Error('a block has a mode that is not there');
  if (number === ONE_COLOR) {
    const color = Uint8Array.from({ length: 4 }, () => from.read(8));
    return { mode, color, seed: 0, partition: WHOLE, second: 0, ends: WHOLE, weights: WHOLE };
  }
  from.at += mode.hints;
  const subsets = readSubsets(from, number, mode);
  // Mode 17 says opacity without saying it.
  const second = mode.planes === 1 ? 0 : mode.components === 2 ? 3 : from.read(2);
  const ends = readEnds(from, mode);
  const weights = new Uint8Array(16 * mode.planes);
  for (let i = 0; i < weights.length; i++) {
    const pixel = mode.planes === 2 ? i >> 1 : i;
    weights[i] = from.read(mode.weightBits - (subsets.anchors.includes(pixel) ? 1 : 0));
  }
  return { mode, color: undefined, seed: subsets.seed, partition: subsets.partition, second, ends, weights };
}

function readSubsets(from: BitReader, number: number, { subsets }: UastcMode): Subsets {
  if (subsets === 1) return ONE_SUBSET;
  const seeds = subsets === 3 ? THREE_SUBSETS : number === 7 ? TWO_OF_THREE : TWO_SUBSETS;
  const seed = seeds[from.read(subsets === 3 ? 4 : 5)];
  if (seed === undefined) throw new Error('a block has a pattern that is not there');
  return subsetsOf(seed, subsets);
}

/** Bits of a group of trits or quints of which only the first so many are there. */
const GROUP_BITS = { 3: [0, 2, 4, 5, 7, 8], 5: [0, 3, 5, 7] } as const;

/** What stands above the bits comes first, in groups: digits of one number, the first the lowest. */
function readEnds(from: BitReader, { components, range, subsets }: UastcMode): Uint8Array {
  const { bits, steps } = ASTC_RANGES[range]!; // one of the 21
  const ends = new Uint8Array(2 * components * subsets);
  if (steps > 1) {
    const widths = GROUP_BITS[steps as 3 | 5];
    const size = widths.length - 1;
    for (let first = 0; first < ends.length; first += size) {
      const count = Math.min(size, ends.length - first);
      let packed = from.read(widths[count]!); // as long as a group
      for (let i = 0; i < count; i++) {
        ends[first + i] = (packed % steps) << bits;
        packed = Math.floor(packed / steps);
      }
    }
  }
  for (let i = 0; i < ends.length; i++) ends[i]! |= from.read(bits); // i < length
  return ends;
}
