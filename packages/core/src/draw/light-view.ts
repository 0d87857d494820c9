import { type CameraView, multiply, writePlanes } from './camera-view.js';

/** Three numbers. */
type Vec3 = ArrayLike<number>;

/**
 * A view out of a point light or a spot light: perspective, reversed depth, no far end.
 *
 * @param forward of length 1
 * @param half half the angle of view, radians, below pi / 2
 */
export function writeLightView(
  out: CameraView,
  position: Vec3,
  forward: Vec3,
  half: number,
  near: number,
): void {
  writeAxes(out, position, forward);
  const { projection } = out;
  projection.fill(0);
  projection[0] = projection[5] = 1 / Math.tan(half);
  projection[11] = -1;
  projection[14] = near;
  finish(out);
}

/** Part of what a camera sees, between two distances, in a sphere. */
export interface ViewSlice {
  /** Metres from the camera along its way. */
  from: number;
  to: number;
  /** How many times as wide and as high as the view the picture is that it is a part of. Default 1. */
  across?: number;
  down?: number;
}

/**
 * A view along a directional light that holds what a camera sees within a slice, for a square map. It is as large as
 * a sphere around the slice and moves by whole texels, so that edges of shadows stand still when the camera moves or turns.
 * Things between the light and the sphere are not left out: they are to be flattened onto its near side.
 *
 * @param forward way of the light, of length 1
 * @param size texels of a side of the map
 * @param more metres towards the light whose depths are told apart, besides
 * @returns metres a texel
 */
export function writeCascadeView(
  out: CameraView,
  camera: CameraView,
  forward: Vec3,
  { from, to, across = 1, down = 1 }: ViewSlice,
  size: number,
  more = 0,
): number {
  const { projection: p } = camera;
  const isParallel = p[15] === 1;
  // Half the width and height of the picture, at distance 1 or everywhere.
  const aside = Math.hypot(across / p[0]!, down / p[5]!);
  const middle = isParallel ? (from + to) / 2 : Math.min(to, ((from + to) / 2) * (1 + aside * aside));
  const radius = isParallel ? Math.hypot((to - from) / 2, aside) : Math.hypot(to - middle, aside * to);
  // Rounded up by steps of 4%, so that it stays the same while the camera moves.
  const half = 2 ** (Math.ceil(Math.log2(radius) * 16) / 16);
  writeAxes(out, [0, 0, 0], forward);
  const texel = (2 * half) / (size - 4);
  const center = [0, 1, 2].map((k) => camera.position[k]! + camera.forward[k]! * middle); // three numbers, here and below
  const { view } = out;
  const along = [0, 1, 2].map(
    (k) => view[k]! * center[0]! + view[4 + k]! * center[1]! + view[8 + k]! * center[2]!,
  );
  const snapped = [
    Math.floor(along[0]! / texel) * texel,
    Math.floor(along[1]! / texel) * texel,
    // Depth by steps as well: the map then stays the same while the camera moves within one.
    Math.ceil(along[2]! / half) * half + half + more,
  ];
  for (let k = 0; k < 3; k++) {
    view[12 + k] = -snapped[k]!;
    out.position[k] =
      view[k * 4]! * snapped[0]! + view[k * 4 + 1]! * snapped[1]! + view[k * 4 + 2]! * snapped[2]!;
  }
  const depth = 4 * half + more;
  const { projection } = out;
  projection.fill(0);
  projection[0] = projection[5] = 1 / (half * (size / (size - 4)));
  projection[10] = 1 / depth;
  projection[14] = 1;
  projection[15] = 1;
  finish(out);
  out.planes.set([0, 0, 0, 1], 16);
  return texel;
}

/** The view's matrix from where it stands and what it looks along. */
function writeAxes(out: CameraView, position: Vec3, forward: Vec3): void {
  const [x, y, z] = [forward[0]!, forward[1]!, forward[2]!]; // three numbers, here and below
  const isSteep = Math.abs(y) > 0.99;
  // Right = forward x up.
  let [rx, ry, rz] = isSteep ? [0, z, -y] : [-z, 0, x];
  const n = Math.hypot(rx, ry, rz);
  [rx, ry, rz] = [rx / n, ry / n, rz / n];
  const up = [ry * z - rz * y, rz * x - rx * z, rx * y - ry * x];
  const axes = [[rx, ry, rz], up, [-x, -y, -z]];
  const { view } = out;
  for (let k = 0; k < 3; k++) {
    const axis = axes[k]!;
    view[k] = axis[0]!;
    view[4 + k] = axis[1]!;
    view[8 + k] = axis[2]!;
    view[12 + k] = -(axis[0]! * position[0]! + axis[1]! * position[1]! + axis[2]! * position[2]!);
    out.position[k] = position[k]!;
    out.forward[k] = forward[k]!;
  }
  view[3] = view[7] = view[11] = 0;
  view[15] = 1;
}

function finish(out: CameraView): void {
  multiply(out.viewProjection, out.projection, out.view);
  writePlanes(out.planes, out.viewProjection);
}

/**
 * Where the slices of a view end that share its depth: between equal steps and equal ratios (Zhang et al.,
 * "Parallel-Split Shadow Maps", 2006).
 *
 * @returns the ends of `count` slices
 */
export function sliceEnds(near: number, far: number, count: number): number[] {
  return Array.from({ length: count }, (_, i) => {
    const share = (i + 1) / count;
    const even = near + (far - near) * share;
    const ratio = near * (far / near) ** share;
    return 0.35 * even + 0.65 * ratio;
  });
}
