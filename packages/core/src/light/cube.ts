import { LensError } from '../errors/lens-error.js';
import { type Panorama, panoramaCoordinates, panoramaDirection } from './panorama.js';

/** Light from all directions as the six sides of a cube about the viewer. */
export interface LightCube {
  /** Pixels of a side's side. */
  side: number;
  /**
   * Linear radiance, RGBA, `side * side * 4` numbers each, rows from the top: +X, -X, +Y, -Y, +Z, -Z as GPUs have
   * them. Seen from within, so +X has -Z on its right; +Y has +Z below.
   */
  sides: readonly Float32Array[];
}

/** The direction through a place of a side, both -1..1, x to the right and y down; not of length 1. */
export function cubeDirection(side: number, x: number, y: number): [x: number, y: number, z: number] {
  switch (side) {
    case 0:
      return [1, -y, -x];
    case 1:
      return [-1, -y, x];
    case 2:
      return [x, 1, y];
    case 3:
      return [x, -1, -y];
    case 4:
      return [x, -y, 1];
    default:
      return [-x, -y, -1];
  }
}

/** Which side a direction meets, and where: both -1..1, x to the right and y down. */
export function cubePlace(x: number, y: number, z: number): [side: number, x: number, y: number] {
  const [ax, ay, az] = [Math.abs(x), Math.abs(y), Math.abs(z)];
  if (ax >= ay && ax >= az) return x > 0 ? [0, -z / ax, -y / ax] : [1, z / ax, -y / ax];
  if (ay >= az) return y > 0 ? [2, x / ay, z / ay] : [3, x / ay, -z / ay];
  return z > 0 ? [4, x / az, -y / az] : [5, -x / az, -y / az];
}

/** Adds what a cube shows in a direction, by the four nearest pixels of the side that it meets. */
export function addFromCube(
  { side, sides }: LightCube,
  x: number,
  y: number,
  z: number,
  weight: number,
  out: Float64Array | Float32Array,
  at = 0,
): void {
  const [number, u, v] = cubePlace(x, y, z);
  const data = sides[number]!; // 0 to 5
  const px = Math.min(side - 1, Math.max(0, (u * 0.5 + 0.5) * side - 0.5));
  const py = Math.min(side - 1, Math.max(0, (v * 0.5 + 0.5) * side - 0.5));
  const [x0, y0] = [Math.floor(px), Math.floor(py)];
  const [fx, fy] = [px - x0, py - y0];
  const [x1, y1] = [Math.min(side - 1, x0 + 1), Math.min(side - 1, y0 + 1)];
  for (let c = 0; c < 3; c++) {
    const above = data[(y0 * side + x0) * 4 + c]! * (1 - fx) + data[(y0 * side + x1) * 4 + c]! * fx; // within the side
    const below = data[(y1 * side + x0) * 4 + c]! * (1 - fx) + data[(y1 * side + x1) * 4 + c]! * fx;
    out[at + c]! += (above * (1 - fy) + below * fy) * weight;
  }
}

/**
 * The panorama of a cube, four sides wide and two high, so that cubes can be used wherever panoramas are.
 *
 * @throws LensError `light/cube` unless there are six square sides of one size
 */
export function panoramaOfCube(cube: LightCube, name?: string): Panorama {
  const { side, sides } = cube;
  if (sides.length !== 6 || !(side > 0) || sides.some(({ length }) => length !== side * side * 4)) {
    throw new LensError(
      'light/cube',
      `a cube has six sides of ${side} x ${side} pixels, not ${sides.map(({ length }) => length / 4).join(', ')} pixels`,
      { hint: 'Give +X, -X, +Y, -Y, +Z, -Z, all square and of one size.' },
    );
  }
  const [width, height] = [side * 4, side * 2];
  const data = new Float32Array(width * height * 4);
  for (let row = 0; row < height; row++)
    for (let column = 0; column < width; column++) {
      const [x, y, z] = panoramaDirection((column + 0.5) / width, (row + 0.5) / height);
      const at = (row * width + column) * 4;
      addFromCube(cube, x, y, z, 1, data, at);
      data[at + 3] = 1;
    }
  return { ...(name === undefined ? {} : { name }), width, height, data };
}

/** The panorama of six pictures, the sides of a cube: +X, -X, +Y, -Y, +Z, -Z. @throws LensError `light/cube` */
export function panoramaOfSides(sides: readonly Panorama[]): Panorama {
  if (sides.length !== 6)
    throw new LensError('light/cube', `a cube has six sides, and ${sides.length} were given`, {
      hint: 'Give +X, -X, +Y, -Y, +Z, -Z, in this order.',
    });
  const odd = sides.find(({ width, height }) => width !== height);
  if (odd) {
    throw new LensError('light/cube', `the side "${odd.name ?? ''}" is ${odd.width} x ${odd.height}`, {
      hint: 'Sides of a cube are square.',
    });
  }
  return panoramaOfCube({ side: sides[0]?.width ?? 0, sides: sides.map(({ data }) => data) });
}

/** The cube of a panorama, by the mean of the pixels that each of its own covers, about. */
export function cubeOfPanorama({ width, height, data }: Panorama, side: number): LightCube {
  // Several rays a pixel where the panorama is finer.
  const rays = Math.max(1, Math.round(width / (4 * side)));
  const sides = [0, 1, 2, 3, 4, 5].map((number) => {
    const out = new Float32Array(side * side * 4);
    for (let row = 0; row < side; row++)
      for (let column = 0; column < side; column++) {
        const at = (row * side + column) * 4;
        for (let ray = 0; ray < rays * rays; ray++) {
          const x = ((column + ((ray % rays) + 0.5) / rays) / side) * 2 - 1;
          const y = ((row + (Math.floor(ray / rays) + 0.5) / rays) / side) * 2 - 1;
          const way = cubeDirection(number, x, y);
          const n = Math.hypot(...way);
          const [u, v] = panoramaCoordinates(way[0] / n, way[1] / n, way[2] / n);
          addFromPanorama(data, width, height, u, v, 1 / (rays * rays), out, at);
        }
        out[at + 3] = 1;
      }
    return out;
  });
  return { side, sides };
}

function addFromPanorama(
  data: Float32Array,
  width: number,
  height: number,
  u: number,
  v: number,
  weight: number,
  out: Float32Array,
  at: number,
): void {
  const px = u * width - 0.5;
  const py = Math.min(height - 1, Math.max(0, v * height - 0.5));
  const [left, y0] = [Math.floor(px), Math.floor(py)];
  const [fx, fy] = [px - left, py - y0];
  // It goes round.
  const x0 = (left + width) % width;
  const x1 = (x0 + 1) % width;
  const y1 = Math.min(height - 1, y0 + 1);
  for (let c = 0; c < 3; c++) {
    const above = data[(y0 * width + x0) * 4 + c]! * (1 - fx) + data[(y0 * width + x1) * 4 + c]! * fx; // within it
    const below = data[(y1 * width + x0) * 4 + c]! * (1 - fx) + data[(y1 * width + x1) * 4 + c]! * fx;
    out[at + c]! += (above * (1 - fy) + below * fy) * weight;
  }
}
