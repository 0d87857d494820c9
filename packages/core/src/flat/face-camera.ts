import type { SceneNode } from '../scene/scene-node.js';

export interface FaceOptions {
  /** Turns about the node's own upright axis alone, as trees do. Default false: it faces the camera wholly. */
  upright?: boolean;
  /** Where given, one unit of the node is one pixel of a picture of this height, however far it is. Pixels. */
  pictureHeight?: number;
}

/**
 * Turns a node so that what faces +Z, as a card in metres does, faces a camera. To be called in each frame, for nodes that hang from the
 * scene itself or from what is not turned.
 */
export function faceCamera(
  node: SceneNode,
  camera: SceneNode,
  { upright = false, pictureHeight }: FaceOptions = {},
): void {
  const eye = camera.readWorld(world);
  const [ex, ey, ez] = [eye[3]!, eye[7]!, eye[11]!]; // twelve, here and below
  // The camera looks along -Z: back is its third column.
  const back = [eye[2]!, eye[6]!, eye[10]!] as const;
  const length = Math.hypot(...back) || 1;
  const place = node.readWorldPosition(position);
  const away = ((ex - place[0]) * back[0] + (ey - place[1]) * back[1] + (ez - place[2]) * back[2]) / length;
  if (upright) {
    const turn = Math.atan2(ex - place[0], ez - place[2]) / 2;
    node.setRotation(0, Math.sin(turn), 0, Math.cos(turn));
  } else {
    camera.readRotation(rotation);
    node.setRotation(...rotation);
  }
  if (pictureHeight === undefined) return;
  const lens = camera.camera;
  const high =
    lens?.type === 'orthographic'
      ? 2 * lens.ymag
      : 2 * Math.tan((lens?.yfov ?? 1) / 2) * Math.max(1e-6, away);
  node.setScale(high / pictureHeight);
}

const world = new Float32Array(12);
const position: [number, number, number] = [0, 0, 0];
const rotation: [number, number, number, number] = [0, 0, 0, 1];
