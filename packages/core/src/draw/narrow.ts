/** A part of a picture, in the picture's units: pixels, or CSS pixels. */
export interface PictureRegion {
  /** From the left and from the top. */
  x: number;
  y: number;
  width: number;
  height: number;
}

/**
 * Narrows a matrix to clip space, so that a part of the picture fills all of it.
 *
 * @param m column-major 4x4
 * @param width of the whole picture, as `height`
 */
export function narrow(m: Float32Array, region: PictureRegion, width: number, height: number): void {
  const across = width / region.width;
  const up = height / region.height;
  const aside = across - (2 * region.x) / region.width - 1;
  const above = 1 - up + (2 * region.y) / region.height;
  for (let at = 0; at < 16; at += 4) {
    const w = m[at + 3]!; // sixteen numbers, here and below
    m[at] = across * m[at]! + aside * w;
    m[at + 1] = up * m[at + 1]! + above * w;
  }
}
