import { IN_VIEW, KEY_HIDDEN, KEY_MIRRORED, NONE } from '../columns/flags.js';
import type { KernelView } from '../columns/kernels.js';
import type { ItemLook, TakeItems } from '../scene/guests.js';
import type { ItemTree } from './item-tree.js';

/** Items of a leaf at most. */
export const LEAF_ITEMS = 128;
/** Bits of six planes. */
const ALL = 63;

/** What one camera saw of a scene's clusters, so that what stays outside of its view is not looked at again. */
export class ClusterLook implements ItemLook {
  /** Clusters that the last look left out at once, of all that there are. */
  left = 0;
  /** By node: 1 when all below was outside at the last look. */
  private wasOutside = new Uint8Array(0);
  /** By node: bits of the planes that cut its box. */
  private masks = new Uint8Array(0);
  private version = -1;

  constructor(private readonly tree: ItemTree) {}

  /** Forgets what was seen: everything is looked at again. */
  forget(): void {
    this.version = -1;
  }

  /**
   * Tells the keys of all items of the tree that may be in view, or were.
   *
   * @param take hears of each; of one that is in view at both looks perhaps the same
   */
  look(view: KernelView, take: TakeItems): void {
    const { tree } = this;
    const { boxes, end, first, next, nodes, parent } = tree;
    if (this.version !== tree.version) {
      this.version = tree.version;
      if (this.wasOutside.length < nodes) {
        this.wasOutside = new Uint8Array(nodes);
        this.masks = new Uint8Array(nodes);
      }
      this.wasOutside.fill(0);
    }
    const { masks, wasOutside } = this;
    this.left = 0;
    for (let node = 0; node < nodes;) {
      const after = next[node]!; // a node of the tree, here and below
      const up = parent[node]!;
      const mask = cut(view.planes, boxes, node * 6, up === NONE ? ALL : masks[up]!);
      const isOutside = mask < 0;
      const wasLeft = wasOutside[node] === 1;
      wasOutside[node] = isOutside ? 1 : 0;
      if (isOutside) {
        this.left++;
        if (!wasLeft) {
          // Those that were in view leave it.
          look(tree, view, first[node]!, end[node]!, ALL, take);
          wasOutside.fill(1, node, after);
        }
        node = after;
        continue;
      }
      // Whatever was left out with this one has to be looked at.
      if (wasLeft) wasOutside.fill(0, node, after);
      masks[node] = mask;
      if (after === node + 1) look(tree, view, first[node]!, end[node]!, mask, take);
      node++;
    }
  }
}

function look(
  { order, spheres }: ItemTree,
  view: KernelView,
  from: number,
  to: number,
  mask: number,
  take: TakeItems,
): void {
  for (let start = from; start < to; start += keys.length) {
    const stop = Math.min(to, start + keys.length);
    keysOfSpheres(view, spheres, start, stop, mask, keys);
    take(order, start, stop, keys);
  }
}

const keys = new Uint32Array(LEAF_ITEMS);

/**
 * Where a box lies.
 *
 * @param mask bits of the planes that need be held against it
 * @returns bits of those of them that it is not wholly before; -1 when it lies wholly behind one
 */
function cut(planes: Float32Array, boxes: Float32Array, at: number, mask: number): number {
  let left = 0;
  for (let i = 0; i < 6; i++) {
    if (((mask >> i) & 1) === 0) continue;
    const p = i * 4;
    const x = planes[p]!; // four numbers a plane, six a box
    const y = planes[p + 1]!;
    const z = planes[p + 2]!;
    const d = planes[p + 3]!;
    const farX = boxes[at + (x > 0 ? 3 : 0)]!;
    const farY = boxes[at + 1 + (y > 0 ? 3 : 0)]!;
    const farZ = boxes[at + 2 + (z > 0 ? 3 : 0)]!;
    if (x * farX + y * farY + z * farZ + d < 0) return -1;
    const nearX = boxes[at + (x > 0 ? 0 : 3)]!;
    const nearY = boxes[at + 1 + (y > 0 ? 0 : 3)]!;
    const nearZ = boxes[at + 2 + (z > 0 ? 0 : 3)]!;
    if (x * nearX + y * nearY + z * nearZ + d < 0) left |= 1 << i;
  }
  return left;
}

/**
 * The view keys of spheres that lie side by side, those outside of the view left out.
 *
 * @param spheres 4 each: centre and radius, as in `worldSphere`
 * @param mask bits of the planes that need be held against them
 * @param keys written from its start on
 */
function keysOfSpheres(
  { planes, forward, position }: KernelView,
  spheres: Float32Array,
  from: number,
  to: number,
  mask: number,
  keys: Uint32Array,
): void {
  const fx = forward[0]!;
  const fy = forward[1]!;
  const fz = forward[2]!;
  const camera = fx * position[0]! + fy * position[1]! + fz * position[2]!;
  for (let i = from; i < to; i++) {
    const s = i * 4;
    const x = spheres[s]!; // i < to, here and below
    const y = spheres[s + 1]!;
    const z = spheres[s + 2]!;
    const radius = spheres[s + 3]!;
    let key = 0;
    if (radius === Infinity) key = KEY_HIDDEN;
    else if (mask === 0 || !isBehind(planes, mask, x, y, z, radius < 0 ? radius : -radius)) {
      const distance = x * fx + y * fy + z * fz - camera;
      float[0] = distance > 0 ? distance : 0;
      key = (bits[0]! >>> 2) | IN_VIEW | (radius < 0 ? KEY_MIRRORED : 0);
    }
    keys[i - from] = key;
  }
}

/** Whether a sphere lies wholly behind one of some planes; `reach` is minus its radius. */
function isBehind(p: Float32Array, mask: number, x: number, y: number, z: number, reach: number): boolean {
  for (let i = 0, at = 0; i < 6; i++, at += 4) {
    if (((mask >> i) & 1) === 0) continue;
    if (p[at]! * x + p[at + 1]! * y + p[at + 2]! * z + p[at + 3]! < reach) return true; // four numbers a plane
  }
  return false;
}

const float = new Float32Array(1);
const bits = new Uint32Array(float.buffer);
