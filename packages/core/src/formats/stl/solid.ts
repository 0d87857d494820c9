import { GrownFloats, GrownWords, TripleNumbers } from '../bytes/grown.js';

/** Triangles of one solid: corners at the same place are one vertex, unless faces have colours. */
export class StlSolid {
  private readonly places = new TripleNumbers();
  private readonly indices = new GrownWords();
  /** 3 a triangle, from the first that has one on. */
  private colors: GrownFloats | undefined;

  constructor(readonly name: string | undefined) {}

  get isEmpty(): boolean {
    return this.indices.length === 0;
  }

  /**
   * @param corners nine numbers, metres as they are
   * @param color linear; undefined: none of its own
   */
  add(corners: Float32Array, color: readonly number[] | undefined): void {
    // -0 and 0 are one place.
    for (let k = 0; k < 9; k++) held[k] = corners[k]! + 0; // nine
    for (let k = 0; k < 9; k += 3)
      this.indices.push(this.places.numberOf(bits[k]!, bits[k + 1]!, bits[k + 2]!)); // nine
    if (!color && !this.colors) return;
    if (!this.colors) {
      this.colors = new GrownFloats();
      const before = this.indices.length - 3;
      for (let i = 0; i < before; i++) this.colors.push(0.8);
    }
    for (let k = 0; k < 3; k++) this.colors.push(color?.[k] ?? 0.8);
  }

  arrays(): { position: Float32Array; color0: Float32Array | undefined; indices: Uint32Array | undefined } {
    const { colors, places } = this;
    const indices = this.indices.done();
    const count = colors ? indices.length : places.count;
    const position = new Float32Array(count * 3);
    const words = new Uint32Array(position.buffer);
    const color0 = colors ? new Float32Array(count * 4) : undefined;
    for (let v = 0; v < count; v++) {
      const place = colors ? indices[v]! : v; // v < length
      for (let k = 0; k < 3; k++) words[v * 3 + k] = places.part(place, k as 0 | 1 | 2);
      if (!color0 || !colors) continue;
      for (let k = 0; k < 3; k++) color0[v * 4 + k] = colors.at(Math.floor(v / 3) * 3 + k);
      color0[v * 4 + 3] = 1;
    }
    return { position, color0, indices: colors ? undefined : indices };
  }
}

const held = new Float32Array(9);
const bits = new Uint32Array(held.buffer);
