import type { SceneNode } from './scene-node.js';

/** Joints that bend a mesh. */
export interface NodeSkin {
  joints: readonly SceneNode[];
  /** Column-major 4x4, 16 numbers a joint; left out: identity. */
  inverseBindMatrices?: Float32Array;
}

/** How a node's mesh is bent: by joints, by weights of its morph targets, or by both. */
export interface Pose {
  readonly node: SceneNode;
  readonly skin: NodeSkin | undefined;
  /** Names of the targets, in the order of `weights`. */
  readonly targetNames: readonly string[];
  /** By target. Say so with `isChanged` after writing to it. */
  readonly weights: Float32Array;
  isChanged: boolean;
}

/** The bent meshes of a scene. A scene has them once a node has a skin or targets. */
export interface ScenePoses {
  of(node: SceneNode): Pose | undefined;
  /** Brings palettes and bounds up to date; to be called after transforms are. */
  update(): void;
}
