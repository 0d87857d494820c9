import { affineLargestScale } from '../math/affine.js';
import { type Bounds, emptyBounds } from '../math/bounds.js';
import { type InstanceTransforms, writePlace, writeTransform } from './instance-transforms.js';
import { makeTiles, TILE_FLOATS, type Tiles } from './tiles.js';

/** Around what is drawn of a copy, in its own space. */
export interface CopyBox {
  center: readonly [number, number, number];
  half: readonly [number, number, number];
}

/** What a swarm is laid out from: plain data, checked, so that a thread of its own can do it. */
export interface SwarmInput {
  transforms: InstanceTransforms;
  colors: ArrayLike<number> | undefined;
  /** By setting: numbers a copy, flat, or the one that all have. */
  settings: readonly { given: ArrayLike<number> | undefined; components: number; usual: ArrayLike<number> }[];
  /** By copy. */
  shapeOf: Uint8Array;
  /** Metres from a copy's origin to the farthest of what is drawn of it; metres of that by hooks. */
  shapes: readonly { reach: number; box: CopyBox }[];
  hookReach: number;
  /** Steps of four floats: of a header, and from one record to the next. */
  head: number;
  stride: number;
  /** Floats of a record ahead of its colour, or 0, and ahead of its settings. */
  colorAt: number;
  settingsAt: number;
  seed: number;
}

/** The copies of one shape, tile by tile. */
export interface LaidOutShape {
  /** Numbers of its copies, by record. */
  order: Uint32Array;
  tiles: Tiles;
  /** Where its first record lies, in steps of four floats. */
  firstRecord: number;
}

export interface SwarmLayout {
  /** Room for a header a shape, then the records. */
  values: Float32Array<ArrayBuffer>;
  /** By copy: its record among those of its shape. */
  recordOf: Uint32Array;
  shapes: LaidOutShape[];
  bounds: Bounds;
}

/** Hears how much is done, 0..1. */
export type OnProgress = (done: number) => void;

/** Copies between two reports. */
const REPORT = 1 << 15;

/**
 * Puts the copies of a swarm into tiles, and their records side by side. O(n log n) of the copies: half the time goes into
 * finding the tiles, most of the rest into reading transforms in an order by chance, which caches miss.
 *
 * @throws LensError `swarm/number`
 */
export function layOutSwarm(input: SwarmInput, onProgress?: OnProgress): SwarmLayout {
  const { transforms, seed, shapeOf, stride } = input;
  const count = shapeOf.length;
  const places = new Float32Array(count * 3);
  for (let copy = 0; copy < count; copy++) writePlace(transforms, copy, places, copy * 3);
  const values = new Float32Array((input.shapes.length * input.head + count * stride) * 4);
  const recordOf = new Uint32Array(count);
  const bounds = emptyBounds();
  let done = 0;
  let firstRecord = input.shapes.length * input.head;
  const shapes = input.shapes.map(({ box, reach }, number): LaidOutShape => {
    const order = copiesOf(shapeOf, number, input.shapes.length);
    const tiles = emptyTiles(makeTiles(order, places, seed));
    onProgress?.((0.4 * (done + order.length)) / count);
    writeRecords(input, order, values, firstRecord, recordOf, (written) =>
      onProgress?.(0.4 + (0.4 * (done + written)) / count),
    );
    for (let tile = 0; tile < tiles.count; tile++)
      measureTile(tiles, tile, values, firstRecord, stride, reach);
    for (let record = 0; record < order.length; record++)
      growByCopy(bounds, values, (firstRecord + record * stride) * 4, box, input.hookReach);
    done += order.length;
    onProgress?.(0.8 + (0.2 * done) / count);
    const shape = { order, tiles, firstRecord };
    firstRecord += order.length * stride;
    return shape;
  });
  return { values, recordOf, shapes, bounds };
}

function writeRecords(
  { colors, colorAt, transforms, settings, settingsAt, stride }: SwarmInput,
  order: Uint32Array,
  values: Float32Array,
  firstRecord: number,
  recordOf: Uint32Array,
  report: (written: number) => void,
): void {
  for (let i = 0; i < order.length; i++) {
    const copy = order[i]!; // i < length
    recordOf[copy] = i;
    const at = (firstRecord + i * stride) * 4;
    writeTransform(transforms, copy, values, at);
    if (colors) for (let k = 0; k < 4; k++) values[at + colorAt + k] = colors[copy * 4 + k]!; // checked
    let value = at + settingsAt;
    for (const { given, components, usual } of settings)
      for (let k = 0; k < components; k++)
        values[value++] = given ? given[copy * components + k]! : usual[k]!; // checked
    if (i % REPORT === REPORT - 1) report(i + 1);
  }
}

/** Finds the spheres of a tile: see `Tiles`. */
export function measureTile(
  { copies, first, spheres }: Tiles,
  tile: number,
  values: Float32Array,
  firstRecord: number,
  stride: number,
  reach: number,
): void {
  const from = (firstRecord + first[tile]! * stride) * 4; // a tile in range, here and below
  const step = stride * 4;
  const end = from + copies[tile]! * step;
  low.fill(Infinity);
  high.fill(-Infinity);
  for (let at = from + 3; at < end; at += step)
    for (let k = 0; k < 3; k++) {
      const value = values[at + k * 4]!;
      if (value < low[k]!) low[k] = value; // three numbers, here and below
      if (value > high[k]!) high[k] = value;
    }
  const x = (low[0]! + high[0]!) / 2;
  const y = (low[1]! + high[1]!) / 2;
  const z = (low[2]! + high[2]!) / 2;
  let stands = 0;
  let reaches = 0;
  let least = Infinity;
  let most = 0;
  for (let at = from; at < end; at += step) {
    const dx = values[at + 3]! - x;
    const dy = values[at + 7]! - y;
    const dz = values[at + 11]! - z;
    const distance = Math.sqrt(dx * dx + dy * dy + dz * dz);
    const scale = affineLargestScale(values, at);
    if (distance > stands) stands = distance;
    if (distance + reach * scale > reaches) reaches = distance + reach * scale;
    if (scale < least) least = scale;
    if (scale > most) most = scale;
  }
  const s = tile * TILE_FLOATS;
  spheres[s] = x;
  spheres[s + 1] = y;
  spheres[s + 2] = z;
  spheres[s + 3] = stands;
  spheres[s + 4] = reaches;
  spheres[s + 5] = least;
  spheres[s + 6] = most;
}

const low = new Float64Array(3);
const high = new Float64Array(3);

/**
 * Has a box hold a copy.
 *
 * @param at where the copy's record begins, in floats
 * @param hookReach metres by which hooks move its vertices, in its own space
 */
export function growByCopy(
  { min, max }: Bounds,
  m: Float32Array,
  at: number,
  { center, half }: CopyBox,
  hookReach: number,
): void {
  const more = hookReach > 0 ? hookReach * affineLargestScale(m, at) : 0;
  for (let k = 0; k < 3; k++) {
    const row = at + k * 4; // twelve numbers a record
    const a = m[row]!;
    const b = m[row + 1]!;
    const c = m[row + 2]!;
    const middle = a * center[0] + b * center[1] + c * center[2] + m[row + 3]!;
    const wide = Math.abs(a) * half[0] + Math.abs(b) * half[1] + Math.abs(c) * half[2] + more;
    if (middle - wide < min[k]!) min[k] = middle - wide; // three numbers
    if (middle + wide > max[k]!) max[k] = middle + wide;
  }
}

function copiesOf(shapeOf: Uint8Array, shape: number, shapes: number): Uint32Array {
  const found = new Uint32Array(shapeOf.length);
  let count = 0;
  for (let copy = 0; copy < shapeOf.length; copy++)
    if (shapes === 1 || shapeOf[copy] === shape) found[count++] = copy;
  return found.slice(0, count);
}

function emptyTiles(starts: readonly number[]): Tiles {
  const count = starts.length - 1;
  return {
    count,
    first: Uint32Array.from({ length: count }, (_, i) => starts[i]!), // i < count, here and below
    copies: Uint32Array.from({ length: count }, (_, i) => starts[i + 1]! - starts[i]!),
    spheres: new Float32Array(count * TILE_FLOATS),
  };
}
