/** Bits of a row's flags. */
export const ALIVE = 1;
/** The node's own switch. */
export const VISIBLE = 2;
/** Visible, and so is every ancestor: as of the last update. */
export const SHOWN = 4;
/** The node's own transform or switch changed since the last update. */
export const DIRTY = 8;
/** The local transform is a matrix of its own (it shears), not translation, rotation and scale. */
export const SHEARED = 16;
/** The world transform mirrors: front faces wind clockwise. As of the last update. */
export const MIRRORED = 32;

export const NONE = -1;

/**
 * Typed-array columns of nodes: element `row` (times a stride) of each belongs to one node.
 *
 * The rows keep one promise: a parent's row is less than its children's. So one pass upwards in
 * memory visits every parent before its children, and a world transform is one product away.
 */
export class NodeColumns {
  /** Rows in use, holes of removed nodes included. */
  count = 0;
  capacity = 0;
  /** xyz, stride 3, metres. */
  translation!: Float32Array;
  /** Unit quaternion xyzw, stride 4. */
  rotation!: Float32Array;
  /** xyz, stride 3. */
  scale!: Float32Array;
  /** Affine 3x4 by rows, stride 12. Right after `Scene.update`. */
  world!: Float32Array;
  /**
   * Upper bound of how much a row's world transform stretches any direction. Norms of products are
   * at most products of norms, so a parent's bound times the row's own largest scale will do.
   */
  stretch!: Float32Array;
  flags!: Uint8Array;
  /** Lowest row that is dirty; Infinity when none is. */
  dirtyFrom = Infinity;
  /** Number of the update that last moved the row: the scene's `updateCount` then. */
  movedAt!: Uint32Array;
  /** Rows of relatives, or NONE. */
  parent!: Int32Array;
  firstChild!: Int32Array;
  lastChild!: Int32Array;
  previousSibling!: Int32Array;
  nextSibling!: Int32Array;

  constructor(capacity: number) {
    this.reserve(capacity);
  }

  /** Makes room for `rows`; existing values stay. */
  reserve(rows: number): void {
    if (rows <= this.capacity) return;
    const capacity = Math.max(16, rows, this.capacity * 2);
    const grown = <T extends Float32Array | Uint8Array | Uint32Array | Int32Array>(
      old: T | undefined,
      Kind: new (length: number) => T,
      stride: number,
    ): T => {
      const next = new Kind(capacity * stride);
      if (old) next.set(old as never);
      return next;
    };
    this.translation = grown(this.translation, Float32Array, 3);
    this.rotation = grown(this.rotation, Float32Array, 4);
    this.scale = grown(this.scale, Float32Array, 3);
    this.world = grown(this.world, Float32Array, 12);
    this.stretch = grown(this.stretch, Float32Array, 1);
    this.flags = grown(this.flags, Uint8Array, 1);
    this.movedAt = grown(this.movedAt, Uint32Array, 1);
    this.parent = grown(this.parent, Int32Array, 1);
    this.firstChild = grown(this.firstChild, Int32Array, 1);
    this.lastChild = grown(this.lastChild, Int32Array, 1);
    this.previousSibling = grown(this.previousSibling, Int32Array, 1);
    this.nextSibling = grown(this.nextSibling, Int32Array, 1);
    this.capacity = capacity;
  }

  /** A fresh row at the end: identity transform, visible, no relatives. */
  append(): number {
    const row = this.count;
    this.reserve(row + 1);
    this.count = row + 1;
    this.translation.fill(0, row * 3, row * 3 + 3);
    this.rotation.fill(0, row * 4, row * 4 + 3);
    this.rotation[row * 4 + 3] = 1;
    this.scale.fill(1, row * 3, row * 3 + 3);
    this.flags[row] = ALIVE | VISIBLE | DIRTY;
    this.movedAt[row] = 0;
    this.parent[row] = NONE;
    this.firstChild[row] = NONE;
    this.lastChild[row] = NONE;
    this.previousSibling[row] = NONE;
    this.nextSibling[row] = NONE;
    return row;
  }

  /** Copies a row's own values (not its relatives) to another row. */
  copyValues(to: number, from: number): void {
    this.translation.copyWithin(to * 3, from * 3, from * 3 + 3);
    this.rotation.copyWithin(to * 4, from * 4, from * 4 + 4);
    this.scale.copyWithin(to * 3, from * 3, from * 3 + 3);
    this.world.copyWithin(to * 12, from * 12, from * 12 + 12);
    this.stretch[to] = this.stretch[from]!;
    this.flags[to] = this.flags[from]!; // rows are in range: the caller's contract
    this.movedAt[to] = this.movedAt[from]!;
  }

  /** Hangs `row` under `parent` as its last child. Roots are linked the same way by the scene. */
  link(row: number, parent: number): void {
    const last = this.lastChild[parent]!;
    this.parent[row] = parent;
    this.previousSibling[row] = last;
    this.nextSibling[row] = NONE;
    if (last === NONE) this.firstChild[parent] = row;
    else this.nextSibling[last] = row;
    this.lastChild[parent] = row;
  }

  /** Takes `row` out of its parent's children. */
  unlink(row: number): void {
    const parent = this.parent[row]!;
    const previous = this.previousSibling[row]!;
    const next = this.nextSibling[row]!;
    if (previous !== NONE) this.nextSibling[previous] = next;
    else if (parent !== NONE) this.firstChild[parent] = next;
    if (next !== NONE) this.previousSibling[next] = previous;
    else if (parent !== NONE) this.lastChild[parent] = previous;
    this.parent[row] = NONE;
    this.previousSibling[row] = NONE;
    this.nextSibling[row] = NONE;
  }

  /** The row after `row` in depth-first order within the subtree of `top`, or NONE. */
  nextInSubtree(row: number, top: number): number {
    const child = this.firstChild[row]!;
    if (child !== NONE) return child;
    for (let at = row; at !== top && at !== NONE; at = this.parent[at]!) {
      const next = this.nextSibling[at]!;
      if (next !== NONE) return next;
    }
    return NONE;
  }
}
