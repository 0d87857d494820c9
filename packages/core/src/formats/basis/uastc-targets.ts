import { ASTC_RANGES, astcColors, astcWeight } from './astc-ranges.js';
import { BitWriter } from './bits.js';
import { readUastcBlock, type UastcBlock } from './uastc-block.js';

/** Bytes of a block, in UASTC and in ASTC. */
const BLOCK = 16;

/** Both ends of a subset as RGBA of 0..255. */
function colorsOf({ ends, mode }: UastcBlock, subset: number): [Uint8Array, Uint8Array] {
  const colors = astcColors(mode.range);
  const { components } = mode;
  const end = (which: number): Uint8Array => {
    const value = (component: number): number =>
      colors[ends[(subset * components + component) * 2 + which]!]!; // values of the range
    if (components === 2) return Uint8Array.of(value(0), value(0), value(0), value(1));
    return Uint8Array.of(value(0), value(1), value(2), components === 4 ? value(3) : 255);
  };
  return [end(0), end(1)];
}

/**
 * As pixels: rows from the top, RGBA.
 *
 * @throws Error saying which block is wrong
 */
export function uastcPixels(
  bytes: Uint8Array,
  width: number,
  height: number,
  isSrgb: boolean,
): Uint8Array<ArrayBuffer> {
  const out = new Uint8Array(width * height * 4);
  const columns = (width + 3) >> 2;
  for (let by = 0; by < height; by += 4)
    for (let bx = 0; bx < width; bx += 4) {
      const at = ((by >> 2) * columns + (bx >> 2)) * BLOCK;
      const block = readUastcBlock(bytes.subarray(at, at + BLOCK));
      const { color, mode, partition, second, weights } = block;
      const colors = color
        ? []
        : Array.from({ length: mode.subsets }, (_, subset) => colorsOf(block, subset));
      for (let y = by; y < Math.min(by + 4, height); y++)
        for (let x = bx; x < Math.min(bx + 4, width); x++) {
          const to = (y * width + x) * 4;
          const pixel = (y - by) * 4 + x - bx;
          if (color) {
            out.set(color, to);
            continue;
          }
          const [low, high] = colors[partition[pixel]!]!; // subsets of the mode
          for (let c = 0; c < 4; c++) {
            const plane = mode.planes === 2 && c === second ? 1 : 0;
            const weight = astcWeight(weights[pixel * mode.planes + plane]!, mode.weightBits); // of the block
            out[to + c] = between(low[c]!, high[c]!, weight, isSrgb);
          }
        }
    }
  return out;
}

/** ASTC's way from one colour to another in sixteen bits (section 23.19); sRGB colours widen otherwise. */
function between(low: number, high: number, weight: number, isSrgb: boolean): number {
  const wide = (value: number): number => (value << 8) | (isSrgb ? 0x80 : value);
  return ((wide(low) * (64 - weight) + wide(high) * weight + 32) >> 6) >> 8;
}

/** As ASTC of 4 x 4 pixels: the same numbers, put otherwise. */
export function uastcToAstc(bytes: Uint8Array): Uint8Array<ArrayBuffer> {
  const out = new Uint8Array(bytes.length);
  for (let at = 0; at + BLOCK <= bytes.length; at += BLOCK)
    writeAstc(readUastcBlock(bytes.subarray(at, at + BLOCK)), out.subarray(at, at + BLOCK));
  return out;
}

/** How colours are told, by number of components: both ends directly. */
const ENDPOINT_MODES = { 2: 4, 3: 8, 4: 12 } as const;

function writeAstc(block: UastcBlock, out: Uint8Array): void {
  const to = new BitWriter(out);
  const { color, mode, partition, second, seed } = block;
  if (color) {
    // One colour over no extent in particular: all coordinates are ones.
    to.write(0xdfc, 12);
    for (let i = 0; i < 4; i++) to.write(0x1fff, 13);
    for (const value of color) to.write(value * 257, 16);
    return;
  }
  const weights = block.weights.slice();
  const ends = block.ends.slice();
  keepBlue(block, ends, weights, partition);
  to.write(blockMode(mode.weightBits, mode.planes), 11);
  to.write(mode.subsets - 1, 2);
  if (mode.subsets > 1) {
    to.write(seed, 10);
    // All subsets tell their colours alike.
    to.write(0, 2);
  }
  to.write(ENDPOINT_MODES[mode.components], 4);
  writeSequence(to, ends, mode.range);
  // Weights come from the other end, their bits turned about.
  let at = 127;
  for (const weight of weights)
    for (let k = 0; k < mode.weightBits; k++, at--) if ((weight >> k) & 1) out[at >> 3]! |= 1 << (at & 7); // sixteen bytes
  if (mode.planes === 2) {
    to.at = at - 1;
    to.write(second, 2);
  }
}

/** A grid of 4 x 4 weights of so many bits (table 23.8). */
function blockMode(weightBits: number, planes: number): number {
  const isHigh = weightBits > 3;
  // Ranges of weights: 2, 4, 8 values, or 16, 32 where the high bit is set.
  const three = { 1: 2, 2: 4, 3: 7, 4: 4, 5: 7 }[weightBits as 1 | 2 | 3 | 4 | 5];
  return (three >> 1) | ((three & 1) << 4) | (2 << 5) | (isHigh ? 0x200 : 0) | (planes === 2 ? 0x400 : 0);
}

/**
 * ASTC takes blue to be contracted where the first end is the brighter one, and UASTC never does: such ends change places,
 * and the weights with them.
 */
function keepBlue({ mode }: UastcBlock, ends: Uint8Array, weights: Uint8Array, partition: Uint8Array): void {
  const { components, planes, subsets, weightBits } = mode;
  if (components === 2) return;
  const colors = astcColors(mode.range);
  for (let subset = 0; subset < subsets; subset++) {
    const first = subset * components * 2;
    const sum = (which: number): number =>
      [0, 1, 2].reduce((total, c) => total + colors[ends[first + c * 2 + which]!]!, 0); // values of the range
    if (sum(1) >= sum(0)) continue;
    for (let c = first; c < first + components * 2; c += 2) [ends[c], ends[c + 1]] = [ends[c + 1]!, ends[c]!]; // pairs
    for (let i = 0; i < weights.length; i++)
      if (partition[planes === 2 ? i >> 1 : i] === subset) weights[i] = (1 << weightBits) - 1 - weights[i]!; // i < length
  }
}

/** Writes values of a range as ASTC does (section 23.11): bits of digits lie between those of the values. */
function writeSequence(to: BitWriter, values: Uint8Array, range: number): void {
  const { bits, steps } = ASTC_RANGES[range]!; // one of the 21
  const low = (value: number): number => value & ((1 << bits) - 1);
  if (steps === 1) {
    for (const value of values) to.write(value, bits);
    return;
  }
  const widths = steps === 3 ? [2, 2, 1, 2, 1] : [3, 2, 2];
  for (let first = 0; first < values.length; first += widths.length) {
    const group = Array.from(values.subarray(first, first + widths.length));
    let packed = packedDigits(
      steps,
      group.map((value) => value >> bits),
    );
    group.forEach((value, i) => {
      to.write(low(value), bits);
      const width = widths[i]!; // as many as a group has
      to.write(packed & ((1 << width) - 1), width);
      packed >>= width;
    });
  }
}

const packings = new Map<string, number>();

/** The number that stands for these digits; those that are not given are 0. */
function packedDigits(steps: 3 | 5, digits: readonly number[]): number {
  if (packings.size === 0) {
    for (let packed = 255; packed >= 0; packed--) packings.set(`3 ${trits(packed).join(' ')}`, packed);
    for (let packed = 127; packed >= 0; packed--) packings.set(`5 ${quints(packed).join(' ')}`, packed);
  }
  const whole = [...digits, 0, 0, 0, 0].slice(0, steps === 3 ? 5 : 3);
  return packings.get(`${steps} ${whole.join(' ')}`)!; // every set of digits has one
}

/** Five trits of eight bits: section 23.12. */
function trits(packed: number): number[] {
  const bit = (from: number, at: number): number => (from >> at) & 1;
  let c: number;
  let t3: number;
  let t4: number;
  if (((packed >> 2) & 7) === 7) {
    c = (((packed >> 5) & 7) << 2) | (packed & 3);
    t4 = t3 = 2;
  } else {
    c = packed & 31;
    if (((packed >> 5) & 3) === 3) {
      t4 = 2;
      t3 = bit(packed, 7);
    } else {
      t4 = bit(packed, 7);
      t3 = (packed >> 5) & 3;
    }
  }
  if ((c & 3) === 3) return [(bit(c, 3) << 1) | (bit(c, 2) & ~bit(c, 3)), bit(c, 4), 2, t3, t4];
  if (((c >> 2) & 3) === 3) return [c & 3, 2, 2, t3, t4];
  return [(bit(c, 1) << 1) | (bit(c, 0) & ~bit(c, 1)), (c >> 2) & 3, bit(c, 4), t3, t4];
}

/** Three quints of seven bits. */
function quints(packed: number): number[] {
  const bit = (at: number): number => (packed >> at) & 1;
  if (((packed >> 1) & 3) === 3 && ((packed >> 5) & 3) === 0) {
    const low = bit(0);
    return [4, 4, (low << 2) | ((bit(4) & ~low) << 1) | (bit(3) & ~low)];
  }
  let c: number;
  let q2: number;
  if (((packed >> 1) & 3) === 3) {
    q2 = 4;
    c = (((packed >> 3) & 3) << 3) | ((~(packed >> 5) & 3) << 1) | bit(0);
  } else {
    q2 = (packed >> 5) & 3;
    c = packed & 31;
  }
  if ((c & 7) === 5) return [(c >> 3) & 3, 4, q2];
  return [c & 7, (c >> 3) & 3, q2];
}
