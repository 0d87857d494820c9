import { EAC_MODIFIERS, INTENSITIES } from '../blocks/etc2.js';
import type { Etc1sCodebooks } from './etc1s-codebooks.js';
import type { Etc1sBlocks } from './etc1s-slice.js';

const wide = (five: number): number => (five << 3) | (five >> 2);
const byte = (value: number): number => Math.max(0, Math.min(255, value));

/** What is added to a colour for a selector of 0..3. */
function step(intensity: number, selector: number): number {
  const [inner, outer] = INTENSITIES[intensity]!; // three bits
  return selector === 0 ? -outer : selector === 1 ? -inner : selector === 2 ? inner : outer;
}

/**
 * As pixels: rows from the top, RGBA.
 *
 * @param alpha blocks whose green is the opacity; left out: all is opaque
 */
export function etc1sPixels(
  books: Etc1sCodebooks,
  color: Etc1sBlocks,
  alpha: Etc1sBlocks | undefined,
  width: number,
  height: number,
): Uint8Array<ArrayBuffer> {
  const { endpoints, selectors } = books;
  const out = new Uint8Array(width * height * 4).fill(255);
  const draw = (blocks: Etc1sBlocks, isAlpha: boolean): void => {
    for (let y = 0; y < height; y++)
      for (let x = 0; x < width; x++) {
        const block = (y >> 2) * blocks.columns + (x >> 2);
        // Blocks cover the picture, and name what is there.
        const e = blocks.endpoints[block]! * 4;
        const row = selectors[blocks.selectors[block]! * 4 + (y & 3)]!;
        const more = step(endpoints[e + 3]!, (row >> ((x & 3) * 2)) & 3);
        const at = (y * width + x) * 4;
        if (isAlpha) out[at + 3] = byte(wide(endpoints[e + 1]!) + more);
        else for (let c = 0; c < 3; c++) out[at + c] = byte(wide(endpoints[e + c]!) + more);
      }
  };
  draw(color, false);
  if (alpha) draw(alpha, true);
  return out;
}

/** Writes one block at a place, by its colour and rows of selectors. */
type BlockWriter = (
  out: Uint8Array,
  at: number,
  endpoints: Uint8Array,
  e: number,
  selectors: Uint8Array,
  s: number,
) => void;

/** Blocks of eight bytes for colours, with eight for opacity ahead of each where there is some. */
function packed(
  { endpoints, selectors }: Etc1sCodebooks,
  color: Etc1sBlocks,
  alpha: Etc1sBlocks | undefined,
  writeColor: BlockWriter,
  writeAlpha: BlockWriter,
): Uint8Array<ArrayBuffer> {
  const stride = alpha ? 16 : 8;
  const out = new Uint8Array(color.endpoints.length * stride);
  const write = (blocks: Etc1sBlocks, offset: number, writer: BlockWriter): void =>
    blocks.endpoints.forEach(
      (endpoint, i) =>
        writer(out, i * stride + offset, endpoints, endpoint * 4, selectors, blocks.selectors[i]! * 4), // as many
    );
  if (alpha) write(alpha, 0, writeAlpha);
  write(color, stride - 8, writeColor);
  return out;
}

/** As ETC2 (8 bytes a block), or with opacity as ETC2 with EAC (16 bytes): colours stay the same to the bit. */
export const etc1sToEtc2 = (
  books: Etc1sCodebooks,
  color: Etc1sBlocks,
  alpha?: Etc1sBlocks,
): Uint8Array<ArrayBuffer> => packed(books, color, alpha, writeEtc, writeEac);

/** As BC1 (8 bytes a block), or with opacity as BC3 (16 bytes). Both interpolate in thirds, where ETC1 has .3 to .37. */
export const etc1sToBc = (
  books: Etc1sCodebooks,
  color: Etc1sBlocks,
  alpha?: Etc1sBlocks,
): Uint8Array<ArrayBuffer> => packed(books, color, alpha, writeBc1, writeBc4);

/** ETC1's numbers of what is darkest to brightest. */
const ETC_ORDER = [3, 2, 0, 1];

/** Bytes as in the specification of ETC1, differential mode, both halves alike. Pixels go down the columns. */
const writeEtc: BlockWriter = (out, at, endpoints, e, selectors, s) => {
  for (let c = 0; c < 3; c++) out[at + c] = endpoints[e + c]! << 3; // four bytes each, here and below
  const intensity = endpoints[e + 3]!;
  out[at + 3] = (intensity << 5) | (intensity << 2) | 2;
  let high = 0;
  let low = 0;
  for (let y = 0; y < 4; y++)
    for (let x = 0; x < 4; x++) {
      const number = ETC_ORDER[(selectors[s + y]! >> (x * 2)) & 3]!; // of four
      high |= (number >> 1) << (x * 4 + y);
      low |= (number & 1) << (x * 4 + y);
    }
  out[at + 4] = high >> 8;
  out[at + 5] = high;
  out[at + 6] = low >> 8;
  out[at + 7] = low;
};

interface EacFit {
  base: number;
  table: number;
  factor: number;
  /** By selector: which modifier. */
  indices: number[];
}

const eacFits = new Map<number, EacFit>();

/** The block of EAC that comes nearest to the four values of a gray block. */
function eacFit(value: number, intensity: number): EacFit {
  const key = value * 8 + intensity;
  const known = eacFits.get(key);
  if (known) return known;
  const wanted = [0, 1, 2, 3].map((selector) => byte(wide(value) + step(intensity, selector)));
  const base = (wanted[0]! + wanted[3]! + 1) >> 1; // four
  let best: EacFit = { base, table: 0, factor: 0, indices: [] };
  let least = Infinity;
  for (let table = 0; table < 16 && least > 0; table++)
    for (let factor = 1; factor < 16; factor++) {
      let sum = 0;
      const indices = wanted.map((one) => {
        let index = 0;
        let miss = Infinity;
        for (let k = 0; k < 8; k++) {
          const off = Math.abs(byte(base + factor * EAC_MODIFIERS[table]![k]!) - one);
          if (off < miss) [miss, index] = [off, k];
        }
        sum += miss * miss;
        return index;
      });
      if (sum < least) {
        least = sum;
        best = { base, table, factor, indices };
      }
    }
  eacFits.set(key, best);
  return best;
}

const writeEac: BlockWriter = (out, at, endpoints, e, selectors, s) => {
  const { base, table, factor, indices } = eacFit(endpoints[e + 1]!, endpoints[e + 3]!); // four bytes each
  out[at] = base;
  out[at + 1] = (factor << 4) | table;
  // 48 bits, the highest first; pixels go down the columns.
  for (let x = 0; x < 4; x++)
    for (let y = 0; y < 4; y++) {
      const index = indices[(selectors[s + y]! >> (x * 2)) & 3]!; // of four
      const bit = 45 - (x * 4 + y) * 3;
      for (let k = 0; k < 3; k++)
        if ((index >> k) & 1) out[at + 7 - ((bit + k) >> 3)]! |= 1 << ((bit + k) & 7);
    }
};

const to565 = (r: number, g: number, b: number): number =>
  (Math.round((r * 31) / 255) << 11) | (Math.round((g * 63) / 255) << 5) | Math.round((b * 31) / 255);

/** BC1's numbers of what is darkest to brightest, where its first colour is the brightest. */
const BC1_ORDER = [1, 3, 2, 0];

const writeBc1: BlockWriter = (out, at, endpoints, e, selectors, s) => {
  const outer = step(endpoints[e + 3]!, 3); // four bytes each
  const colorAt = (more: number): number => {
    const channel = (c: number): number => byte(wide(endpoints[e + c]!) + more);
    return to565(channel(0), channel(1), channel(2));
  };
  let first = colorAt(outer);
  let second = colorAt(-outer);
  // With the greater number first there are four colours, and no hole.
  const isTurned = first < second;
  if (isTurned) [first, second] = [second, first];
  out[at] = first;
  out[at + 1] = first >> 8;
  out[at + 2] = second;
  out[at + 3] = second >> 8;
  if (first === second) return;
  for (let y = 0; y < 4; y++) {
    let row = 0;
    for (let x = 0; x < 4; x++) {
      const number = BC1_ORDER[(selectors[s + y]! >> (x * 2)) & 3]!; // of four
      row |= (isTurned ? number ^ 1 : number) << (x * 2);
    }
    out[at + 4 + y] = row;
  }
};

const writeBc4: BlockWriter = (out, at, endpoints, e, selectors, s) => {
  const values = [0, 1, 2, 3].map((k) => byte(wide(endpoints[e + 1]!) + step(endpoints[e + 3]!, k)));
  const [least, most] = [values[0]!, values[3]!]; // four
  out[at] = most;
  out[at + 1] = least;
  if (most === least) return;
  // The greater first: eight values in sevenths.
  const numbers = values.map((value) => {
    const seventh = Math.round((7 * (most - value)) / (most - least));
    return seventh === 0 ? 0 : seventh === 7 ? 1 : seventh + 1;
  });
  for (let i = 0; i < 16; i++) {
    const number = numbers[(selectors[s + (i >> 2)]! >> ((i & 3) * 2)) & 3]!; // of four
    for (let k = 0; k < 3; k++)
      if ((number >> k) & 1) out[at + 2 + ((i * 3 + k) >> 3)]! |= 1 << ((i * 3 + k) & 7);
  }
};
