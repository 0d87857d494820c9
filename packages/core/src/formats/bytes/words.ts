/** Words of a line of bytes, one after the other: numbers are read without making text of them. */
export class Words {
  private bytes: Uint8Array = new Uint8Array(0);
  private at = 0;
  private to = 0;
  private start = 0;
  /** Where the word that was read last begins, counted from the line's first byte, from 1 on. */
  get column(): number {
    return this.wordStart - this.start + 1;
  }
  private wordStart = 0;
  private wordEnd = 0;

  begin(bytes: Uint8Array, from: number, to: number): void {
    this.bytes = bytes;
    this.at = this.start = this.wordStart = from;
    this.to = to;
  }

  /** Goes to the next word. @returns false behind the last */
  next(): boolean {
    const { bytes, to } = this;
    let { at } = this;
    while (at < to && isBlank(bytes[at]!)) at++; // at < to, here and below
    this.wordStart = at;
    while (at < to && !isBlank(bytes[at]!)) at++;
    this.wordEnd = this.at = at;
    return at > this.wordStart;
  }

  /** The word as text. */
  get text(): string {
    return textOf(this.bytes, this.wordStart, this.wordEnd);
  }

  /** Whether the word is this one, in ASCII. */
  is(word: string): boolean {
    if (this.wordEnd - this.wordStart !== word.length) return false;
    for (let i = 0; i < word.length; i++)
      if (this.bytes[this.wordStart + i] !== word.charCodeAt(i)) return false;
    return true;
  }

  /** The word as a number; NaN where it is none. */
  get number(): number {
    return numberIn(this.bytes, this.wordStart, this.wordEnd);
  }

  /** Bytes of the word. */
  get length(): number {
    return this.wordEnd - this.wordStart;
  }

  byte(i: number): number {
    return this.bytes[this.wordStart + i] ?? 0;
  }

  /** Number in a part of the word. */
  numberAt(from: number, to: number): number {
    return numberIn(this.bytes, this.wordStart + from, this.wordStart + to);
  }

  /** Everything behind the word at hand, without blanks at its ends. */
  get remainder(): string {
    return textOf(this.bytes, this.wordEnd, this.to).trim();
  }
}

const isBlank = (byte: number): boolean => byte === 32 || byte === 9 || byte === 11 || byte === 12;

const decoder = new (
  globalThis as unknown as { TextDecoder: new () => { decode(bytes: Uint8Array): string } }
).TextDecoder();

export const textOf = (bytes: Uint8Array, from: number, to: number): string =>
  decoder.decode(bytes.subarray(from, to));

/**
 * A decimal number in bytes; NaN where there is none. Up to 15 digits and powers of ten up to 22 are exact in doubles, so one
 * division or product rounds them rightly (Clinger, "How to read floating point numbers accurately", 1990); others are left
 * to the engine.
 */
export function numberIn(bytes: Uint8Array, from: number, to: number): number {
  let at = from;
  let isNegative = false;
  if (at < to && (bytes[at] === 45 || bytes[at] === 43)) isNegative = bytes[at++] === 45;
  let mantissa = 0;
  let digits = 0;
  let power = 0;
  let seen = false;
  for (; at < to; at++) {
    const digit = bytes[at]! - 48; // at < to, here and below
    if (digit < 0 || digit > 9) break;
    seen = true;
    mantissa = mantissa * 10 + digit;
    if (mantissa > 0) digits++;
  }
  if (at < to && bytes[at] === 46) {
    for (at++; at < to; at++) {
      const digit = bytes[at]! - 48;
      if (digit < 0 || digit > 9) break;
      seen = true;
      mantissa = mantissa * 10 + digit;
      if (mantissa > 0) digits++;
      power--;
    }
  }
  if (!seen) return wordNumber(bytes, from, to);
  if (at < to && (bytes[at]! | 32) === 101) {
    const expressed = wholeIn(bytes, at + 1, to);
    if (Number.isNaN(expressed)) return Number.NaN;
    power += expressed;
    at = to;
  }
  if (at !== to) return Number.NaN;
  if (digits > 15 || power > 22 || power < -22) return Number(textOf(bytes, from, to));
  const value = power < 0 ? mantissa / POWERS[-power]! : mantissa * POWERS[power]!; // 0 to 22
  return isNegative ? -value : value;
}

const POWERS = Array.from({ length: 23 }, (_, i) => Number(`1e${i}`));

/** What stands for no number, and for none that ends. */
function wordNumber(bytes: Uint8Array, from: number, to: number): number {
  const word = textOf(bytes, from, to).toLowerCase();
  if (/^[+-]?inf(inity)?$/.test(word)) return word.startsWith('-') ? -Infinity : Infinity;
  return Number.NaN;
}

/** A whole number with an optional sign; NaN where there is none. */
export function wholeIn(bytes: Uint8Array, from: number, to: number): number {
  let at = from;
  const isNegative = bytes[at] === 45;
  if (at < to && (isNegative || bytes[at] === 43)) at++;
  if (at >= to || to - at > 15) return Number.NaN;
  let value = 0;
  for (; at < to; at++) {
    const digit = bytes[at]! - 48; // at < to
    if (digit < 0 || digit > 9) return Number.NaN;
    value = value * 10 + digit;
  }
  return isNegative ? -value : value;
}
