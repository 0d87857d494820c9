import { LensError } from '../errors/lens-error.js';
import { attributeFloats, drawCount, type Geometry } from '../geometry/geometry.js';
import { hashFloat } from '../procedural/noise.js';
import {
  checkSpacing,
  type DensityGiven,
  densityFunction,
  finished,
  Places,
  type Scattered,
} from './scattered.js';

const TRIES_A_STEP = 1024;

export interface SurfaceOptions {
  /** Metres between any two places at least, measured straight. */
  distance: number;
  seed?: number;
  density?: DensityGiven;
  /** Places that are tried, for each that would stand if they were in rows. More find more gaps. Default 12. */
  tries?: number;
}

/**
 * Places on the triangles of a geometry, none nearer to another than `distance`, without a pattern (blue noise: dart
 * throwing, Cook 1986, over triangles in the share of their areas).
 *
 * @throws LensError `scatter/spacing`, `scatter/surface` for geometry without triangles
 */
export const scatterOnSurface = (geometry: Geometry, options: SurfaceOptions): Scattered =>
  finished(surfaceSteps(geometry, options));

/** The same in steps: gives how much is done, 0..1, after each. @throws LensError as `scatterOnSurface` */
export function* surfaceSteps(geometry: Geometry, options: SurfaceOptions): Generator<number, Scattered> {
  const { distance, seed = 1, tries = 12 } = options;
  checkSpacing('distance', distance);
  const density = densityFunction(options.density);
  const { position } = geometry.attributes;
  if ((geometry.mode ?? 'triangles') !== 'triangles' || !position)
    throw new LensError('scatter/surface', 'things are scattered on triangles alone', {
      hint: `The geometry's mode is ${geometry.mode ?? 'triangles'}.`,
    });
  const positions = attributeFloats(position);
  const triangles = Math.floor(drawCount(geometry) / 3);
  const corner = (triangle: number, k: number): number => {
    const i = triangle * 3 + k;
    return (geometry.indices ? geometry.indices[i]! : i) * 3; // a corner in range
  };
  const sums = new Float64Array(triangles + 1);
  const normal = [0, 0, 0];
  for (let t = 0; t < triangles; t++) sums[t + 1] = sums[t]! + across(normal, positions, t, corner) / 2;
  const area = sums[triangles]!;
  const near = new Neighbours(distance);
  const places = new Places();
  // In rows of triangles each takes this much room.
  const wanted = Math.ceil((tries * area) / ((distance * distance * Math.sqrt(3)) / 2));
  for (let i = 0; i < wanted; i++) {
    if (i % TRIES_A_STEP === TRIES_A_STEP - 1) yield i / wanted;
    const t = find(sums, hashFloat(i, 0, 0, seed) * area);
    // Uniform in a triangle: Osada and others, "Shape Distributions", 2002.
    const r = Math.sqrt(hashFloat(i, 1, 0, seed));
    const s = hashFloat(i, 2, 0, seed);
    const [a, b, c] = [1 - r, r * (1 - s), r * s];
    const [p, q, o] = [corner(t, 0), corner(t, 1), corner(t, 2)];
    const at = (k: number): number => positions[p + k]! * a + positions[q + k]! * b + positions[o + k]! * c; // three each
    const [x, y, z] = [at(0), at(1), at(2)];
    if (density && hashFloat(i, 3, 0, seed) >= density(x, y, z)) continue;
    if (!near.add(x, y, z)) continue;
    const length = across(normal, positions, t, corner);
    places.add(x, y, z, normal[0]! / length, normal[1]! / length, normal[2]! / length);
  }
  return places.done();
}

/** Writes the cross product of two sides. @returns its length */
function across(
  out: number[],
  positions: Float32Array,
  triangle: number,
  corner: (triangle: number, k: number) => number,
): number {
  const [a, b, c] = [corner(triangle, 0), corner(triangle, 1), corner(triangle, 2)];
  const u = (k: number): number => positions[b + k]! - positions[a + k]!; // three each
  const v = (k: number): number => positions[c + k]! - positions[a + k]!;
  for (let k = 0; k < 3; k++) {
    const [i, j] = [(k + 1) % 3, (k + 2) % 3];
    out[k] = u(i) * v(j) - u(j) * v(i);
  }
  return Math.hypot(...out);
}

/** The last number whose sum is at most `value`. */
function find(sums: Float64Array, value: number): number {
  let low = 0;
  let high = sums.length - 1;
  while (high - low > 1) {
    const middle = (low + high) >> 1;
    if (sums[middle]! <= value) low = middle;
    else high = middle;
  }
  return low;
}

/** Places in cells so small that each holds at most one: a table of cells by their hash, half empty at least. */
class Neighbours {
  private readonly size: number;
  /** Three floats a place, and the three numbers of its cell. */
  private places = new Float64Array(3 * 1024);
  private cells = new Int32Array(3 * 1024);
  private count = 0;
  /** By hash of a cell: the number of its place, from 1 on. */
  private table = new Int32Array(4096);

  constructor(private readonly distance: number) {
    this.size = distance / Math.sqrt(3);
  }

  /** False where another one is too near. */
  add(x: number, y: number, z: number): boolean {
    const { distance, size } = this;
    const i = Math.floor(x / size);
    const j = Math.floor(y / size);
    const k = Math.floor(z / size);
    for (let dx = -2; dx <= 2; dx++)
      for (let dy = -2; dy <= 2; dy++)
        for (let dz = -2; dz <= 2; dz++) {
          const other = this.table[this.slotOf(i + dx, j + dy, k + dz)]!; // within the table
          if (other === 0) continue;
          const at = (other - 1) * 3;
          const ox = this.places[at]! - x; // a place that is there
          const oy = this.places[at + 1]! - y;
          const oz = this.places[at + 2]! - z;
          if (ox * ox + oy * oy + oz * oz < distance * distance) return false;
        }
    this.keep(x, y, z, i, j, k);
    return true;
  }

  private keep(x: number, y: number, z: number, i: number, j: number, k: number): void {
    const at = this.count * 3;
    if (at >= this.places.length) this.grow();
    this.places[at] = x;
    this.places[at + 1] = y;
    this.places[at + 2] = z;
    this.cells[at] = i;
    this.cells[at + 1] = j;
    this.cells[at + 2] = k;
    this.table[this.slotOf(i, j, k)] = ++this.count;
  }

  /** Where a cell's place is named, or would be. */
  private slotOf(i: number, j: number, k: number): number {
    const { cells, table } = this;
    const mask = table.length - 1;
    let slot = (Math.imul(i, 0x9e3779b1) ^ Math.imul(j, 0x85ebca77) ^ Math.imul(k, 0xc2b2ae3d)) >>> 0;
    slot = (slot ^ (slot >>> 15)) & mask;
    for (;;) {
      const found = table[slot]!; // within the table, here and below
      if (found === 0) return slot;
      const at = (found - 1) * 3;
      if (cells[at] === i && cells[at + 1] === j && cells[at + 2] === k) return slot;
      slot = (slot + 1) & mask;
    }
  }

  private grow(): void {
    const places = new Float64Array(this.places.length * 2);
    places.set(this.places);
    const cells = new Int32Array(this.cells.length * 2);
    cells.set(this.cells);
    this.places = places;
    this.cells = cells;
    this.table = new Int32Array(this.table.length * 2);
    for (let n = 0; n < this.count; n++)
      this.table[this.slotOf(cells[n * 3]!, cells[n * 3 + 1]!, cells[n * 3 + 2]!)] = n + 1; // three a place
  }
}
