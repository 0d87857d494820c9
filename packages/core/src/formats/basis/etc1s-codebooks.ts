import { BitReader } from './bits.js';
import { type HuffmanTable, readTable } from './huffman.js';

/** What the slices of a file share (BasisLZ, the supercompression of KTX 2.0): blocks are pairs of numbers in here. */
export interface Etc1sCodebooks {
  /** Four bytes each: red, green, blue of 0..31, and which table of intensities. */
  endpoints: Uint8Array;
  /** Four bytes each, one a row: two bits a pixel, the first in the lowest, darkest 0 to brightest 3. */
  selectors: Uint8Array;
  predictions: HuffmanTable;
  endpointSteps: HuffmanTable;
  selectorSymbols: HuffmanTable;
  selectorRuns: HuffmanTable;
  /** How many selectors a slice remembers. */
  remembered: number;
}

/** As the container has them. */
export interface Etc1sParts {
  endpointCount: number;
  selectorCount: number;
  endpointsData: Uint8Array;
  selectorsData: Uint8Array;
  tablesData: Uint8Array;
}

/** @throws Error saying what is wrong */
export function readCodebooks(parts: Etc1sParts): Etc1sCodebooks {
  const { endpointCount, selectorCount, endpointsData, selectorsData, tablesData } = parts;
  if (endpointCount === 0 || selectorCount === 0) throw new Error('it has no colours');
  const tables = new BitReader(tablesData);
  const books: Etc1sCodebooks = {
    endpoints: readEndpoints(new BitReader(endpointsData), endpointCount),
    selectors: readSelectors(new BitReader(selectorsData), selectorCount),
    predictions: readTable(tables),
    endpointSteps: readTable(tables),
    selectorSymbols: readTable(tables),
    selectorRuns: readTable(tables),
    remembered: tables.read(13),
  };
  if (tables.isOver) throw new Error('its tables are cut off');
  return books;
}

/** Each is a step from the one before; which code a step has depends on the colour before. */
function readEndpoints(from: BitReader, count: number): Uint8Array {
  const dark = readTable(from);
  const medium = readTable(from);
  const bright = readTable(from);
  const intensities = readTable(from);
  const isGray = from.read(1) === 1;
  const out = new Uint8Array(count * 4);
  let before = [16, 16, 16];
  let intensity = 0;
  for (let i = 0; i < count; i++) {
    if (from.isOver) throw new Error('its colours are cut off');
    intensity = (intensity + intensities.read(from)) & 7;
    const step = (last: number): number =>
      (last + (last <= 9 ? dark : last <= 21 ? medium : bright).read(from)) & 31;
    if (isGray) {
      const gray = step(before[0]!); // three
      before = [gray, gray, gray];
    } else before = before.map(step);
    out.set(before, i * 4);
    out[i * 4 + 3] = intensity;
  }
  return out;
}

function readSelectors(from: BitReader, count: number): Uint8Array {
  if (from.read(1) || from.read(1)) throw new Error('its selectors are of a kind that KTX does not have');
  const isPlain = from.read(1) === 1;
  const steps = isPlain ? undefined : readTable(from);
  const out = new Uint8Array(count * 4);
  for (let at = 0; at < out.length; at++) {
    if (from.isOver) throw new Error('its selectors are cut off');
    // Rows of the first stand as they are; others as what differs from the one before.
    out[at] = !steps || at < 4 ? from.read(8) : steps.read(from) ^ out[at - 4]!; // at is 4 or more
  }
  return out;
}
