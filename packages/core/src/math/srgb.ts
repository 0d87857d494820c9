/** A colour's part as a screen is sent it, 0..1, as light (IEC 61966-2-1). */
export function linearFromSrgb(c: number): number {
  return c <= 0.04045 ? c / 12.92 : ((c + 0.055) / 1.055) ** 2.4;
}

/** The other way round. */
export function srgbFromLinear(c: number): number {
  return c <= 0.0031308 ? c * 12.92 : 1.055 * c ** (1 / 2.4) - 0.055;
}
