import type { SceneNode } from '../scene/scene-node.js';
import type { Animation, AnimationTarget } from './animation.js';

/** What a model brought into a scene at one place. */
export interface Placing {
  animations: readonly Animation[];
  /** All nodes of its file, those above first or not. */
  sources: readonly AnimationTarget[];
  /** The scene's node for each node of the file. */
  nodeOf: ReadonlyMap<object, SceneNode>;
}

const placings = new WeakMap<SceneNode, Placing>();

/** Keeps for later what was placed below a node. */
export function keepPlacing(node: SceneNode, placing: Placing): void {
  placings.set(node, placing);
}

/** What the model was that was placed as this node; undefined for other nodes. */
export function placingOf(node: SceneNode): Placing | undefined {
  return placings.get(node);
}
