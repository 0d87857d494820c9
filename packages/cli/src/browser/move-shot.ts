import { LensError, Motion, nearHint, type SceneNode } from 'umber-lens';
import type { ShotRequest } from './shot.js';

/** Brings a placed model to a time of a clip, and its morph targets to given weights. */
export function moveShot(top: SceneNode, { animation, weights = {} }: ShotRequest): void {
  if (animation) {
    const motion = new Motion(top);
    motion.play(animation.name, { loop: 'once', from: animation.at });
    motion.update(0);
  }
  const nodes = [top, ...top.descendants()];
  for (const [name, weight] of Object.entries(weights)) {
    const poses = nodes.flatMap((node) => node.scene.poses?.of(node) ?? []);
    const meant = poses.filter(({ targetNames }) => targetNames.includes(name));
    if (meant.length === 0) {
      throw new LensError('shoot/no-target', `the model has no morph target "${name}"`, {
        hint: nearHint(
          name,
          poses.flatMap(({ targetNames }) => [...targetNames]),
        ),
      });
    }
    for (const { node } of meant) node.setWeight(name, weight);
  }
}
