import type { BitReader } from './bits.js';

/** Longest code. Bits. */
const LONGEST = 16;
/** Symbols that lengths of codes are written with, in the order of the file; 17 to 20 are runs. */
const LENGTH_ORDER = [17, 18, 19, 20, 0, 8, 7, 9, 6, 10, 5, 11, 4, 12, 3, 13, 2, 14, 1, 15, 16];

/** A code of Huffman's: symbols by the bits that stand for them. */
export class HuffmanTable {
  /** By the next `bits` bits: the symbol, and above it the length of its code; 0 where no code begins so. */
  private readonly symbols: Int32Array;
  private readonly bits: number;

  /** @param lengths of the symbols' codes in bits, 0 for symbols that are not there; canonical codes follow from them */
  constructor(lengths: Uint8Array) {
    const counts = new Uint32Array(LONGEST + 2);
    let longest = 0;
    for (const length of lengths) {
      if (length > 0) counts[length]!++;
      longest = Math.max(longest, length);
    }
    this.bits = longest;
    this.symbols = new Int32Array(1 << longest);
    const next = new Uint32Array(LONGEST + 2);
    for (let length = 1, code = 0; length <= longest; length++) {
      next[length] = code;
      code = (code + counts[length]!) << 1; // of 18
      if (code > 2 << longest) throw new Error('codes do not fit together');
    }
    lengths.forEach((length, symbol) => {
      if (length === 0) return;
      const code = next[length]!++;
      if (code >= 1 << length) throw new Error('codes do not fit together');
      // The file begins with the highest bit of a code.
      const first = reversed(code, length);
      for (let at = first; at < this.symbols.length; at += 1 << length)
        this.symbols[at] = (symbol << 5) | length;
    });
  }

  /** @throws Error where no code begins so */
  read(from: BitReader): number {
    const found = this.symbols[from.peek(this.bits)]!; // as many as bits can say
    if (found === 0) throw new Error('bits that stand for nothing');
    from.at += found & 31;
    return found >> 5;
  }
}

function reversed(code: number, length: number): number {
  let out = 0;
  for (let i = 0; i < length; i++) out |= ((code >> i) & 1) << (length - 1 - i);
  return out;
}

/** Reads the lengths of a code, which are packed by another. */
export function readTable(from: BitReader): HuffmanTable {
  const total = from.read(14);
  const lengths = new Uint8Array(total);
  const ofLengths = new Uint8Array(LENGTH_ORDER.length);
  if (total === 0) return new HuffmanTable(lengths);
  const count = from.read(5);
  if (count < 1 || count > LENGTH_ORDER.length) throw new Error('a table without lengths');
  for (let i = 0; i < count; i++) ofLengths[LENGTH_ORDER[i]!] = from.read(3); // i < count
  const packed = new HuffmanTable(ofLengths);
  let at = 0;
  while (at < total) {
    if (from.isOver) throw new Error('it ends within a table');
    const symbol = packed.read(from);
    if (symbol <= 16) lengths[at++] = symbol;
    else if (symbol === 17) at += from.read(3) + 3;
    else if (symbol === 18) at += from.read(7) + 11;
    else {
      const last = lengths[at - 1] ?? 0;
      const run = symbol === 19 ? from.read(2) + 3 : from.read(7) + 7;
      if (last === 0) throw new Error('a run of nothing');
      lengths.fill(last, at, at + run);
      at += run;
    }
  }
  if (at !== total) throw new Error('a table with more lengths than symbols');
  return new HuffmanTable(lengths);
}
