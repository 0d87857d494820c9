import type { Geometry } from '../geometry/geometry.js';
import type { Bounds } from '../math/bounds.js';
import type { SpanLog } from '../columns/span-log.js';
import type { SceneNode } from './scene-node.js';

/** Joints that bend a mesh. */
export interface NodeSkin {
  name?: string;
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
  /** By target; call `changed` after writing to it. */
  readonly weights: Float32Array;
  /** Has the pose taken anew with the scene's next update. */
  changed(): void;
}

/** The bent meshes of a scene: it has them once a node was given a skin or targets. */
export interface ScenePoses {
  /** Whether weights changed since the last update. */
  isStale: boolean;
  /**
   * Slots of 12 floats. A pose has as many as its weights take (the first one last, in the slots before its own), and
   * from its own slot on the matrices of its joints, affine 3x4 by rows; without a skin, the node's world transform.
   */
  readonly values: Float32Array;
  /** Slots that changed. */
  readonly log: SpanLog;
  /** How each vertex is bent: see `bendGeometry`. */
  readonly records: Uint32Array;
  /** Words of `records` in use; those that are there do not change. */
  readonly recordCount: number;
  of(node: SceneNode): Pose | undefined;
  /** Sets the weight of a target by its name, or throws with the names that there are. */
  setWeight(node: SceneNode, name: string, weight: number): void;
  /** Weights of a node's targets by their names; undefined where it has none. */
  weightsOf(node: SceneNode): Record<string, number> | undefined;
  /** A primitive of a bent mesh in its present pose; undefined for others. */
  posed(node: SceneNode, primitive: number): Geometry | undefined;
  /** Brings palettes and bounds up to date; to be called after transforms are. */
  update(): void;
  /** Slot of a bent row's pose. */
  slotOf(row: number): number;
  /** Takes over that a node has another mesh. */
  meshChanged(node: SceneNode): void;
  /** Bends copies as their originals are bent, by copies of their joints where there are some. */
  cloned(copies: ReadonlyMap<SceneNode, SceneNode>): void;
  /** Grows a box in the world by a bent mesh in its present pose; false for others. */
  growBounds(node: SceneNode, bounds: Bounds): boolean;
}
