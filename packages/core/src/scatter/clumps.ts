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
  const u = x / size - i;
  const w = z / size - k;
  // In cells; the nearest first, so that most of the others are too far away to be asked.
  let best = Infinity;
  let [bi, bk, bx, bz] = [i, k, 0, 0];
  for (let n = 0; n < CELLS.length; n += 2) {
    const dx = CELLS[n]!; // two numbers a cell
    const dz = CELLS[n + 1]!;
    const gapX = dx > 0 ? dx - u : dx < 0 ? u - dx - 1 : 0;
    const gapZ = dz > 0 ? dz - w : dz < 0 ? w - dz - 1 : 0;
    if (gapX * gapX + gapZ * gapZ >= best) continue;
    const cx = dx + hashFloat(i + dx, k + dz, 0, seed);
    const cz = dz + hashFloat(i + dx, k + dz, 1, seed);
    const away = (cx - u) * (cx - u) + (cz - w) * (cz - w);
    if (away >= best) continue;
    best = away;
    bi = i + dx;
    bk = k + dz;
    bx = (i + cx) * size;
    bz = (k + cz) * size;
  }
  const chance = (part: number): number => hashFloat(bi, bk, part, seed);
  return { x: bx, z: bz, distance: Math.sqrt(best) * size, chance: [chance(2), chance(3), chance(4)] };
}

/** Cells around one, nearest first. */
const CELLS = Int8Array.from(
  Array.from({ length: 25 }, (_, n) => [(n % 5) - 2, Math.floor(n / 5) - 2])
    .sort(([ax, az], [bx, bz]) => ax! * ax! + az! * az! - bx! * bx! - bz! * bz!) // two each
    .flat(),
);

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
