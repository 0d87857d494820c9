/** Pixels of a side of the cube that mirrors see; its levels grow rough down to 8 pixels. */
export const MIRROR_SIDE = 256;
/** How many directions of the lobe each level tries: smooth lobes are narrow and need few. */
export const LOBE_COUNTS = [1, 12, 24, 32, 48, 64] as const;

/**
 * Directions from which a rough mirror gathers what it shows when one looks straight at it: the GGX lobe (Karis, in
 * the course "Physically Based Shading in Theory and Practice", SIGGRAPH 2013) by importance sampling with Hammersley
 * points. Each is to be read from a cube as blurred as the directions stand apart (Krivanek and Colbert, "Real-time
 * Shading with Filtered Importance Sampling", 2008).
 *
 * @param roughness perceptual, above 0 and at most 1
 * @param count how many are tried; those below the surface are left out
 * @param side pixels of a side of the cube's first level
 * @returns four numbers each: the direction, of length 1, with the normal along +Z, and the level of the cube; the
 *   weight of a direction is its z
 */
export function lobeSamples(roughness: number, count: number, side: number): Float32Array {
  const a2 = roughness ** 4;
  const pixel = (4 * Math.PI) / (6 * side * side);
  const out: number[] = [];
  for (let i = 0; i < count; i++) {
    const u = (i + 0.5) / count;
    const turn = 2 * Math.PI * radicalInverse(i);
    const cosine = Math.sqrt((1 - u) / (1 + (a2 - 1) * u));
    const sine = Math.sqrt(Math.max(0, 1 - cosine * cosine));
    const z = 2 * cosine * cosine - 1;
    if (z <= 0) continue;
    const f = cosine * cosine * (a2 - 1) + 1;
    // Probability of the direction: D nh / (4 vh), and vh is nh here.
    const density = a2 / (Math.PI * f * f) / 4;
    const level = Math.max(0, 0.5 * Math.log2(1 / (count * density) / pixel) + 0.5);
    out.push(2 * cosine * sine * Math.cos(turn), 2 * cosine * sine * Math.sin(turn), z, level);
  }
  return Float32Array.from(out);
}

/** The bits of a whole number behind the point, in the other order. */
function radicalInverse(i: number): number {
  let inverse = 0;
  let scale = 0.5;
  for (let rest = i; rest > 0; rest >>= 1, scale /= 2) inverse += (rest & 1) * scale;
  return inverse;
}
