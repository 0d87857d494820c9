import { LensError } from '../errors/lens-error.js';
import { hashFloat } from '../procedural/noise.js';
import { type ScatterDensity, densityOf } from './density.js';

/** Places that something stands at, with which way is up there. */
export interface Scattered {
  count: number;
  /** 3 a place, metres. */
  translations: Float32Array;
  /** 3 a place, of length 1. */
  normals: Float32Array;
}

/** A picture as density: one channel of it, spread over a rectangle of the ground about the origin. */
export interface PictureDensity {
  picture: { width: number; height: number; /** RGBA, 4 bytes a pixel. */ data: ArrayLike<number> };
  /** Metres along X and Z. */
  width: number;
  depth: number;
  /** Default `r`. */
  channel?: 'r' | 'g' | 'b' | 'a';
}

/** A function, or a picture: that can be handed to a worker. */
export type DensityGiven = ScatterDensity | PictureDensity;

export function densityFunction(given: DensityGiven | undefined): ScatterDensity | undefined {
  return typeof given === 'object' ? densityOf(given.picture, given) : given;
}

/** What steps give in the end. */
export function finished<T>(steps: Generator<number, T>): T {
  for (;;) {
    const step = steps.next();
    if (step.done) return step.value;
  }
}

export interface TurnOptions {
  /** Which numbers chance gives. Default 1. */
  seed?: number;
  /** How far instances lean along the ground's normal: 0 all stand upright, 1 all along it. Default 1. */
  align?: number;
  /** Radians by which copies are turned about their own up at most, to either side. Default pi: any way. */
  turn?: number;
  /** Radians by which they lean any way at most. Default 0. */
  lean?: number;
  /** Least and largest factor of their size. Default 1. */
  scale?: readonly [least: number, most: number];
}

/** InstanceTransforms, for a swarm, of what was scattered: each turned, leaned and sized by chance. */
export function transformsOf(
  { count, translations, normals }: Scattered,
  options: TurnOptions = {},
): { translations: Float32Array; rotations: Float32Array; scales: Float32Array } {
  const { seed = 1, align = 1, turn = Math.PI, lean = 0, scale = [1, 1] } = options;
  if (!(scale[0] > 0 && scale[1] >= scale[0]))
    throw new LensError('scatter/scale', `instances cannot be sized from ${scale[0]} to ${scale[1]}`, {
      hint: 'Give two factors above 0, the smaller one first.',
    });
  const rotations = new Float32Array(count * 4);
  const scales = new Float32Array(count);
  const [least, most] = scale;
  for (let i = 0; i < count; i++) {
    const n = i * 3;
    // Three a place.
    let x = normals[n]! * align;
    const y = normals[n + 1]! * align + 1 - align;
    let z = normals[n + 2]! * align;
    if (lean !== 0) {
      const way = hashFloat(i, 0, 0, seed) * 2 * Math.PI;
      const aside = Math.sin(lean * Math.sqrt(hashFloat(i, 1, 0, seed)));
      x += aside * Math.cos(way);
      z += aside * Math.sin(way);
    }
    writeUpright(rotations, i * 4, x, y, z, (hashFloat(i, 2, 0, seed) * 2 - 1) * turn);
    scales[i] = least + (most - least) * hashFloat(i, 3, 0, seed);
  }
  return { translations, rotations, scales };
}

/** The shortest turn of +Y to a direction, after a turn about +Y. */
function writeUpright(
  out: Float32Array,
  at: number,
  ux: number,
  uy: number,
  uz: number,
  angle: number,
): void {
  const length = Math.sqrt(ux * ux + uy * uy + uz * uz) || 1;
  const y = uy / length;
  // Upside down there are many shortest turns: about X is one.
  const isTurned = y > -0.999999;
  let x = isTurned ? uz / length : 1;
  let z = isTurned ? -ux / length : 0;
  let w = isTurned ? 1 + y : 0;
  const n = Math.sqrt(x * x + z * z + w * w);
  x /= n;
  z /= n;
  w /= n;
  const s = Math.sin(angle / 2);
  const c = Math.cos(angle / 2);
  out[at] = x * c - z * s;
  out[at + 1] = w * s;
  out[at + 2] = z * c + x * s;
  out[at + 3] = w * c;
}

/** Places that were found one by one. */
export class Places {
  private count = 0;
  private translations: Float32Array<ArrayBuffer>;
  private normals: Float32Array<ArrayBuffer>;

  /** @param expected how many there will be, about */
  constructor(expected = 256) {
    this.translations = new Float32Array(expected * 3);
    this.normals = new Float32Array(expected * 3);
  }

  add(x: number, y: number, z: number, nx = 0, ny = 1, nz = 0): void {
    const at = this.count++ * 3;
    if (at >= this.translations.length) {
      this.translations = grown(this.translations);
      this.normals = grown(this.normals);
    }
    const { normals, translations } = this;
    translations[at] = x;
    translations[at + 1] = y;
    translations[at + 2] = z;
    normals[at] = nx;
    normals[at + 1] = ny;
    normals[at + 2] = nz;
  }

  done(): Scattered {
    const { count } = this;
    const cut = (all: Float32Array<ArrayBuffer>): Float32Array =>
      all.length === count * 3 ? all : all.slice(0, count * 3);
    return { count, translations: cut(this.translations), normals: cut(this.normals) };
  }
}

function grown(old: Float32Array<ArrayBuffer>): Float32Array<ArrayBuffer> {
  const next = new Float32Array(Math.max(768, old.length * 2));
  next.set(old);
  return next;
}

/** @throws LensError `scatter/spacing` */
export function checkSpacing(name: string, metres: number): void {
  if (metres > 0 && metres < Infinity) return;
  throw new LensError('scatter/spacing', `things cannot stand ${metres} m apart`, {
    hint: `Give \`${name}\` in metres, above 0.`,
  });
}
