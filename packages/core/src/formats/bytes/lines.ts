import { LensError } from '../../errors/lens-error.js';
import { behind } from './byte-source.js';

const [LF, CR, BACKSLASH] = [10, 13, 92] as const;
/** A line that is longer is no text that anybody wrote. */
const LONGEST = 1 << 24;

/** Hears of a line: bytes from the first to before the second, its end left out. */
export type TakeLine = (bytes: Uint8Array, from: number, to: number, line: number) => void;

/** Cuts bytes that come in pieces into lines: LF, CRLF or CR alone; only what is cut in two is copied. */
export class Lines {
  /** Number of the line at hand, from 1 on. */
  line = 1;
  private rest: Uint8Array = new Uint8Array(0);
  private joined = 0;
  private isFirst = true;

  /** @param joins whether a backslash at its end joins a line with the next */
  constructor(
    private readonly take: TakeLine,
    private readonly joins: boolean,
  ) {}

  /** @throws LensError `text/line` for a line without end */
  push(piece: Uint8Array): void {
    let bytes = behind(this.rest, piece);
    let from = 0;
    let at = this.rest.length > 0 ? Math.max(0, this.rest.length - 1) : 0;
    for (; at < bytes.length; at++) {
      const byte = bytes[at]!; // at < length
      if (byte !== LF && byte !== CR) continue;
      // Whether it is CRLF is not known yet.
      if (byte === CR && at + 1 === bytes.length) break;
      const next = byte === CR && bytes[at + 1] === LF ? at + 2 : at + 1;
      if (this.joins && at > from && bytes[at - 1] === BACKSLASH) {
        // Both become one: blanks stand for the backslash and the end.
        if (bytes === piece) bytes = piece.slice();
        bytes.fill(32, at - 1, next);
        this.joined++;
        at = next - 1;
        continue;
      }
      this.give(bytes, from, at);
      from = next;
      at = next - 1;
    }
    this.rest = bytes.slice(from);
    if (this.rest.length > LONGEST)
      throw new LensError('text/line', `line ${this.line} has more than ${LONGEST} bytes`, {
        where: { line: this.line },
        hint: 'This is no text file, or it was damaged.',
      });
  }

  /** Gives the last line, which need not have an end. */
  end(): void {
    let to = this.rest.length;
    if (to > 0 && this.rest[to - 1] === CR) to--;
    if (to > 0) this.give(this.rest, 0, to);
    this.rest = new Uint8Array(0);
  }

  private give(bytes: Uint8Array, from: number, to: number): void {
    // A byte order mark is no part of the text.
    const isMarked =
      this.isFirst && bytes[from] === 0xef && bytes[from + 1] === 0xbb && bytes[from + 2] === 0xbf;
    this.isFirst = false;
    this.take(bytes, isMarked ? from + 3 : from, to, this.line);
    this.line += 1 + this.joined;
    this.joined = 0;
  }
}
