/** Reads blocks of BC1 to BC5 into pixels, by the formulas of the Khronos Data Format Specification, chapters 18 and 19. */

/** Writes one block of 4 x 4 pixels, RGBA, into `out`, 64 bytes. */
export type BlockDecoder = (bytes: Uint8Array, at: number, out: Uint8Array) => void;

const wide = (value: number, bits: number): number => (value << (8 - bits)) | (value >> (2 * bits - 8));

/** @param hasHole whether the fourth colour is nothing where the first is not the greater number */
function readColors(bytes: Uint8Array, at: number, out: Uint8Array, hasHole: boolean): void {
  const number = (k: number): number => bytes[at + k]! | (bytes[at + k + 1]! << 8); // eight bytes
  const [first, second] = [number(0), number(2)];
  const colors = [first, second].map((c) => [wide(c >> 11, 5), wide((c >> 5) & 63, 6), wide(c & 31, 5), 255]);
  const [a, b] = colors as [number[], number[]];
  const mix = (m: number, n: number, by: number): number[] =>
    a.map((value, k) => Math.floor((value * m + b[k]! * n) / by)); // four each
  if (first > second || !hasHole) colors.push(mix(2, 1, 3), mix(1, 2, 3));
  else colors.push(mix(1, 1, 2), [0, 0, 0, 0]);
  for (let i = 0; i < 16; i++) out.set(colors[(bytes[at + 4 + (i >> 2)]! >> ((i & 3) * 2)) & 3]!, i * 4);
}

/** Three bits a pixel between two bytes. */
function readValues(bytes: Uint8Array, at: number, out: Uint8Array, channel: number): void {
  const [first, second] = [bytes[at]!, bytes[at + 1]!]; // eight bytes
  const values = [first, second];
  if (first > second) for (let i = 1; i < 7; i++) values.push(Math.floor(((7 - i) * first + i * second) / 7));
  else {
    for (let i = 1; i < 5; i++) values.push(Math.floor(((5 - i) * first + i * second) / 5));
    values.push(0, 255);
  }
  for (let i = 0; i < 16; i++) {
    const bit = i * 3;
    const word = bytes[at + 2 + (bit >> 3)]! | ((bytes[at + 3 + (bit >> 3)] ?? 0) << 8);
    out[i * 4 + channel] = values[(word >> (bit & 7)) & 7]!; // of eight
  }
}

export const BC_DECODERS: Readonly<Record<string, BlockDecoder>> = {
  'bc1-rgba-unorm': (bytes, at, out) => readColors(bytes, at, out, true),
  'bc2-rgba-unorm': (bytes, at, out) => {
    readColors(bytes, at + 8, out, false);
    for (let i = 0; i < 16; i++) out[i * 4 + 3] = ((bytes[at + (i >> 1)]! >> ((i & 1) * 4)) & 15) * 17; // sixteen bytes
  },
  'bc3-rgba-unorm': (bytes, at, out) => {
    readColors(bytes, at + 8, out, false);
    readValues(bytes, at, out, 3);
  },
  'bc4-r-unorm': (bytes, at, out) => {
    paintBlack(out);
    readValues(bytes, at, out, 0);
  },
  'bc5-rg-unorm': (bytes, at, out) => {
    paintBlack(out);
    readValues(bytes, at, out, 0);
    readValues(bytes, at + 8, out, 1);
  },
};

/** Black and opaque: what channels that are not there are read as. */
export function paintBlack(out: Uint8Array): void {
  for (let i = 0; i < 64; i++) out[i] = (i & 3) === 3 ? 255 : 0;
}
