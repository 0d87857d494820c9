import type { NodeWeights } from '../scene/guests.js';
import type { SceneNode } from '../scene/scene-node.js';

/** Joints that bend a mesh. */
export interface NodeSkin {
  name?: string;
  joints: readonly SceneNode[];
  /** Column-major 4x4, 16 numbers a joint; left out: identity. */
  inverseBindMatrices?: Float32Array;
}

/** How a node's mesh is bent: by joints, by weights of its morph targets, or by both. */
export interface Pose extends NodeWeights {
  readonly node: SceneNode;
  readonly skin: NodeSkin | undefined;
}
