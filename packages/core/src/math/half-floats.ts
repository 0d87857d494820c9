const float = new Float32Array(1);
const bits = new Uint32Array(float.buffer);

/** 32-bit floats as 16-bit ones, to the nearest, ties to even. */
export function toHalfFloats(values: Float32Array): Uint16Array {
  const out = new Uint16Array(values.length);
  for (let i = 0; i < values.length; i++) {
    float[0] = values[i]!; // i < length
    const word = bits[0]!;
    const sign = (word >>> 16) & 0x8000;
    const exponent = ((word >>> 23) & 255) - 112;
    const fraction = word & 0x7fffff;
    if (exponent >= 31) {
      out[i] = sign | 0x7c00 | (exponent === 143 && fraction !== 0 ? 0x200 : 0);
    } else if (exponent > 0) {
      const kept = (exponent << 10) | (fraction >>> 13);
      const rest = fraction & 0x1fff;
      out[i] = sign | (kept + (rest > 0x1000 || (rest === 0x1000 && (kept & 1) === 1) ? 1 : 0));
    } else if (exponent > -11) {
      const whole = fraction | 0x800000;
      const shift = 14 - exponent;
      const kept = whole >>> shift;
      const rest = whole & ((1 << shift) - 1);
      const half = 1 << (shift - 1);
      out[i] = sign | (kept + (rest > half || (rest === half && (kept & 1) === 1) ? 1 : 0));
    } else out[i] = sign;
  }
  return out;
}

/** 16-bit floats as 32-bit ones. */
export function fromHalfFloats(words: Uint16Array): Float32Array {
  const out = new Float32Array(words.length);
  for (let i = 0; i < words.length; i++) {
    const word = words[i]!; // i < length
    const sign = word & 0x8000 ? -1 : 1;
    const exponent = (word >>> 10) & 31;
    const fraction = word & 1023;
    out[i] =
      exponent === 31
        ? fraction
          ? Number.NaN
          : sign * Infinity
        : sign * (exponent === 0 ? fraction * 2 ** -24 : (1 + fraction / 1024) * 2 ** (exponent - 15));
  }
  return out;
}
