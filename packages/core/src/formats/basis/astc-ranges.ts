/** Numbers of a range of ASTC: so many bits, and above them a trit or a quint (integer sequences, section 23.11 of its specification). */
export interface AstcRange {
  bits: number;
  /** How many values what stands above the bits has: 1, 3 or 5. */
  steps: 1 | 3 | 5;
}

const range = (bits: number, steps: 1 | 3 | 5): AstcRange => ({ bits, steps });

/** By ASTC's number of the range: 2, 3, 4, 5, 6, 8, 10, 12, 16 ... 256 values. */
export const ASTC_RANGES: readonly AstcRange[] = [
  range(1, 1),
  range(0, 3),
  range(2, 1),
  range(0, 5),
  range(1, 3),
  range(3, 1),
  range(1, 5),
  range(2, 3),
  range(4, 1),
  range(2, 5),
  range(3, 3),
  range(5, 1),
  range(3, 5),
  range(4, 3),
  range(6, 1),
  range(4, 5),
  range(5, 3),
  range(7, 1),
  range(5, 5),
  range(6, 3),
  range(8, 1),
];

/** How the bits above the lowest are spread over nine, and what a step is worth, by `steps` and `bits` (table 23.17). */
const SPREADS: Record<string, { b: (x: number) => number; c: number }> = {
  '3 1': { b: () => 0, c: 204 },
  '3 2': { b: (x) => x * 0b100010110, c: 93 },
  '3 3': { b: (x) => (x << 7) | (x << 2) | x, c: 44 },
  '3 4': { b: (x) => (x << 6) | x, c: 22 },
  '3 5': { b: (x) => (x << 5) | (x >> 2), c: 11 },
  '3 6': { b: (x) => (x << 4) | (x >> 4), c: 5 },
  '5 1': { b: () => 0, c: 113 },
  '5 2': { b: (x) => x * 0b100001100, c: 54 },
  '5 3': { b: (x) => (x << 7) | (x << 1) | (x >> 1), c: 26 },
  '5 4': { b: (x) => (x << 6) | (x >> 1), c: 13 },
  '5 5': { b: (x) => (x << 5) | (x >> 3), c: 6 },
};

const made: (Uint8Array | undefined)[] = [];

/** Colours of 0..255 by the values of a range. Its values: the step above, the bits below. */
export function astcColors(index: number): Uint8Array {
  return (made[index] ??= makeColors(ASTC_RANGES[index]!)); // one of the 21
}

function makeColors({ bits, steps }: AstcRange): Uint8Array {
  const out = new Uint8Array(steps << bits);
  for (let value = 0; value < out.length; value++) {
    const low = value & ((1 << bits) - 1);
    const step = value >> bits;
    if (steps === 1) {
      // Repeated until there are eight bits.
      let wide = 0;
      for (let have = 0; have < 8; have += bits) wide = (wide << bits) | low;
      out[value] = wide >> ((8 % bits === 0 ? 8 : bits * Math.ceil(8 / bits)) - 8);
      continue;
    }
    const { b, c } = SPREADS[`${steps} ${bits}`]!; // of every range that is used
    const a = low & 1 ? 0x1ff : 0;
    const t = (step * c + b(low >> 1)) ^ a;
    out[value] = (a & 0x80) | (t >> 2);
  }
  return out;
}

/** A weight of 0..64 by a number of `bits` bits (section 23.13). */
export function astcWeight(value: number, bits: number): number {
  let wide = 0;
  for (let have = 0; have < 6; have += bits) wide = (wide << bits) | value;
  wide >>= bits * Math.ceil(6 / bits) - 6;
  return wide > 32 ? wide + 1 : wide;
}
