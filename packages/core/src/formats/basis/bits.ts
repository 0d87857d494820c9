/** Bits of bytes, the lowest of each byte first. Behind the end there are zeros: `isOver` tells. */
export class BitReader {
  /** Bit that is read next. */
  at = 0;

  constructor(private readonly bytes: Uint8Array) {}

  /** Whether more was read than there is. */
  get isOver(): boolean {
    return this.at > this.bytes.length * 8;
  }

  /** @param count 0 to 24 */
  read(count: number): number {
    const value = this.peek(count);
    this.at += count;
    return value;
  }

  /** The next bits, which stay to be read. */
  peek(count: number): number {
    const { at, bytes } = this;
    const first = at >> 3;
    const word =
      (bytes[first] ?? 0) |
      ((bytes[first + 1] ?? 0) << 8) |
      ((bytes[first + 2] ?? 0) << 16) |
      ((bytes[first + 3] ?? 0) << 24);
    return (word >>> (at & 7)) & ((1 << count) - 1);
  }

  /** A whole number in pieces of `bits`, each with a bit that says whether another follows. */
  readPieces(bits: number): number {
    let value = 0;
    for (let shift = 0; shift < 31; shift += bits) {
      const piece = this.read(bits + 1);
      value += (piece & ((1 << bits) - 1)) * 2 ** shift;
      if (piece >> bits === 0) break;
    }
    return value;
  }
}

/** Writes bits into a block, the lowest of each byte first. */
export class BitWriter {
  at = 0;

  /** @param bytes all zero */
  constructor(private readonly bytes: Uint8Array) {}

  /** @param value a whole number below 2 ^ count */
  write(value: number, count: number): void {
    for (let i = 0; i < count; i++, this.at++)
      if ((value / 2 ** i) & 1) this.bytes[this.at >> 3]! |= 1 << (this.at & 7); // the block is as long
  }
}
