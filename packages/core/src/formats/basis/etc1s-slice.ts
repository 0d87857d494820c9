import { BitReader } from './bits.js';
import type { Etc1sCodebooks } from './etc1s-codebooks.js';

/** Which endpoint and selector each block of a picture has, row by row. */
export interface Etc1sBlocks {
  columns: number;
  rows: number;
  endpoints: Uint16Array;
  selectors: Uint16Array;
}

/** The symbol that says: as before, several times. */
const REPEAT = 256;
const LEAST_REPEATS = 3;
const LEAST_RUN = 3;
/** Of the symbols of runs: the one whose length follows. */
const LONG_RUN = 63;

/**
 * Reads the blocks of one picture of `columns` x `rows` blocks.
 *
 * @throws Error saying what is wrong
 */
export function readSlice(
  bytes: Uint8Array,
  books: Etc1sCodebooks,
  columns: number,
  rows: number,
): Etc1sBlocks {
  const from = new BitReader(bytes);
  const endpoints = new Uint16Array(columns * rows);
  const selectors = new Uint16Array(columns * rows);
  const endpointCount = books.endpoints.length / 4;
  const selectorCount = books.selectors.length / 4;
  const recent = new Recent(books.remembered);
  /** By pair of columns: how the lower two of four blocks are predicted. */
  const lower = new Uint8Array((columns + 1) >> 1);
  let symbol = 0;
  let repeats = 0;
  let endpoint = 0;
  let run = 0;
  for (let y = 0; y < rows; y++) {
    let predictions = 0;
    for (let x = 0; x < columns; x++) {
      const at = y * columns + x;
      if (x % 2 === 0) {
        if (y % 2 === 0) {
          if (repeats > 0) repeats--;
          else {
            const read = books.predictions.read(from);
            if (read === REPEAT) repeats = from.readPieces(4) + LEAST_REPEATS - 1;
            else symbol = read;
          }
          predictions = symbol;
          lower[x >> 1] = symbol >> 4;
        } else predictions = lower[x >> 1]!; // one for each pair
      }
      const prediction = predictions & 3;
      predictions >>= 2;
      const isThere = (prediction === 1 || x > 0) && (prediction === 0 || y > 0);
      if (prediction < 3 && !isThere) throw new Error(`block ${at} is like one outside of the picture`);
      // Those above were read: y > 0, x > 0.
      if (prediction === 1) endpoint = endpoints[at - columns]!;
      else if (prediction === 2) endpoint = endpoints[at - columns - 1]!;
      else if (prediction === 3) {
        endpoint += books.endpointSteps.read(from);
        if (endpoint >= endpointCount) endpoint -= endpointCount;
      }
      if (endpoint >= endpointCount) throw new Error(`block ${at} has a colour that is not there`);
      endpoints[at] = endpoint;
      let selector = selectorCount;
      if (run > 0) run--;
      else {
        selector = books.selectorSymbols.read(from);
        if (selector === selectorCount + books.remembered) {
          const length = books.selectorRuns.read(from);
          run = (length === LONG_RUN ? from.readPieces(7) : length) + LEAST_RUN - 1;
          selector = selectorCount;
        }
      }
      selectors[at] =
        selector < selectorCount ? recent.add(selector) : recent.again(selector - selectorCount);
    }
    if (from.isOver) throw new Error(`it ends within row ${y} of ${rows}`);
  }
  return { columns, rows, endpoints, selectors };
}

/** Selectors that were used lately: what is used again moves to the front, what is new comes into the latter half. */
class Recent {
  private readonly values: Uint16Array;
  private next: number;

  constructor(size: number) {
    this.values = new Uint16Array(size);
    this.next = size >> 1;
  }

  add(value: number): number {
    const { values } = this;
    if (values.length > 0) {
      values[this.next++] = value;
      if (this.next === values.length) this.next = values.length >> 1;
    }
    return value;
  }

  again(index: number): number {
    const { values } = this;
    const value = values[index];
    if (value === undefined) throw new Error('a selector that was not used yet');
    values[index] = values[index >> 1]!; // the front is there where the rest is
    values[index >> 1] = value;
    return value;
  }
}
