import { LensError } from '../errors/lens-error.js';
import type { Vec3 } from '../math/vectors.js';
import { hashFloat } from '../procedural/noise.js';

/** Places that something stands at, with which way is up there. */
export interface Scattered {
  count: number;
  /** 3 a place, metres. */
  translations: Float32Array;
  /** 3 a place, of length 1. */
  normals: Float32Array;
}

/** How much of what is scattered stands at a place of the ground: 0 none, 1 all. */
export type Density = (x: number, y: number, z: number) => number;

export interface TurnOptions {
  /** Which numbers chance gives. Default 1. */
  seed?: number;
  /** How far copies lean along the ground's normal: 0 all stand upright, 1 all along it. Default 1. */
  align?: number;
  /** Radians by which copies are turned about their own up at most, to either side. Default pi: any way. */
  turn?: number;
  /** Radians by which they lean any way at most. Default 0. */
  lean?: number;
  /** Least and largest factor of their size. Default 1. */
  scale?: readonly [least: number, most: number];
}

/** Placings, for a swarm, of what was scattered: each turned, leaned and sized by chance. */
export function placingsOf(
  { count, translations, normals }: Scattered,
  options: TurnOptions = {},
): { translations: Float32Array; rotations: Float32Array; scales: Float32Array } {
  const { seed = 1, align = 1, turn = Math.PI, lean = 0, scale = [1, 1] } = options;
  if (!(scale[0] > 0 && scale[1] >= scale[0]))
    throw new LensError('scatter/scale', `copies cannot be sized from ${scale[0]} to ${scale[1]}`, {
      hint: 'Give two factors above 0, the smaller one first.',
    });
  const rotations = new Float32Array(count * 4);
  const scales = new Float32Array(count);
  const up: Vec3 = [0, 1, 0];
  for (let i = 0; i < count; i++) {
    const chance = (k: number): number => hashFloat(i, k, 0, seed);
    const [way, away] = [chance(0) * 2 * Math.PI, lean * Math.sqrt(chance(1))];
    for (let k = 0; k < 3; k++) up[k] = normals[i * 3 + k]! * align + (k === 1 ? 1 - align : 0); // three a place
    up[0] += Math.sin(away) * Math.cos(way);
    up[2] += Math.sin(away) * Math.sin(way);
    writeUpright(rotations, i * 4, up, (chance(2) * 2 - 1) * turn);
    scales[i] = scale[0] + (scale[1] - scale[0]) * chance(3);
  }
  return { translations, rotations, scales };
}

/** The shortest turn of +Y to `up`, after a turn about +Y. */
function writeUpright(out: Float32Array, at: number, up: Vec3, angle: number): void {
  const length = Math.hypot(...up) || 1;
  const [x, y, z] = [up[0] / length, up[1] / length, up[2] / length];
  // Upside down there are many shortest turns: about X is one.
  const [sx, sz, sw] = y > -0.999999 ? [z, -x, 1 + y] : [1, 0, 0];
  const n = Math.hypot(sx, sz, sw);
  const [ax, az, aw] = [sx / n, sz / n, sw / n];
  const [bs, bc] = [Math.sin(angle / 2), Math.cos(angle / 2)];
  out[at] = ax * bc - az * bs;
  out[at + 1] = aw * bs;
  out[at + 2] = az * bc + ax * bs;
  out[at + 3] = aw * bc;
}

/** Places that were found one by one. */
export class Places {
  private readonly translations: number[] = [];
  private readonly normals: number[] = [];

  add(x: number, y: number, z: number, nx = 0, ny = 1, nz = 0): void {
    this.translations.push(x, y, z);
    this.normals.push(nx, ny, nz);
  }

  done(): Scattered {
    return {
      count: this.translations.length / 3,
      translations: Float32Array.from(this.translations),
      normals: Float32Array.from(this.normals),
    };
  }
}

/** @throws LensError `scatter/spacing` */
export function checkSpacing(name: string, metres: number): void {
  if (metres > 0 && metres < Infinity) return;
  throw new LensError('scatter/spacing', `things cannot stand ${metres} m apart`, {
    hint: `Give \`${name}\` in metres, above 0.`,
  });
}
