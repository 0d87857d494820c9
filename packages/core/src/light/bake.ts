import { addFromCube, cubeDirection, cubeOfPanorama, type LightCube, panoramaOfCube } from './cube.js';
import { type Irradiance, irradianceOf } from './irradiance.js';
import { LOBE_COUNTS, lobeSamples, MIRROR_SIDE } from './lobe.js';
import { cross, unit } from '../math/vectors.js';
import type { Panorama } from './panorama.js';

/** What surfaces see of an environment, made ahead of time. */
export interface BakedLight {
  /** As mirrors of growing roughness see it, from 0 to 1 in equal steps; each level half as large as the one before. */
  levels: readonly LightCube[];
  /** As `irradianceOf` gives it. */
  irradiance: Irradiance;
}

export interface BakeOptions {
  /** Pixels of a side of the sharpest level: a power of two from 32. Default 256. */
  side?: number;
  /** Hears how far it is, 0..1. */
  onProgress?: (fraction: number) => void;
}

/**
 * Makes on the CPU what a lens makes of a panorama on the GPU, by the same sums: for pages that should not spend the
 * time. Some seconds at the default size.
 *
 * @returns the panorama of the sharpest level, with the rest in `baked`
 */
export function bakePanorama(panorama: Panorama, options: BakeOptions = {}): Panorama {
  const { side = MIRROR_SIDE, onProgress } = options;
  const sharp = [cubeOfPanorama(panorama, side)];
  while (sharp.at(-1)!.side > 1) sharp.push(halved(sharp.at(-1)!)); // never empty
  const levels = LOBE_COUNTS.map((count, level) => {
    onProgress?.(level / LOBE_COUNTS.length);
    if (level === 0) return sharp[0]!; // the first one
    return blurred(sharp, lobeSamples(level / (LOBE_COUNTS.length - 1), count, side), side >> level);
  });
  onProgress?.(1);
  return bakedPanorama({ levels, irradiance: irradianceOf(panorama) }, panorama.name);
}

/** The panorama of what was baked: its sharpest level is seen behind scenes. */
export function bakedPanorama(baked: BakedLight, name?: string): Panorama {
  return { ...panoramaOfCube(baked.levels[0]!, name), baked }; // has levels
}

function halved({ side, sides }: LightCube): LightCube {
  const half = side / 2;
  return {
    side: half,
    sides: sides.map((data) => {
      const out = new Float32Array(half * half * 4);
      for (let row = 0; row < half; row++)
        for (let column = 0; column < half; column++)
          for (let c = 0; c < 4; c++) {
            const at = (y: number, x: number): number =>
              data[((row * 2 + y) * side + column * 2 + x) * 4 + c]!; // within the side
            out[(row * half + column) * 4 + c] = (at(0, 0) + at(0, 1) + at(1, 0) + at(1, 1)) / 4;
          }
      return out;
    }),
  };
}

/** A level: every pixel is the sum over a lobe's directions, each read between two levels. */
function blurred(sharp: readonly LightCube[], samples: Float32Array, side: number): LightCube {
  const sum = new Float64Array(3);
  const sides = [0, 1, 2, 3, 4, 5].map((number) => {
    const out = new Float32Array(side * side * 4);
    for (let row = 0; row < side; row++)
      for (let column = 0; column < side; column++) {
        const way = cubeDirection(number, ((column + 0.5) / side) * 2 - 1, ((row + 0.5) / side) * 2 - 1);
        const n = unit(way);
        const t = unit(cross(Math.abs(n[1]) > 0.9 ? [1, 0, 0] : [0, 1, 0], n));
        const b = cross(n, t);
        sum.fill(0);
        let weights = 0;
        for (let i = 0; i < samples.length; i += 4) {
          const [x, y, z, level] = samples.subarray(i, i + 4) as unknown as [number, number, number, number];
          const direction = [0, 1, 2].map((k) => t[k]! * x + b[k]! * y + n[k]! * z);
          const [dx, dy, dz] = direction as [number, number, number];
          const whole = Math.min(sharp.length - 1, Math.floor(level));
          const next = Math.min(sharp.length - 1, whole + 1);
          const share = level - Math.floor(level);
          addFromCube(sharp[whole]!, dx, dy, dz, z * (1 - share), sum); // within the levels, here and below
          addFromCube(sharp[next]!, dx, dy, dz, z * share, sum);
          weights += z;
        }
        const at = (row * side + column) * 4;
        for (let c = 0; c < 3; c++) out[at + c] = sum[c]! / weights; // three numbers
        out[at + 3] = 1;
      }
    return out;
  });
  return { side, sides };
}
