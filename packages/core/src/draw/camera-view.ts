import { LensError } from '../errors/lens-error.js';
import type { Camera } from '../scene/components.js';
import type { SceneNode } from '../scene/scene-node.js';
import { narrow, type PictureRegion } from './narrow.js';

/**
 * What a camera node sees, as numbers. Clip space has depth 0..1, reversed: 1 at the near plane, 0
 * at the far plane or at infinity, which spends floating point's precision where it is needed.
 */
export interface CameraView {
  /** World to clip, column-major 4x4. */
  readonly viewProjection: Float32Array;
  /** World to camera, column-major 4x4. */
  readonly view: Float32Array;
  /** Camera to clip, column-major 4x4. */
  readonly projection: Float32Array;
  /** Position in the world. */
  readonly position: Float32Array;
  /** Unit vector the camera looks along. */
  readonly forward: Float32Array;
  /**
   * Six planes, each xyz + distance, pointing inwards: left, right, bottom, top, near, far. A point p
   * is inside where dot(xyz, p) + distance >= 0. The far plane of an infinite view is (0, 0, 0, 1).
   */
  readonly planes: Float32Array;
}

/** A part of a larger picture. Pixels. */
export interface PicturePart extends PictureRegion {
  wholeWidth: number;
  wholeHeight: number;
}

export function createCameraView(): CameraView {
  return {
    viewProjection: new Float32Array(16),
    view: new Float32Array(16),
    projection: new Float32Array(16),
    position: new Float32Array(3),
    forward: new Float32Array(3),
    planes: new Float32Array(24),
  };
}

/**
 * Fills a view from a node's camera.
 *
 * @param aspect width over height of the target; the picture is never stretched to fit it
 * @param part fills the target, where that holds a part of a larger picture alone; `aspect` is of the larger one then
 * @returns whether anything differs from what `out` held
 * @throws LensError `camera/missing` when the node carries none, `camera/range` for impossible numbers
 */
export function updateCameraView(
  out: CameraView,
  node: SceneNode,
  aspect: number,
  part?: PicturePart,
): boolean {
  const { camera } = node;
  if (!camera) {
    throw new LensError('camera/missing', `node "${node.name}" carries no camera`, {
      hint: "Give it one: createNode({ camera: { type: 'perspective', yfov: 0.8, znear: 0.1 } }).",
    });
  }
  node.scene.update();
  before.set(out.viewProjection);
  writeProjection(out.projection, camera, aspect, node);
  writeView(out, node);
  if (camera.nearPlane) cutAt(out, camera.nearPlane);
  if (part) narrow(out.projection, part, part.wholeWidth, part.wholeHeight);
  multiply(out.viewProjection, out.projection, out.view);
  let differs = false;
  for (let i = 0; i < 16; i++) if (before[i] !== out.viewProjection[i]) differs = true;
  if (differs) writePlanes(out.planes, out.viewProjection);
  return differs;
}

const before = new Float32Array(16);

/**
 * Puts a plane in the place of the near one, so that depth is 1 on it (Lengyel, "Oblique View Frustum Depth Projection and
 * Clipping", 2005, for reversed depth).
 */
function cutAt({ position, projection, view }: CameraView, plane: readonly number[]): void {
  const [a, b, c, d] = plane as [number, number, number, number];
  // The plane as the camera sees it: its axes are the rows of the view.
  const x = view[0]! * a + view[4]! * b + view[8]! * c; // sixteen numbers, here and below
  const y = view[1]! * a + view[5]! * b + view[9]! * c;
  const z = view[2]! * a + view[6]! * b + view[10]! * c;
  const w = a * position[0]! + b * position[1]! + c * position[2]! + d;
  const isParallel = projection[15] === 1;
  // The corner of the view that lies farthest on the plane's side has depth 0.
  const cornerX = (Math.sign(x) || 1) / projection[0]!;
  const cornerY = (Math.sign(y) || 1) / projection[5]!;
  const reach = isParallel
    ? x * cornerX + y * cornerY - z * (projection[14]! / projection[10]!) + w
    : x * cornerX + y * cornerY - z;
  // Nothing of the view lies there.
  if (!(reach > 0)) return;
  const scale = 1 / reach;
  // Depth over w is 1 on the plane: row of w less the plane.
  projection[2] = -x * scale;
  projection[6] = -y * scale;
  projection[10] = (isParallel ? 0 : -1) - z * scale;
  projection[14] = (isParallel ? 1 : 0) - w * scale;
}

/** Projection of a camera, column-major, reversed depth. */
export function writeProjection(
  out: Float32Array,
  camera: Camera,
  aspect: number,
  node?: { name: string },
): void {
  checkCamera(camera, node);
  out.fill(0);
  if (camera.type === 'perspective') {
    const { yfov, znear, zfar } = camera;
    const f = 1 / Math.tan(yfov / 2);
    out[0] = f / aspect;
    out[5] = f;
    out[11] = -1;
    if (zfar === undefined) {
      out[14] = znear;
    } else {
      out[10] = znear / (zfar - znear);
      out[14] = (zfar * znear) / (zfar - znear);
    }
    return;
  }
  const { znear, zfar } = camera;
  const wider = aspect > camera.xmag / camera.ymag;
  out[0] = 1 / (wider ? camera.ymag * aspect : camera.xmag);
  out[5] = 1 / (wider ? camera.ymag : camera.xmag / aspect);
  out[10] = 1 / (zfar - znear);
  out[14] = zfar / (zfar - znear);
  out[15] = 1;
}

/** @throws LensError `camera/range` */
function checkCamera(camera: Camera, node?: { name: string }): void {
  const { znear } = camera;
  const refuse = (what: string, hint: string): never => {
    const of = node && node.name !== '' ? `the camera of node "${node.name}"` : 'a camera';
    throw new LensError('camera/range', `${of} cannot see anything: ${what}`, { hint });
  };
  if (camera.type === 'perspective') {
    const { yfov } = camera;
    if (!(yfov > 0 && yfov < Math.PI))
      refuse(
        `yfov is ${yfov}`,
        `yfov is in radians, between 0 and pi${yfov >= Math.PI ? `: ${yfov} degrees are ${((yfov * Math.PI) / 180).toFixed(3)}` : ''}.`,
      );
    if (!(znear > 0)) refuse(`znear is ${znear}`, 'znear is in metres, above 0: 0.1 is usual.');
  } else if (!(camera.xmag > 0 && camera.ymag > 0))
    refuse(
      `xmag and ymag are ${camera.xmag} and ${camera.ymag}`,
      'Give half the width and height, in metres above 0.',
    );
  if (!((camera.zfar ?? Infinity) > znear))
    refuse(
      `zfar (${camera.zfar}) is not beyond znear (${znear})`,
      'Leave zfar out of a perspective: the far plane is at infinity then.',
    );
}

/** Inverse of the node's world transform, any scale on the way dropped. */
function writeView(out: CameraView, node: SceneNode): void {
  const w = node.scene.columns.world;
  const at = node.row * 12;
  const { view, position, forward } = out;
  const [px, py, pz] = [w[at + 3]!, w[at + 7]!, w[at + 11]!]; // a living row
  for (let k = 0; k < 3; k++) {
    let [x, y, z] = [w[at + k]!, w[at + 4 + k]!, w[at + 8 + k]!];
    const n = Math.hypot(x, y, z) || 1;
    [x, y, z] = [x / n, y / n, z / n];
    view[k] = x;
    view[4 + k] = y;
    view[8 + k] = z;
    view[12 + k] = -(x * px + y * py + z * pz);
    if (k === 2) {
      forward[0] = -x;
      forward[1] = -y;
      forward[2] = -z;
    }
  }
  view[15] = 1;
  position[0] = px;
  position[1] = py;
  position[2] = pz;
}

export function multiply(out: Float32Array, a: Float32Array, b: Float32Array): void {
  for (let column = 0; column < 4; column++) {
    for (let row = 0; row < 4; row++) {
      let sum = 0;
      for (let k = 0; k < 4; k++) sum += a[k * 4 + row]! * b[column * 4 + k]!;
      out[column * 4 + row] = sum;
    }
  }
}

/** Gribb and Hartmann, "Fast Extraction of Viewing Frustum Planes" (2001), for depth 0..w reversed. */
export function writePlanes(planes: Float32Array, m: Float32Array): void {
  for (let k = 0; k < 4; k++) {
    const [x, y, z, w] = [m[k * 4]!, m[k * 4 + 1]!, m[k * 4 + 2]!, m[k * 4 + 3]!];
    planes[k] = w + x;
    planes[4 + k] = w - x;
    planes[8 + k] = w + y;
    planes[12 + k] = w - y;
    planes[16 + k] = w - z;
    planes[20 + k] = z;
  }
  for (let p = 0; p < 24; p += 4) {
    const n = Math.hypot(planes[p]!, planes[p + 1]!, planes[p + 2]!);
    if (n < 1e-12) planes.set([0, 0, 0, 1], p);
    else for (let k = 0; k < 4; k++) planes[p + k]! /= n;
  }
}
