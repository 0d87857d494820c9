import { affineInvert, affineToTrs, multiplyRotations, type SceneNode } from '@umber-lens/core/engine';
import type { Edit, NodeRef } from '../history/edit.js';
import type { GripName, HandleFrame, Tool } from './grips.js';
import { add, dot, minus, times, turned, type Vec } from './vectors.js';

export type Space = 'world' | 'parent' | 'own';
export type Pivot = 'middle' | 'each';
type Quaternion = [number, number, number, number];

/** A node as it stood when it was taken hold of. */
interface Held {
  node: SceneNode;
  translation: Vec;
  rotation: [number, number, number, number];
  scale: Vec;
  /** In the world. */
  place: Vec;
  /** Its parent's transform in the world, affine 3x4 by rows. */
  parent: Float64Array;
}

/** What handles do to several nodes at once, from where they were taken hold of. */
export class HeldNodes {
  private readonly held: Held[];

  constructor(
    nodes: readonly SceneNode[],
    readonly frame: HandleFrame,
    private readonly pivot: Pivot,
  ) {
    this.held = nodes.map((node) => {
      const place = node.readWorldPosition([0, 0, 0]);
      return {
        node,
        translation: node.readTranslation([0, 0, 0]),
        rotation: node.readRotation([0, 0, 0, 1]),
        scale: node.readScale([1, 1, 1]),
        place: [place[0], place[1], place[2]],
        parent: node.parent!.readWorld(new Float64Array(12)), // the root is never taken hold of
      };
    });
  }

  /** @param by metres in the world */
  move(by: Vec): void {
    for (const held of this.held) this.put(held, add(held.place, by));
  }

  /** About the middle, or each about itself. */
  rotate(axis: Vec, angle: number): void {
    const half = Math.sin(angle / 2);
    const turn = [axis[0] * half, axis[1] * half, axis[2] * half, Math.cos(angle / 2)] as const;
    for (const held of this.held) {
      const { node, place, rotation } = held;
      // In its parent's axes: the turn is the world's.
      const above = turnOf(held.parent);
      const local = product(product(conjugate(above), turn), above);
      node.setRotation(...product(local, rotation));
      const from = minus(place, this.frame.at);
      if (this.pivot === 'middle') this.put(held, add(this.frame.at, turned([...turn], from)));
    }
  }

  /**
   * @param factors along the axes of the frame; each node is scaled along those of its own that lie nearest
   */
  scale(factors: Vec): void {
    const { at, axes } = this.frame;
    for (const held of this.held) {
      const { node, place, rotation, scale } = held;
      const world = product(turnOf(held.parent), rotation);
      const own = [0, 1, 2].map((k) => {
        const axis = turned(world, [k === 0 ? 1 : 0, k === 1 ? 1 : 0, k === 2 ? 1 : 0]);
        let nearest = 0;
        for (let j = 1; j < 3; j++)
          if (Math.abs(dot(axis, axes[j]!)) > Math.abs(dot(axis, axes[nearest]!))) nearest = j; // three
        return scale[k]! * factors[nearest]!; // three
      });
      node.setScale(own[0], own[1], own[2]);
      if (this.pivot === 'each') continue;
      const from = minus(place, at);
      let to = at;
      for (let j = 0; j < 3; j++) to = add(to, times(axes[j]!, dot(from, axes[j]!) * factors[j]!)); // three
      this.put(held, to);
    }
  }

  private put({ node, parent: m, translation }: Held, place: Vec): void {
    // Below a parent that is flat nothing can be placed.
    const [x, y, z] = placeIn(m, place) ?? translation;
    node.setTranslation(x, y, z);
  }

  /** As it was. */
  letGo(): void {
    for (const { node, rotation, scale, translation } of this.held) {
      node.setTranslation(...(translation as [number, number, number]));
      node.setRotation(...rotation);
      node.setScale(...(scale as [number, number, number]));
    }
  }

  /** What has become other. */
  edits(refOf: (node: SceneNode) => NodeRef): Edit[] {
    return this.held.flatMap(({ node, rotation, scale, translation }) => {
      const of = refOf(node);
      const set = (name: string, before: readonly number[], after: number[]): Edit[] =>
        before.every((value, k) => Math.fround(value) === Math.fround(after[k]!)) // as many
          ? []
          : [{ type: 'set', thing: { kind: 'node', of }, path: [name], before: [...before], after }];
      return [
        ...set('translation', translation, node.readTranslation([0, 0, 0])),
        ...set('rotation', rotation, node.readRotation([0, 0, 0, 1])),
        ...set('scale', scale, node.readScale([1, 1, 1])),
      ];
    });
  }
}

/** Where handles stand: the middle of the nodes, or the last one, with axes of a space. */
export function frameOf(nodes: readonly SceneNode[], space: Space, pivot: Pivot): HandleFrame | undefined {
  const last = nodes.at(-1);
  if (!last) return undefined;
  const places = nodes.map((node) => node.readWorldPosition([0, 0, 0]) as Vec);
  const middle = times(
    places.reduce((sum, place) => add(sum, place)),
    1 / places.length,
  );
  const at = pivot === 'each' ? places.at(-1)! : middle; // there is one
  if (space === 'world')
    return {
      at,
      axes: [
        [1, 0, 0],
        [0, 1, 0],
        [0, 0, 1],
      ],
    };
  const from = space === 'own' ? last : (last.parent ?? last);
  const turn = turnOf(from.readWorld(new Float64Array(12)));
  return { at, axes: [turned(turn, [1, 0, 0]), turned(turn, [0, 1, 0]), turned(turn, [0, 0, 1])] };
}

/** What a part of the scale handles multiplies by. @param by 1 is as it was */
export function factorsOf(name: GripName, by: number): Vec {
  const has = (axis: string): number => (name === 'view' || name.includes(axis) ? by : 1);
  return [has('x'), has('y'), has('z')];
}

/** A drag in words: `move along x`. */
export function dragName(tool: Tool, grip: GripName, count: number): string {
  const way = grip === 'view' ? '' : tool === 'rotate' ? ` about ${grip}` : ` along ${grip}`;
  return `${tool} ${count === 1 ? '' : `${count} nodes`}${way}`.replaceAll('  ', ' ').trim();
}

const conjugate = ([x, y, z, w]: ArrayLike<number> & Iterable<number>): [number, number, number, number] => [
  -x!,
  -y!,
  -z!,
  w!,
]; // four by contract

/** The turn of an affine transform, whatever it scales; none where it is flat. */
export function turnOf(m: ArrayLike<number>): Quaternion {
  const turn: Quaternion = [0, 0, 0, 1];
  affineToTrs(m, 0, [0, 0, 0], 0, turn, 0, [0, 0, 0], 0);
  return turn;
}

function product(a: ArrayLike<number>, b: ArrayLike<number>): Quaternion {
  const out: Quaternion = [0, 0, 0, 1];
  multiplyRotations(out, 0, a, 0, b, 0);
  return out;
}

/** A place of the world in the axes of an affine transform; undefined where they are flat. */
function placeIn(m: Float64Array, [x, y, z]: Vec): Vec | undefined {
  const i = new Float64Array(12);
  if (!affineInvert(i, 0, m, 0)) return undefined;
  const row = (k: number): number => i[k]! * x + i[k + 1]! * y + i[k + 2]! * z + i[k + 3]!; // twelve
  return [row(0), row(4), row(8)];
}
