import { LensError } from '../errors/lens-error.js';
import { facing } from '../math/rotation.js';
import type { SceneNode } from '../scene/scene-node.js';

/** A plane in the world: its normal, of length 1, and its distance, so that a place p lies on it where dot(normal, p) + distance = 0. */
export type WorldPlane = readonly [x: number, y: number, z: number, distance: number];

/** The plane of a node's own surface: through where it stands, its normal along its +Z, or along another of its axes. */
export function planeOf(node: SceneNode, axis: 'x' | 'y' | 'z' = 'z'): WorldPlane {
  const world = node.readWorld(new Float32Array(12));
  const k = 'xyz'.indexOf(axis);
  // A row of three for each coordinate, and the place behind them.
  const normal = [world[k]!, world[4 + k]!, world[8 + k]!];
  const length = Math.hypot(...normal) || 1;
  const [x, y, z] = normal.map((part) => part / length) as [number, number, number];
  return [x, y, z, -(x * world[3]! + y * world[7]! + z * world[11]!)];
}

/**
 * Has a camera node see what another sees reflected at a plane, and nothing that lies behind it. Left and right of its picture
 * are exchanged: a surface in the plane shows the picture at (width - x, y) of the screen.
 *
 * @param into the camera node that is moved: it hangs from the scene itself
 * @param plane its normal towards what is reflected: see `planeOf`
 * @throws LensError `camera/missing` when `camera` carries none, `camera/parent`
 */
export function reflectCamera(into: SceneNode, camera: SceneNode, plane: WorldPlane): void {
  const { camera: own } = camera;
  if (!own)
    throw new LensError('camera/missing', `node "${camera.name}" carries no camera`, {
      hint: 'Give the camera that looks at the picture.',
    });
  if (into.parent !== into.scene.root)
    throw new LensError(
      'camera/parent',
      `node "${into.name}" hangs from another, and cannot be moved freely`,
      {
        hint: 'Create the camera of a reflection without a parent.',
      },
    );
  const world = camera.readWorld(new Float32Array(12));
  const [nx, ny, nz, distance] = plane;
  const along = (x: number, y: number, z: number): number => 2 * (nx * x + ny * y + nz * z);
  const turned = (x: number, y: number, z: number): [number, number, number] => {
    const by = along(x, y, z);
    return [x - nx * by, y - ny * by, z - nz * by];
  };
  const [x, y, z] = [world[3]!, world[7]!, world[11]!]; // twelve, here and below
  const by = along(x, y, z) + 2 * distance;
  into.setTranslation(x - nx * by, y - ny * by, z - nz * by);
  // It looks along -Z, up is +Y.
  into.setRotation(
    ...facing(turned(-world[2]!, -world[6]!, -world[10]!), turned(world[1]!, world[5]!, world[9]!)),
  );
  const { sees } = into.camera ?? own;
  into.setCamera({ ...own, nearPlane: plane, ...(sees === undefined ? {} : { sees }) });
}
