import { watchMade, watchOptions } from '#watch';
import type { Geometry } from './geometry.js';
import { AROUND, cellsOf, length, segments } from './limits.js';
import { addDisc, Surface } from './surface.js';

export interface PlaneOptions {
  /** Along X, metres. Default 1. */
  width?: number;
  /** Along Z, metres. Default 1. */
  depth?: number;
  /** Along X and along Z, 1 or more each. Default `[1, 1]`. */
  cells?: readonly [number, number];
}

/** A rectangle in the XZ plane about the origin, facing up (+Y); texture v runs towards +Z. */
export function plane(options: PlaneOptions = {}): Geometry {
  watchOptions('plane', options);
  const width = length('width', options.width ?? 1);
  const depth = length('depth', options.depth ?? 1);
  const [across, along] = cellsOf(options.cells ?? [1, 1], 2) as [number, number];
  const surface = new Surface();
  surface.grid(across, along, (u, v) => ({
    position: [(u - 0.5) * width, 0, (v - 0.5) * depth],
    normal: [0, 1, 0],
  }));
  return watchMade(surface.finish('plane'), 'plane', options);
}

export interface DiscOptions {
  /** Metres. Default 0.5. */
  radius?: number;
  /** Of a hole in the middle, 0 up to below `radius`. Default 0. */
  innerRadius?: number;
  /** Slices, 3 or more. Default 32. */
  slices?: number;
}

/** A disc (or ring) in the XZ plane about the origin, facing up. */
export function disc(options: DiscOptions = {}): Geometry {
  watchOptions('disc', options);
  const innerRadius = length('innerRadius', options.innerRadius ?? 0, 0, true);
  const radius = length('radius', options.radius ?? 0.5, innerRadius);
  const surface = new Surface();
  addDisc(surface, radius, 0, segments('slices', options.slices ?? AROUND, 3), true, innerRadius);
  return watchMade(surface.finish('disc'), 'disc', options);
}

export interface BoxOptions {
  /** Along X, Y and Z, metres. Each defaults to 1. */
  width?: number;
  height?: number;
  depth?: number;
  /** Along X, Y and Z, 1 or more each. Default `[1, 1, 1]`. */
  cells?: readonly [number, number, number];
}

/** A box about the origin; each face has the whole texture, upright on the four sides. */
export function box(options: BoxOptions = {}): Geometry {
  watchOptions('box', options);
  const size = [
    length('width', options.width ?? 1),
    length('height', options.height ?? 1),
    length('depth', options.depth ?? 1),
  ] as const;
  const cells = cellsOf(options.cells ?? [1, 1, 1], 3) as [number, number, number];
  const surface = new Surface();
  for (const { normal, right, down } of BOX_FACES) {
    const axis = (v: readonly number[]): 0 | 1 | 2 => (v[0] ? 0 : v[1] ? 1 : 2);
    surface.grid(cells[axis(right)], cells[axis(down)], (u, v) => ({
      position: [0, 1, 2].map(
        (k) => (normal[k]! / 2 + right[k]! * (u - 0.5) + down[k]! * (v - 0.5)) * size[k]!,
      ) as [number, number, number],
      normal: [...normal],
    }));
  }
  return watchMade(surface.finish('box'), 'box', options);
}

/** Outward normal, and the directions in which u and v grow: right x down points inwards. */
const BOX_FACES: { normal: [number, number, number]; right: number[]; down: number[] }[] = [
  { normal: [1, 0, 0], right: [0, 0, -1], down: [0, -1, 0] },
  { normal: [-1, 0, 0], right: [0, 0, 1], down: [0, -1, 0] },
  { normal: [0, 1, 0], right: [1, 0, 0], down: [0, 0, 1] },
  { normal: [0, -1, 0], right: [1, 0, 0], down: [0, 0, -1] },
  { normal: [0, 0, 1], right: [1, 0, 0], down: [0, -1, 0] },
  { normal: [0, 0, -1], right: [-1, 0, 0], down: [0, -1, 0] },
];
