/** Places of the lattice. */
const SIZE = 256;
/** Of the generator of chance (Park and Miller, 1988). */
const [MODULUS, FACTOR, QUOTIENT, REST] = [2147483647, 16807, 127773, 2836];

/** Floats of the lattice: three vectors a place, and some places again behind the last. */
export const LATTICE_FLOATS = (2 * SIZE + 2) * 12;

/**
 * Writes what Perlin's noise is looked up in, as the reference code of SVG's feTurbulence makes it (Filter Effects Module Level
 * 1): three vectors a place: gradients of red and green, of blue and alpha, and the place that follows.
 *
 * @param seed whole; others are cut
 */
export function writeNoiseLattice(seed: number, out: Float32Array): void {
  let state = Math.trunc(seed);
  if (state <= 0) state = -(state % (MODULUS - 1)) + 1;
  if (state > MODULUS - 1) state = MODULUS - 1;
  const random = (): number => {
    state = FACTOR * (state % QUOTIENT) - REST * Math.trunc(state / QUOTIENT);
    if (state <= 0) state += MODULUS;
    return state;
  };
  const order = new Uint16Array(SIZE);
  for (let channel = 0; channel < 4; channel++)
    for (let i = 0; i < SIZE; i++) {
      order[i] = i;
      const x = ((random() % (2 * SIZE)) - SIZE) / SIZE;
      const y = ((random() % (2 * SIZE)) - SIZE) / SIZE;
      const length = Math.hypot(x, y);
      const at = i * 12 + channel * 2;
      out[at] = x / length;
      out[at + 1] = y / length;
    }
  for (let i = SIZE - 1; i > 0; i--) {
    const j = random() % SIZE;
    const here = order[i]!; // i < length, here and below
    order[i] = order[j]!;
    order[j] = here;
  }
  for (let i = 0; i < SIZE; i++) out[i * 12 + 8] = order[i]!;
  // Whatever is looked up behind the last place begins anew.
  out.copyWithin(SIZE * 12, 0, (SIZE + 2) * 12);
}
