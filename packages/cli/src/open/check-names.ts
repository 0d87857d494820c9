import { LensError, type ModelAsset, nearHint } from '@umber-lens/core/engine';

/** Names of a model's cameras, in the order of their nodes: the node's, the camera's own, or a number. */
export const cameraNames = ({ nodes }: Pick<ModelAsset, 'nodes'>): string[] =>
  nodes
    .filter(({ camera }) => camera)
    .map(({ camera, name }, i) => name || camera!.name || `camera ${i + 1}`); // it has one

/**
 * Whether a model has what is asked of it by name: told before anything is started.
 *
 * @throws LensError `shoot/no-camera`, `shoot/no-animation`
 */
export function checkNames(
  asset: ModelAsset,
  { animation, camera }: { animation?: string; camera?: string },
): void {
  if (camera !== undefined) {
    const names = cameraNames(asset);
    const own = asset.cameras.flatMap(({ name }) => (name === undefined ? [] : [name]));
    if (!names.includes(camera) && !own.includes(camera))
      throw new LensError('shoot/no-camera', `the model has no camera "${camera}"`, {
        hint:
          names.length > 0
            ? nearHint(camera, names)
            : 'It has none; leave --camera out to frame the whole model.',
      });
  }
  if (animation === undefined) return;
  const names = asset.animations.map(({ name }, i) => name ?? `animation ${i + 1}`);
  if (names.includes(animation)) return;
  throw new LensError('shoot/no-animation', `the model has no animation "${animation}"`, {
    hint: nearHint(animation, names),
  });
}
