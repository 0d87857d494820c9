/** Numbers that come one after the other, in one typed array that doubles. */
export class GrownFloats {
  length = 0;
  private held = new Float32Array(16);

  push(value: number): void {
    if (this.length === this.held.length) this.held = grown(this.held, new Float32Array(this.length * 2));
    this.held[this.length++] = value;
  }

  at(i: number): number {
    return this.held[i]!; // i < length: the caller's contract
  }

  /** The numbers so far, in an array of their own size. */
  done(): Float32Array {
    return this.length === this.held.length ? this.held : this.held.slice(0, this.length);
  }
}

/** The same for whole numbers. */
export class GrownWords {
  length = 0;
  private held = new Uint32Array(16);

  push(value: number): void {
    if (this.length === this.held.length) this.held = grown(this.held, new Uint32Array(this.length * 2));
    this.held[this.length++] = value;
  }

  at(i: number): number {
    return this.held[i]!; // i < length: the caller's contract
  }

  set(i: number, value: number): void {
    this.held[i] = value;
  }

  done(): Uint32Array {
    return this.length === this.held.length ? this.held : this.held.slice(0, this.length);
  }
}

function grown<T extends Float32Array | Uint32Array>(old: T, made: T): T {
  made.set(old as never);
  return made;
}

/**
 * Numbers of what is alike: three words each, such as the numbers of a place, a coordinate and a normal. A table with open
 * addresses, half full at most.
 */
export class TripleNumbers {
  private readonly triples = new GrownWords();
  private table = new Int32Array(32).fill(-1);

  get count(): number {
    return this.triples.length / 3;
  }

  /** @returns the number that it has, the next one where it is new */
  numberOf(a: number, b: number, c: number): number {
    const { triples } = this;
    let slot = hash(a, b, c) & (this.table.length - 1);
    for (let found = this.table[slot]!; found >= 0; found = this.table[slot]!) {
      const at = found * 3;
      if (triples.at(at) === a >>> 0 && triples.at(at + 1) === b >>> 0 && triples.at(at + 2) === c >>> 0)
        return found;
      slot = (slot + 1) & (this.table.length - 1);
    }
    const number = this.count;
    triples.push(a);
    triples.push(b);
    triples.push(c);
    this.table[slot] = number;
    if (number * 2 > this.table.length) this.enlarge();
    return number;
  }

  /** One of a number's three. */
  part(number: number, k: 0 | 1 | 2): number {
    return this.triples.at(number * 3 + k);
  }

  private enlarge(): void {
    const { triples } = this;
    const table = new Int32Array(this.table.length * 4).fill(-1);
    for (let number = 0; number < this.count; number++) {
      let slot =
        hash(triples.at(number * 3), triples.at(number * 3 + 1), triples.at(number * 3 + 2)) &
        (table.length - 1);
      while (table[slot]! >= 0) slot = (slot + 1) & (table.length - 1);
      table[slot] = number;
    }
    this.table = table;
  }
}

/** Mixes three words (constants of xxHash). */
function hash(a: number, b: number, c: number): number {
  let h = Math.imul(a, 0x9e3779b1) ^ Math.imul(b, 0x85ebca77) ^ Math.imul(c, 0xc2b2ae3d);
  h ^= h >>> 15;
  h = Math.imul(h, 0x27d4eb2f);
  return (h ^ (h >>> 13)) >>> 0;
}
