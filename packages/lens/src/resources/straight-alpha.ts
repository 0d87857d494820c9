/** Pixels without alpha multiplied in, 4 bytes each, of those with it: as files and `ImageData` have them. */
export function straightAlpha(premultiplied: Uint8Array): Uint8ClampedArray<ArrayBuffer> {
  const straight = new Uint8ClampedArray(premultiplied.length);
  for (let i = 0; i < premultiplied.length; i += 4) {
    const alpha = premultiplied[i + 3]!; // four each, here and below
    for (let k = 0; k < 3; k++)
      straight[i + k] = alpha === 0 ? 0 : Math.round((premultiplied[i + k]! * 255) / alpha);
    straight[i + 3] = alpha;
  }
  return straight;
}
