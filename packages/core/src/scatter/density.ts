import { LensError } from '../errors/lens-error.js';

/** How much of what is scattered stands at a place of the ground: 0 none, 1 all. */
export type ScatterDensity = (x: number, y: number, z: number) => number;

/** A picture as density: one channel of it, spread over a rectangle of the ground and read between its pixels. */
export function densityOf(
  picture: { width: number; height: number; /** RGBA, 4 bytes a pixel. */ data: ArrayLike<number> },
  area: {
    width: number;
    depth: number;
    /** Of `r`, `g`, `b`, `a`. Default `r`. */ channel?: 'r' | 'g' | 'b' | 'a';
  },
): ScatterDensity {
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
