import type { Scene } from '@umber-lens/core/engine';
import type { Editing } from './history/apply-edit.js';
import type { Change, Thing } from './history/edit.js';

/** How far the image light is turned about the Y axis, radians. */
export const lightTurn = ({ imageLight }: Scene): number => imageLight?.rotation ?? 0;

/** Turns the image light, and the backdrop with it where both are of one panorama. @param angle radians; kept within a turn */
export function turnLight(editing: Editing, angle: number): Change {
  const { scene } = editing.edited;
  const { backdrop, imageLight } = scene;
  const within = angle - 2 * Math.PI * Math.round(angle / (2 * Math.PI));
  // A hundredth of a degree is finer than a hand.
  const after = (Math.round((within * 18000) / Math.PI) * Math.PI) / 18000;
  const thing: Thing = { kind: 'scene' };
  const change: Change = { name: 'turn the image light', edits: [] };
  for (const [name, held] of [
    ['imageLight', imageLight],
    ['backdrop', backdrop],
  ] as const)
    if (held && held.panorama === imageLight?.panorama)
      change.edits.push({ type: 'set', thing, path: [name, 'rotation'], before: held.rotation, after });
  return change;
}
