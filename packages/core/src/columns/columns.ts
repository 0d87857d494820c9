import { ALIVE, DIRTY, NONE, VISIBLE } from './flags.js';
import type { Kernels } from './kernels.js';
import { type ColumnArray, COLUMNS } from './layout.js';
import { plainKernels } from './plain-kernels.js';
import { type WasmHeap } from './wasm-kernels.js';

/** Rows or items from which on it pays to fetch the kernels in WebAssembly. */
const LARGE = 2048;

/** Makes memories with kernels, once they are there; undefined until somebody asks for them. */
let makeHeap: (() => WasmHeap) | undefined;
let fetched: Promise<void> | undefined;

/**
 * Fetches and compiles the kernels in WebAssembly, as scenes of many nodes do by themselves. Where the host
 * refuses, they stay with the plain ones.
 */
export function fetchKernels(): Promise<void> {
  return (fetched ??= import('./wasm-kernels.js')
    .then(({ compileKernels }) => compileKernels(COLUMNS))
    .then(
      (make) => {
        makeHeap = make;
      },
      () => undefined,
    ));
}

/**
 * Typed-array columns of nodes and of items: element `row` (times a stride) of each belongs to one node. An item
 * is one primitive of a node's mesh.
 *
 * The rows keep one promise: a parent's row is less than its children's. So one pass upwards in memory visits
 * every parent before its children, and a world transform is one product away.
 *
 * The arrays are exchanged when there is need of more room (`reserve`): take them from here each time.
 */
export class NodeColumns {
  /** Changes when a row is hung from another, or from none any more. */
  linkVersion = 0;
  /** Rows in use, holes of removed nodes included. */
  count = 0;
  capacity = 0;
  /** Items in use, holes included. */
  itemCount = 0;
  itemCapacity = 0;
  /** xyz, stride 3, metres. */
  translation = new Float32Array(0);
  /** Unit quaternion xyzw, stride 4. */
  rotation = new Float32Array(0);
  /** xyz, stride 3. */
  scale = new Float32Array(0);
  /** Local transforms of rows with the flag `MATRIX`, affine 3x4 by rows, stride 12. Empty until there is one. */
  local = new Float32Array(0);
  /** Affine 3x4 by rows, stride 12. Right after `Scene.update`. */
  world = new Float32Array(0);
  /**
   * Upper bound of how much a row's world transform stretches any direction. Norms of products are
   * at most products of norms, so a parent's bound times the row's own largest scale will do.
   */
  stretch = new Float32Array(0);
  flags = new Uint8Array(0);
  /** Bits of what shaders are told of a node with its slot: see `NO_SHADOW_CAST`. */
  traits = new Uint8Array(0);
  /** Number of the update that last moved the row: the scene's `updateCount` then. */
  movedAt = new Uint32Array(0);
  /** Counts how often a node came to stand in another row, or a row was used again. */
  rowsVersion = 0;
  /** Rows of relatives, or NONE. */
  parent = new Int32Array(0);
  firstChild = new Int32Array(0);
  lastChild = new Int32Array(0);
  previousSibling = new Int32Array(0);
  nextSibling = new Int32Array(0);
  /** First of the row's items, or NONE; `itemNext` has the others. */
  firstItem = new Int32Array(0);
  /** Rows that were marked dirty since the last update, each once; the first `dirtyCount` count. */
  dirtyRows = new Uint32Array(0);
  dirtyCount = 0;
  /** Rows that may be dirty without standing in `dirtyRows`: marked in bulk. */
  bulkFrom = Infinity;
  bulkTo = 0;
  /** Row of an item's node, or NONE for a hole. */
  itemRow = new Int32Array(0);
  itemNext = new Int32Array(0);
  /** Which batch an item belongs to. */
  itemBatch = new Uint32Array(0);
  /** By item: centre xyz and radius, stride 4, in the geometry's own space. */
  localSphere = new Float32Array(0);
  /** The same in the world. The radius is Infinity for what is not shown, below 0 for what is mirrored. */
  worldSphere = new Float32Array(0);
  /** By item: what `Kernels.viewKeys` found last. */
  viewKeys = new Uint32Array(0);
  /** Whose view the keys are of: to it they say what it saw last. */
  keysOwner: object | undefined;
  /** What the last `Kernels.viewKeys` listed. */
  changedItems = new Uint32Array(0);
  affectedRows = new Uint32Array(0);
  /** Extent of the rows that the last `updateRange` moved. */
  movedFrom = 0;
  movedTo = 0;
  /** A row whose matrix the last update found not to be finite, or NONE. */
  badRow = NONE;
  kernels: Kernels = plainKernels;
  private matrixCapacity = 0;
  private heap: WasmHeap | undefined;

  constructor(capacity: number) {
    this.reserve(capacity);
  }

  /** Makes room for `rows`; existing values stay. */
  reserve(rows: number): void {
    if (rows <= this.capacity) return;
    const capacity = roundUp(Math.max(rows, this.capacity * 2));
    this.layOut(capacity, this.itemCapacity, this.matrixCapacity && capacity);
  }

  reserveItems(items: number): void {
    if (items <= this.itemCapacity) return;
    this.layOut(this.capacity, roundUp(Math.max(items, this.itemCapacity * 2)), this.matrixCapacity);
  }

  /** Makes room for the column `local`. */
  reserveMatrices(): void {
    if (this.matrixCapacity === 0) this.layOut(this.capacity, this.itemCapacity, this.capacity);
  }

  /** Moves the columns to where the faster kernels work, once these are there. The arrays are exchanged. */
  settle(): void {
    if (makeHeap && !this.heap && Math.max(this.capacity, this.itemCapacity) > LARGE)
      this.layOut(this.capacity, this.itemCapacity, this.matrixCapacity);
  }

  private layOut(rows: number, items: number, matrices: number): void {
    this.capacity = rows;
    this.itemCapacity = items;
    this.matrixCapacity = matrices;
    const lengths = COLUMNS.map(
      ([, , stride, of]) => stride * (of === 'row' ? rows : of === 'item' ? items : matrices),
    );
    if (Math.max(rows, items) > LARGE) {
      if (!makeHeap) void fetchKernels();
      else if (!this.heap) {
        this.heap = makeHeap();
        this.kernels = this.heap.kernels;
      }
    }
    const arrays = this as unknown as Record<string, ColumnArray>; // by the names above
    const old = COLUMNS.map(([name]) => arrays[name]!);
    const grown = this.heap
      ? this.heap.layOut(old, lengths)
      : COLUMNS.map(([, Kind], i) => {
          const next = new Kind(lengths[i]!); // parallel to the columns
          next.set(old[i] as never);
          return next;
        });
    COLUMNS.forEach(([name], i) => (arrays[name] = grown[i]!)); // as many as columns
  }

  /** A fresh row: identity transform, visible, no relatives, dirty. @param hole a row to use again; left out: at the end */
  append(hole?: number): number {
    const row = hole ?? this.count;
    if (hole === undefined) {
      this.reserve(row + 1);
      this.count = row + 1;
    } else this.rowsVersion++;
    this.translation.fill(0, row * 3, row * 3 + 3);
    this.rotation.fill(0, row * 4, row * 4 + 3);
    this.rotation[row * 4 + 3] = 1;
    this.scale.fill(1, row * 3, row * 3 + 3);
    this.flags[row] = ALIVE | VISIBLE;
    this.traits[row] = 0;
    this.movedAt[row] = 0;
    this.parent[row] = NONE;
    this.firstChild[row] = NONE;
    this.lastChild[row] = NONE;
    this.previousSibling[row] = NONE;
    this.nextSibling[row] = NONE;
    this.firstItem[row] = NONE;
    this.markDirty(row);
    return row;
  }

  markDirty(row: number): void {
    const flag = this.flags[row]!; // rows of living handles are in range
    if ((flag & DIRTY) !== 0) return;
    this.flags[row] = flag | DIRTY;
    // A row may be listed twice after a hole was used again: what does not fit is found by its flag.
    if (this.dirtyCount < this.capacity) this.dirtyRows[this.dirtyCount++] = row;
    else this.markBulk(row, row + 1);
  }

  /** Rows from `from` to `to` may be dirty; their flags say which. */
  markBulk(from: number, to: number): void {
    if (from < this.bulkFrom) this.bulkFrom = from;
    if (to > this.bulkTo) this.bulkTo = to;
  }

  /** Copies a row's own values (not its relatives) to another row. */
  copyValues(to: number, from: number): void {
    this.rowsVersion++;
    this.translation.copyWithin(to * 3, from * 3, from * 3 + 3);
    this.rotation.copyWithin(to * 4, from * 4, from * 4 + 4);
    this.scale.copyWithin(to * 3, from * 3, from * 3 + 3);
    if (this.local.length > 0) this.local.copyWithin(to * 12, from * 12, from * 12 + 12);
    this.world.copyWithin(to * 12, from * 12, from * 12 + 12);
    this.stretch[to] = this.stretch[from]!;
    this.flags[to] = this.flags[from]! & ~DIRTY; // rows are in range: the caller's contract
    this.movedAt[to] = this.movedAt[from]!;
    this.traits[to] = this.traits[from]!;
    this.firstItem[to] = this.firstItem[from]!;
    for (let item = this.firstItem[to]; item !== NONE; item = this.itemNext[item]!) this.itemRow[item] = to;
    this.markDirty(to);
  }

  /** Hangs `row` under `parent` as its last child. Roots are linked the same way by the scene. */
  link(row: number, parent: number): void {
    this.linkVersion++;
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
    this.linkVersion++;
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

/** Kernels take four at a time. */
const roundUp = (n: number): number => (Math.max(16, n) + 3) & ~3;
