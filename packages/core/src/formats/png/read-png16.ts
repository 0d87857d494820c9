import { LensError } from '../../errors/lens-error.js';
import { joined } from '../bytes/byte-source.js';
import { inflate } from '../bytes/inflate.js';

/** A picture of 16 bits a channel. */
export interface DeepPicture {
  width: number;
  height: number;
  /** Rows from the top, RGBA, 0 to 65535; what channels are not there are read as gray, or as opaque. */
  pixels: Uint16Array;
}

const SIGNATURE = [0x89, 0x50, 0x4e, 0x47, 0x0d, 0x0a, 0x1a, 0x0a];
/** Channels by the type of colour. */
const CHANNELS: Readonly<Record<number, number>> = { 0: 1, 2: 3, 4: 2, 6: 4 };
/** Sides at most. Pixels. */
const LARGEST = 16384;
/** Where interlaced pictures begin, and how far their pixels are apart, pass by pass. */
const PASSES = [
  [0, 0, 8, 8],
  [4, 0, 8, 8],
  [0, 4, 4, 8],
  [2, 0, 4, 4],
  [0, 2, 2, 4],
  [1, 0, 2, 2],
  [0, 1, 1, 2],
] as const;

/**
 * Reads a PNG of 16 bits a channel (ISO/IEC 15948), which browsers cut down to 8: heights and other data keep their steps.
 *
 * @param file name for messages
 * @throws LensError `png/broken`, `png/depth` where it has fewer bits
 */
export async function readPng16(bytes: Uint8Array, file = ''): Promise<DeepPicture> {
  const fail = (code: string, message: string, hint: string, offset?: number): never => {
    const place = offset === undefined ? '' : `, at byte ${offset}`;
    throw new LensError(`png/${code}`, message + place, { where: file ? { file } : {}, hint });
  };
  const again = 'Copy it again, or export it anew.';
  if (!SIGNATURE.every((byte, i) => bytes[i] === byte)) fail('broken', 'this is no PNG', again);
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  const parts: Uint8Array[] = [];
  let packedSize = 0;
  let header: { width: number; height: number; channels: number; isInterlaced: boolean } | undefined;
  for (let at = 8; ;) {
    if (at + 12 > bytes.length) fail('broken', 'it ends before its last chunk', again, at);
    const length = view.getUint32(at);
    const name = String.fromCharCode(...bytes.subarray(at + 4, at + 8));
    if (at + 12 + length > bytes.length) fail('broken', `chunk ${name} is cut off`, again, at);
    const data = bytes.subarray(at + 8, at + 8 + length);
    if (name === 'IHDR' && length >= 13) {
      const [width, height] = [view.getUint32(at + 8), view.getUint32(at + 12)];
      const [depth, type, , , interlace] = data.subarray(8, 13) as unknown as [
        number,
        number,
        number,
        number,
        number,
      ];
      if (depth !== 16)
        fail('depth', `it has ${depth} bits a channel, not 16`, 'Load it as any other picture.', at + 16);
      const channels =
        CHANNELS[type] ?? fail('broken', `colours of type ${type} have no 16 bits`, again, at + 17);
      if (!(width >= 1 && height >= 1 && width <= LARGEST && height <= LARGEST))
        fail('broken', `it has ${width} x ${height} pixels`, `Sides of 1 to ${LARGEST} are read.`, at + 8);
      header = { width, height, channels, isInterlaced: interlace === 1 };
    } else if (name === 'IDAT') {
      parts.push(data);
      packedSize += length;
    } else if (name === 'IEND') break;
    at += 12 + length;
  }
  if (!header) return fail('broken', 'it has no header', again);
  const { channels, height, isInterlaced, width } = header;
  const passes = isInterlaced ? PASSES : ([[0, 0, 1, 1]] as const);
  const sizes = passes.map(([x, y, dx, dy]) => [
    Math.max(0, Math.ceil((width - x) / dx)),
    Math.max(0, Math.ceil((height - y) / dy)),
  ]) as [number, number][];
  const stride = channels * 2;
  const wanted = sizes.reduce((sum, [w, h]) => sum + (w > 0 ? h * (1 + w * stride) : 0), 0);
  let plain: Uint8Array;
  try {
    plain = await inflate(joined(parts, packedSize), wanted);
  } catch {
    return fail('broken', 'its pixels cannot be unpacked', again);
  }
  if (plain.length !== wanted)
    fail('broken', `${plain.length} bytes of pixels came out, not ${wanted}`, again);
  const pixels = new Uint16Array(width * height * 4);
  let from = 0;
  passes.forEach(([x0, y0, dx, dy], pass) => {
    const [w, h] = sizes[pass]!; // as many
    let above = new Uint8Array(w * stride);
    for (let y = 0; y < h && w > 0; y++) {
      const filter = plain[from]!; // within wanted, as all below
      const row = plain.subarray(from + 1, from + 1 + w * stride);
      from += 1 + w * stride;
      if (filter > 4) fail('broken', `row ${y} has filter ${filter}`, again);
      undo(filter, row, above, stride);
      above = row as Uint8Array<ArrayBuffer>;
      for (let x = 0; x < w; x++)
        put(pixels, ((y0 + y * dy) * width + x0 + x * dx) * 4, row, x * stride, channels);
    }
  });
  return { width, height, pixels };
}

/** Takes back what a row was filtered by, in place (section 9 of the standard). */
function undo(filter: number, row: Uint8Array, above: Uint8Array, stride: number): void {
  if (filter === 0) return;
  for (let i = 0; i < row.length; i++) {
    const left = i >= stride ? row[i - stride]! : 0; // in range
    const up = above[i]!; // as long
    let more = filter === 1 ? left : filter === 2 ? up : (left + up) >> 1;
    if (filter === 4) {
      const corner = i >= stride ? above[i - stride]! : 0;
      const p = left + up - corner;
      const [a, b, c] = [Math.abs(p - left), Math.abs(p - up), Math.abs(p - corner)];
      more = a <= b && a <= c ? left : b <= c ? up : corner;
    }
    row[i]! += more;
  }
}

function put(out: Uint16Array, to: number, row: Uint8Array, from: number, channels: number): void {
  const value = (channel: number): number => (row[from + channel * 2]! << 8) | row[from + channel * 2 + 1]!; // a whole pixel
  const isGray = channels < 3;
  for (let c = 0; c < 3; c++) out[to + c] = value(isGray ? 0 : c);
  out[to + 3] = channels % 2 === 0 ? value(channels - 1) : 65535;
}
