import { normalizeRotation, slerp } from '../math/quaternions.js';
import type { SceneNode } from '../scene/scene-node.js';
import type { Place } from './own-copies.js';
import type { ValueKind } from './sample.js';

/** What is moved: a place for its values, and where they go. */
export interface Slot {
  node: SceneNode | undefined;
  path: 'translation' | 'rotation' | 'scale' | 'weights' | 'property';
  place: Place | undefined;
  kind: ValueKind;
  /** Where its values stand in the arrays, and how many there are. */
  at: number;
  width: number;
}

/** Brings a slot's result nearer to a value. */
export function blend(
  { at, width, kind }: Slot,
  result: Float64Array,
  value: Float64Array,
  weight: number,
): void {
  if (kind === 'rotation') {
    slerp(result, at, result, at, value, 0, weight);
    return;
  }
  for (let k = 0; k < width; k++) result[at + k]! += (value[k]! - result[at + k]!) * weight; // width
}

/** Brings a slot's result nearer to the mean of what a layer's animations gave. */
export function mix(
  slot: Slot,
  result: Float64Array,
  sum: Float64Array,
  factor: number,
  weight: number,
): void {
  const { at, width, kind } = slot;
  if (kind === 'rotation') {
    normalizeRotation(sum, at);
    slerp(result, at, result, at, sum, at, weight);
    return;
  }
  for (let k = 0; k < width; k++) result[at + k]! += (sum[at + k]! * factor - result[at + k]!) * weight; // width
}

export function readSlot({ node, path, place, at, width }: Slot, out: Float64Array): void {
  const into = out.subarray(at, at + width);
  if (place) place.read(into);
  else if (path === 'translation')
    node!.readTranslation(into); // a slot has a node or a place, here and below
  else if (path === 'rotation') node!.readRotation(into);
  else if (path === 'scale') node!.readScale(into);
  else into.set(node!.scene.guests.weightsOf(node!)!.weights); // slots for weights are made of a pose
}

export function writeSlot({ node, path, place, at, width }: Slot, from: Float64Array): void {
  if (place) place.write(from, at);
  if (place || !node?.isAlive) return;
  if (path === 'translation')
    node.setTranslation(from[at]!, from[at + 1]!, from[at + 2]!); // three or four, here and below
  else if (path === 'rotation') node.setRotation(from[at]!, from[at + 1]!, from[at + 2]!, from[at + 3]!);
  else if (path === 'scale') node.setScale(from[at]!, from[at + 1]!, from[at + 2]!);
  else {
    const pose = node.scene.guests.weightsOf(node);
    if (!pose) return;
    for (let k = 0; k < width && k < pose.weights.length; k++) pose.weights[k] = from[at + k]!; // width
    pose.changed();
  }
}

/** The values with more room behind them. */
export function grown(values: Float64Array<ArrayBuffer>, length: number): Float64Array<ArrayBuffer> {
  if (values.length >= length) return values;
  const more = new Float64Array(Math.max(length, values.length * 2));
  more.set(values);
  return more;
}

export function grownBytes(values: Uint8Array<ArrayBuffer>, length: number): Uint8Array<ArrayBuffer> {
  if (values.length >= length) return values;
  const more = new Uint8Array(Math.max(length, values.length * 2));
  more.set(values);
  return more;
}
