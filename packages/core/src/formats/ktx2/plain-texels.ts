import { toHalfFloats } from '../../math/half-floats.js';
import type { PlainTexels, TexelFormat } from '../../material/texel-formats.js';

/** Numbers of a file as pixels of four channels: bytes where they are bytes, halves where they are more. */
export function plainPixels(
  bytes: Uint8Array,
  texels: PlainTexels,
  count: number,
): { format: TexelFormat; bytes: Uint8Array } {
  const { channels, order, type } = texels;
  if (type === 'u8') {
    if (channels === 4 && order === 'rgba') return { format: 'rgba8unorm', bytes };
    const out = new Uint8Array(count * 4).fill(255);
    for (let i = 0; i < count; i++)
      for (let c = 0; c < 3; c++) {
        const from = order === 'bgra' ? 2 - c : c;
        out[i * 4 + c] = c < channels ? bytes[i * channels + from]! : 0; // as many as there are pixels
        if (channels === 4) out[i * 4 + 3] = bytes[i * 4 + 3]!;
      }
    return { format: 'rgba8unorm', bytes: out };
  }
  if (type === 'f16' && channels === 4) return { format: 'rgba16float', bytes };
  const values =
    type === 'f11' || type === 'e5' ? packedFloats(bytes, type, count) : numbers(bytes, texels, count);
  if (type === 'f32') return { format: 'rgba32float', bytes: bytesOf(values) };
  return { format: 'rgba16float', bytes: bytesOf(toHalfFloats(values)) };
}

const bytesOf = ({ buffer, byteOffset, byteLength }: Float32Array | Uint16Array): Uint8Array =>
  new Uint8Array(buffer, byteOffset, byteLength);

function numbers(bytes: Uint8Array, { channels, type }: PlainTexels, count: number): Float32Array {
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  const out = new Float32Array(count * 4);
  for (let i = 0; i < count; i++)
    for (let c = 0; c < 4; c++) {
      const at = i * channels + c;
      const value =
        c >= channels
          ? c === 3
            ? 1
            : 0
          : type === 'u16'
            ? view.getUint16(at * 2, true) / 65535
            : type === 'f16'
              ? half(view.getUint16(at * 2, true))
              : view.getFloat32(at * 4, true);
      out[i * 4 + c] = value;
    }
  return out;
}

function half(bits: number): number {
  const sign = bits & 0x8000 ? -1 : 1;
  return sign * floatOf(bits & 0x7fff, 10);
}

/** A float of five bits of exponent and so many of mantissa, without a sign. */
function floatOf(bits: number, mantissa: number): number {
  const exponent = bits >> mantissa;
  const rest = (bits & ((1 << mantissa) - 1)) / (1 << mantissa);
  if (exponent === 31) return rest ? Number.NaN : Infinity;
  return exponent === 0 ? rest * 2 ** -14 : (1 + rest) * 2 ** (exponent - 15);
}

/** Three floats in 32 bits: of 11, 11 and 10 bits, or of 9 with one exponent (VK_FORMAT_E5B9G9R9_UFLOAT_PACK32). */
function packedFloats(bytes: Uint8Array, type: 'f11' | 'e5', count: number): Float32Array {
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  const out = new Float32Array(count * 4);
  for (let i = 0; i < count; i++) {
    const word = view.getUint32(i * 4, true);
    const color =
      type === 'f11'
        ? [floatOf(word & 0x7ff, 6), floatOf((word >>> 11) & 0x7ff, 6), floatOf(word >>> 22, 5)]
        : [0, 9, 18].map((shift) => ((word >>> shift) & 511) * 2 ** ((word >>> 27) - 24));
    out.set([...color, 1], i * 4);
  }
  return out;
}
