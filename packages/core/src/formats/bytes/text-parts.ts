/** Text that becomes bytes in pieces, so that no string grows without end. */
export class TextParts {
  private readonly parts: Uint8Array[] = [];
  private lines: string[] = [];
  private size = 0;

  line(text: string): void {
    this.lines.push(text);
    if (this.lines.length >= 8192) this.flush();
  }

  bytes(): Uint8Array {
    this.flush();
    const whole = new Uint8Array(this.size);
    let at = 0;
    for (const part of this.parts) {
      whole.set(part, at);
      at += part.length;
    }
    return whole;
  }

  private flush(): void {
    if (this.lines.length === 0) return;
    const part = encodeText(`${this.lines.join('\n')}\n`);
    this.parts.push(part);
    this.size += part.length;
    this.lines = [];
  }
}

declare const TextEncoder: new () => { encode(text: string): Uint8Array };

export const encodeText = (text: string): Uint8Array => new TextEncoder().encode(text);

const TENS = Array.from({ length: 16 }, (_, i) => 10 ** i);

/** A number as short as 32 bits of it allow. */
export function shortNumber(value: number): string {
  const rounded = Math.fround(value);
  if (rounded === 0) return '0';
  const size = Math.abs(rounded);
  if (size >= 1e-4 && size < 1e6) {
    // Of usual size: places behind the point that make six to nine digits, tried without making text.
    let places = 6;
    for (let below = size; below >= 1; below /= 10) places--;
    for (const most = places + 3; places <= most; places++) {
      const short = Math.round(rounded * TENS[places]!) / TENS[places]!; // 0 to 9
      if (Math.fround(short) === rounded) return String(short);
    }
  }
  for (let digits = 6; digits < 9; digits++) {
    const text = Number(rounded.toPrecision(digits));
    if (Math.fround(text) === rounded) return String(text);
  }
  return String(Number(rounded.toPrecision(9)));
}
