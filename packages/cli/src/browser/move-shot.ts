import { LensError, Motion, poseOf, type SceneNode } from 'umber-lens';
import { nearHint } from '@umber-lens/core/engine';
import type { ShotRequest } from './shot.js';

/**
 * Brings a placed model to a time of a clip, and its morph targets to given weights.
 *
 * @returns what moves it on by seconds
 */
export function moveShot(
  top: SceneNode,
  { animation, film, weights = {} }: ShotRequest,
): (seconds: number) => void {
  const motion = animation && new Motion(top);
  if (animation) {
    motion!.play(animation.name, { iterations: film ? Infinity : 1, from: animation.at });
    motion!.update(0);
  }
  const nodes = [top, ...top.descendants()];
  for (const [name, weight] of Object.entries(weights)) {
    const poses = nodes.flatMap((node) => poseOf(node) ?? []);
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
  return (seconds) => motion?.update(seconds);
}
