import { LensError } from '../errors/lens-error.js';
import type { SceneNode } from '../scene/scene-node.js';
import type { NodeSkin, Pose } from './pose.js';
import { Poses } from './poses.js';

/**
 * Has a node's mesh bent: by the joints of a skin where its geometry has `joints0` and `weights0` (and `joints1`,
 * `weights1` for eight influences a vertex), and by the weights of its morph targets where it has some. Models that are
 * placed do it by themselves. The node's own transform does not count for a mesh with a skin (glTF 2.0, 3.7.3.3); its
 * visibility does. Nodes that share a geometry stay one draw call.
 *
 * @param weights by target; left out: the mesh's own, else 0
 * @throws LensError `scene/skin` for too few inverse bind matrices, `scene/foreign-node` for joints of another scene
 */
export function poseNode(
  node: SceneNode,
  { skin, weights }: { skin?: NodeSkin; weights?: ArrayLike<number> } = {},
): void {
  const { scene } = node;
  for (const joint of skin?.joints ?? []) scene.own(joint);
  if (skin?.joints.length === 0)
    throw new LensError('scene/skin', `the skin of "${node.name}" has no joints`);
  scene.guests.ensure(Poses).set(node, skin, weights);
}

/** How a node's mesh is bent now; undefined where it is not. */
export const poseOf = (node: SceneNode): Pose | undefined => node.scene.guests.get(Poses)?.of(node);
