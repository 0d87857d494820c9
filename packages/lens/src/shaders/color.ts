/**
 * What the finish does to colours, and its inverse for surfaces that must be shown as given.
 *
 * Tone mapping leaves values up to 0.76 alone and bends brighter ones into what is left below 1, by
 * 1 - d^2 / (x + d - s) with s = 0.76 and d = 1 - s, which meets the straight part with equal slope.
 * It works on each channel by itself, so every colour of the screen is the image of one colour of
 * light: curves that desaturate leave bright pure colours out of reach, and then an unlit surface
 * could not be shown as it was given.
 */
export const COLOR = `
vec3 toneMap(vec3 color) {
  vec3 bent = 1.0 - 0.0576 / (max(color, vec3(0.76)) - 0.52);
  return mix(color, bent, step(vec3(0.76), color));
}

/* The colour that toneMap turns into this one; 1 stands for very bright. */
vec3 beforeFinish(vec3 color) {
  color = clamp(color, 0.0, 0.99998);
  vec3 unbent = 0.0576 / (1.0 - color) + 0.52;
  return mix(color, unbent, step(vec3(0.76), color));
}
`;

/** The same inverse on the CPU, for clear colours. Writes three numbers. */
export function beforeFinish(out: Float32Array, color: ArrayLike<number>, exposure: number): void {
  for (let k = 0; k < 3; k++) {
    const c = Math.min(0.99998, Math.max(0, color[k]!)); // three by contract
    out[k] = (c < 0.76 ? c : 0.0576 / (1 - c) + 0.52) / exposure;
  }
}
