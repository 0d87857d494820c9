import { LensError } from '../errors/lens-error.js';
import { hashFloat } from '../procedural/noise.js';
import { checkSpacing, type Density } from './scattered.js';

/** The clump that a place of the ground belongs to. */
export interface Clump {
  /** Where its middle is. */
  x: number;
  z: number;
  /** Metres from there. */
  distance: number;
  /** 0..1 by chance, one each: what is of a clump may share its height, its angle, its colour. */
  chance: [number, number, number];
}

/**
 * Finds the clump that a place belongs to: the nearest of the middles that lie one in each cell of a grid (cellular noise:
 * Worley, "A Cellular Texture Basis Function", 1996).
 *
 * @param size metres across of a cell
 */
export function clumpAt(x: number, z: number, { size, seed = 1 }: { size: number; seed?: number }): Clump {
  checkSpacing('size', size);
  const [i, k] = [Math.floor(x / size), Math.floor(z / size)];
  let [best, bx, bz, bi, bk] = [Infinity, 0, 0, i, k];
  for (let dx = -2; dx <= 2; dx++)
    for (let dz = -2; dz <= 2; dz++) {
      const cx = (i + dx + hashFloat(i + dx, k + dz, 0, seed)) * size;
      const cz = (k + dz + hashFloat(i + dx, k + dz, 1, seed)) * size;
      const away = (cx - x) ** 2 + (cz - z) ** 2;
      if (away >= best) continue;
      [best, bx, bz, bi, bk] = [away, cx, cz, i + dx, k + dz];
    }
  const chance = (part: number): number => hashFloat(bi, bk, part, seed);
  return { x: bx, z: bz, distance: Math.sqrt(best), chance: [chance(2), chance(3), chance(4)] };
}

/** A picture as density: one channel of it, spread over a rectangle of the ground and read between its pixels. */
export function densityOf(
  picture: { width: number; height: number; /** RGBA, 4 bytes a pixel. */ data: ArrayLike<number> },
  area: {
    width: number;
    depth: number;
    /** Of `r`, `g`, `b`, `a`. Default `r`. */ channel?: 'r' | 'g' | 'b' | 'a';
  },
): Density {
  const { width, height, data } = picture;
  if (data.length < width * height * 4)
    throw new LensError('scatter/picture', `${width} x ${height} pixels take ${width * height * 4} bytes`, {
      hint: `The picture has ${data.length}: give RGBA, 4 bytes a pixel.`,
    });
  const channel = 'rgba'.indexOf(area.channel ?? 'r');
  const at = (i: number, j: number): number => {
    const column = Math.min(width - 1, Math.max(0, i));
    const row = Math.min(height - 1, Math.max(0, j));
    return data[(row * width + column) * 4 + channel]! / 255; // checked
  };
  return (x, _, z) => {
    const [u, v] = [(x / area.width + 0.5) * width - 0.5, (z / area.depth + 0.5) * height - 0.5];
    if (u < -0.5 || v < -0.5 || u > width - 0.5 || v > height - 0.5) return 0;
    const [i, j] = [Math.floor(u), Math.floor(v)];
    const [s, t] = [u - i, v - j];
    return (
      (at(i, j) * (1 - s) + at(i + 1, j) * s) * (1 - t) + (at(i, j + 1) * (1 - s) + at(i + 1, j + 1) * s) * t
    );
  };
}
