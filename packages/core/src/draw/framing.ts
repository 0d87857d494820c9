import { attributeFloats } from '../geometry/geometry.js';
import { type Bounds, isEmptyBounds } from '../math/bounds.js';
import { facing, type Rotation } from '../math/rotation.js';
import type { SceneNode } from '../scene/scene-node.js';

/** Where to stand so that something fills the picture. */
export interface Framing {
  translation: [number, number, number];
  rotation: Rotation;
  /** The point in the middle of the picture, half-way deep in what is framed. */
  target: [number, number, number];
  /** Distance of `target`, metres. */
  distance: number;
  /** Half the width and height that an orthographic camera needs there, metres. */
  xmag: number;
  ymag: number;
  /** A near plane that cuts nothing of it and wastes no precision. */
  znear: number;
}

export interface FramingOptions {
  /** Vertical field of view, radians. */
  yfov: number;
  /** Width over height of the picture. */
  aspect: number;
  /** Way of looking; default three-quarter, from above right. */
  direction?: readonly [number, number, number];
  /** Share of the picture kept free at each edge, 0..0.5; default 0.03. */
  margin?: number;
}

/** A camera place that holds a box whole. */
export function frameBounds(bounds: Bounds, options: FramingOptions): Framing {
  const box = isEmptyBounds(bounds) ? { min: [-0.5, -0.5, -0.5], max: [0.5, 0.5, 0.5] } : bounds;
  return frame(options, (visit) => {
    for (let corner = 0; corner < 8; corner++) {
      const at = (k: 0 | 1 | 2): number => (corner & (1 << k) ? box.max[k]! : box.min[k]!);
      visit(at(0), at(1), at(2));
    }
  });
}

/** Vertices beyond which a node is framed by the boxes of its geometries. */
const MOST_VERTICES = 2_000_000;

/**
 * A camera place that holds the meshes of a node's subtree whole, vertex by vertex: closer than their box, whose
 * corners are mostly empty.
 */
export function frameNode(node: SceneNode, options: FramingOptions): Framing {
  const bounds = node.worldBounds();
  let vertices = 0;
  eachPosition(node, (count) => (vertices += count));
  if (isEmptyBounds(bounds) || vertices > MOST_VERTICES) return frameBounds(bounds, options);
  return frame(options, (visit) =>
    eachPosition(node, (count, positions, m) => {
      const values = positions();
      for (let v = 0; v < count * 3; v += 3) {
        const [x, y, z] = [values[v]!, values[v + 1]!, values[v + 2]!]; // three a vertex
        visit(
          m[0]! * x + m[1]! * y + m[2]! * z + m[3]!,
          m[4]! * x + m[5]! * y + m[6]! * z + m[7]!,
          m[8]! * x + m[9]! * y + m[10]! * z + m[11]!,
        );
      }
    }),
  );
}

function eachPosition(
  top: SceneNode,
  use: (count: number, positions: () => Float32Array, world: Float32Array) => void,
): void {
  const world = new Float32Array(12);
  for (const node of [top, ...top.descendants()]) {
    for (const [i, { geometry }] of (node.mesh?.primitives ?? []).entries()) {
      const position = geometry.attributes['position'];
      if (!position || !node.isShown) continue;
      const positions = (): Float32Array =>
        attributeFloats(
          node.scene.guests.ask((guest) => guest.shapeOf?.(node, i))?.attributes['position'] ?? position,
        );
      use(position.count, positions, node.readWorld(world));
    }
  }
}

/**
 * Each point must lie inside the four side planes. In the camera's own axes a point (x, y, z), z towards the
 * viewer, is inside of left and right where |x - cx| <= tan * (d - z): so the greatest x + tan z and -x + tan z
 * give both the place across and the least distance, and likewise up and down.
 */
function frame(
  { yfov, aspect, direction = [-0.62, -0.42, -1], margin = 0.03 }: FramingOptions,
  eachPoint: (visit: (x: number, y: number, z: number) => void) => void,
): Framing {
  const rotation = facing(direction);
  const [qx, qy, qz, qw] = rotation;
  const right = [1 - 2 * (qy * qy + qz * qz), 2 * (qx * qy + qz * qw), 2 * (qx * qz - qy * qw)] as const;
  const up = [2 * (qx * qy - qz * qw), 1 - 2 * (qx * qx + qz * qz), 2 * (qy * qz + qx * qw)] as const;
  const back = [2 * (qx * qz + qy * qw), 2 * (qy * qz - qx * qw), 1 - 2 * (qx * qx + qy * qy)] as const;
  const tanY = Math.tan(yfov / 2) * (1 - 2 * margin);
  const tanX = tanY * aspect;
  const most = { right: -Infinity, left: -Infinity, top: -Infinity, bottom: -Infinity };
  const low = [Infinity, Infinity, Infinity];
  const high = [-Infinity, -Infinity, -Infinity];
  eachPoint((px, py, pz) => {
    const x = px * right[0] + py * right[1] + pz * right[2];
    const y = px * up[0] + py * up[1] + pz * up[2];
    const z = px * back[0] + py * back[1] + pz * back[2];
    if (x + tanX * z > most.right) most.right = x + tanX * z;
    if (tanX * z - x > most.left) most.left = tanX * z - x;
    if (y + tanY * z > most.top) most.top = y + tanY * z;
    if (tanY * z - y > most.bottom) most.bottom = tanY * z - y;
    if (x < low[0]!) low[0] = x;
    if (y < low[1]!) low[1] = y;
    if (z < low[2]!) low[2] = z;
    if (x > high[0]!) high[0] = x;
    if (y > high[1]!) high[1] = y;
    if (z > high[2]!) high[2] = z;
  });
  const size = high.map((h, k) => h - low[k]!);
  const radius = Math.hypot(...size) / 2 || 0.5;
  const x = (most.right - most.left) / 2;
  const y = (most.top - most.bottom) / 2;
  const deep = (low[2]! + high[2]!) / 2;
  // Never so near that a flat thing is stood upon.
  const z = Math.max(
    (most.right + most.left) / (2 * tanX),
    (most.top + most.bottom) / (2 * tanY),
    high[2]! + radius * 0.05,
  );
  const place = (depth: number): [number, number, number] =>
    [0, 1, 2].map((k) => right[k]! * x + up[k]! * y + back[k]! * depth) as [number, number, number];
  const ymag = Math.max(size[1]! / 2, size[0]! / 2 / aspect, radius * 1e-3) / (1 - 2 * margin);
  return {
    translation: place(z),
    rotation,
    target: place(deep),
    distance: z - deep,
    xmag: ymag * aspect,
    ymag,
    znear: Math.max((z - high[2]!) * 0.5, radius * 0.002, 1e-6),
  };
}
