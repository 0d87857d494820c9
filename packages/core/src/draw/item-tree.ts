import { MANY_ITEMS, NONE } from '../columns/flags.js';
import { ClusterLook, LEAF_ITEMS } from './cluster-look.js';
import type { ItemFinder } from '../scene/guests.js';
import type { Scene } from '../scene/scene.js';

/** Items looked at between two looks at the clock. */
const ITEMS_A_STEP = 4096;
const LOOSE = -2;
/** Updates in which most things stand still before a tree is made again; twice as many each time that it was let go of, up to the second. */
const STILL_UPDATES = 8;
const MOST_STILL_UPDATES = 512;

/**
 * Boxes around items that stand near one another, around those boxes, and so on up: what an camera does not see is left out
 * cluster by cluster. Made in pieces while frames go on; items that move are followed by their leaf's box, and items that
 * came later are loose until it is made anew.
 *
 * Nodes lie in the order in which they are walked through; `next[node]` is the first behind all below it.
 */
export class ItemTree implements ItemFinder {
  /** Counts trees: what was noted of the nodes of another is out of date. */
  version = 0;
  isReady = false;
  nodes = 0;
  /** By node, 6 each: least and greatest x, y, z. */
  boxes = new Float32Array(0);
  next = new Int32Array(0);
  /** By node: first of its items in `order`, and the first behind. */
  first = new Int32Array(0);
  end = new Int32Array(0);
  /** Items, leaf by leaf, and a copy of their spheres, 4 each: as they are gone through. */
  order = new Uint32Array(0);
  spheres = new Float32Array(0);
  /** Items that are in no leaf. */
  readonly loose: number[] = [];
  /** By node: the one it is below, or NONE. */
  parent = new Int32Array(0);
  /** By item: its leaf, NONE, or LOOSE. */
  private leafOf = new Int32Array(0);
  private movedEnd = 0;
  private itemsEnd = 0;
  /** What is still to be split: from and to in `order`, and the parent. */
  private readonly open: [from: number, to: number, parent: number][] = [];
  private isBuilding = false;
  /** Updates in a row in which most things stood still, and how many it takes. */
  private still = 0;
  private wanted = 0;
  private lookedEnd = -1;
  /** Leaves whose items moved since they were last measured, each once. */
  private staleLeaves = new Int32Array(0);
  private staleCount = 0;
  private isStale = new Uint8Array(0);

  constructor(private readonly scene: Scene) {}

  /**
   * Follows what moved, came and went since the last call, and goes on with what is being made. To be called when the scene
   * is up to date.
   *
   * @param milliseconds that may be spent on making it
   * @param now a clock, milliseconds
   */
  update(milliseconds: number, now: () => number): void {
    const { columns, drawables } = this.scene;
    if (columns.itemCount < MANY_ITEMS) {
      this.isReady = this.isBuilding = false;
      return;
    }
    if (!this.isStill()) {
      this.letGo();
      return;
    }
    if (this.isReady) this.follow();
    const isOutgrown = this.loose.length * 8 > columns.itemCount;
    if ((!this.isReady || isOutgrown) && !this.isBuilding) this.begin();
    if (!this.isBuilding) return;
    const until = now() + milliseconds;
    do if (!this.step()) break;
    while (now() < until);
    if (this.open.length === 0) {
      this.finish();
      this.itemsEnd = drawables.log.end;
    }
  }

  /** Whether so little moves, and did for so long, that a tree pays: it is of no use to what moves in every frame. */
  private isStill(): boolean {
    const { columns, movedRows } = this.scene;
    // What came before the first look does not count.
    const moved =
      this.lookedEnd < 0
        ? 0
        : movedRows.holds(this.lookedEnd)
          ? movedRows.countSince(this.lookedEnd)
          : Infinity;
    this.lookedEnd = movedRows.end;
    if (moved * 4 > columns.count) {
      this.still = 0;
      return false;
    }
    return ++this.still > this.wanted;
  }

  private letGo(): void {
    if (!this.isReady && !this.isBuilding) return;
    this.isReady = this.isBuilding = false;
    this.wanted = Math.min(MOST_STILL_UPDATES, Math.max(STILL_UPDATES, this.wanted * 2));
    this.open.length = 0;
    this.loose.length = 0;
    this.order = new Uint32Array(0);
    this.spheres = this.boxes = new Float32Array(0);
  }

  /** Where an camera notes what it saw of the tree. */
  createLook(): ClusterLook {
    return new ClusterLook(this);
  }

  private begin(): void {
    const { columns, drawables, movedRows } = this.scene;
    const { itemCount } = columns;
    this.isBuilding = true;
    this.isReady = false;
    this.loose.length = 0;
    this.nodes = 0;
    this.movedEnd = movedRows.end;
    this.itemsEnd = drawables.log.end;
    if (this.leafOf.length < itemCount) this.leafOf = new Int32Array(columns.itemCapacity);
    this.leafOf.fill(NONE);
    const order = new Uint32Array(itemCount);
    let count = 0;
    for (let item = 0; item < itemCount; item++) {
      if (columns.itemRow[item] === NONE) continue;
      if (drawables.isRestless(item)) this.loosen(item);
      else order[count++] = item;
    }
    this.order = order;
    this.spheres = new Float32Array(count * 4);
    const most = Math.ceil((4 * count) / LEAF_ITEMS) + 8;
    this.boxes = new Float32Array(most * 6);
    this.next = new Int32Array(most);
    this.first = new Int32Array(most);
    this.end = new Int32Array(most);
    this.parent = new Int32Array(most);
    this.open.length = 0;
    if (count > 0) this.open.push([0, count, NONE]);
  }

  /** Splits until some thousands of items were looked at. @returns whether there is more to do */
  private step(): boolean {
    for (let looked = 0; looked < ITEMS_A_STEP;) {
      const open = this.open.pop();
      if (!open) return false;
      const [from, to, parent] = open;
      looked += to - from;
      const node = this.addNode(from, to, parent);
      if (to - from <= LEAF_ITEMS) {
        for (let i = from; i < to; i++) this.leafOf[this.order[i]!] = node; // i within the order
        continue;
      }
      const middle = this.split(from, to);
      // The first half is walked through first.
      this.open.push([middle, to, node], [from, middle, node]);
    }
    return this.open.length > 0;
  }

  private addNode(from: number, to: number, parent: number): number {
    const node = this.nodes++;
    if (node >= this.next.length) this.grow();
    this.first[node] = from;
    this.end[node] = to;
    this.parent[node] = parent;
    return node;
  }

  private grow(): void {
    const most = this.next.length * 2;
    const grown = <T extends Int32Array | Float32Array>(old: T, made: T): T => {
      made.set(old as never);
      return made;
    };
    this.boxes = grown(this.boxes, new Float32Array(most * 6));
    this.next = grown(this.next, new Int32Array(most));
    this.first = grown(this.first, new Int32Array(most));
    this.end = grown(this.end, new Int32Array(most));
    this.parent = grown(this.parent, new Int32Array(most));
  }

  /** Halves along the longest side of where the items stand. @returns where the second begins */
  private split(from: number, to: number): number {
    const { order } = this;
    const { worldSphere } = this.scene.columns;
    low.fill(Infinity);
    high.fill(-Infinity);
    for (let i = from; i < to; i++) {
      const s = order[i]! * 4; // i within the order, here and below
      for (let k = 0; k < 3; k++) {
        const value = worldSphere[s + k]!;
        if (value < low[k]!) low[k] = value; // three numbers, here and below
        if (value > high[k]!) high[k] = value;
      }
    }
    let axis = 0;
    for (let k = 1; k < 3; k++) if (high[k]! - low[k]! > high[axis]! - low[axis]!) axis = k;
    const middle = (low[axis]! + high[axis]!) / 2;
    let left = from;
    let right = to;
    while (left < right) {
      const item = order[left]!;
      if (worldSphere[item * 4 + axis]! < middle) left++;
      else {
        order[left] = order[--right]!;
        order[right] = item;
      }
    }
    // All at one place, or next to nothing on one side: any half will do.
    const least = (to - from) >> 4;
    return left - from <= least || to - left <= least ? (from + to) >> 1 : left;
  }

  /** Boxes from the leaves up, and what comes behind each node. */
  private finish(): void {
    this.isBuilding = false;
    this.isReady = true;
    this.version++;
    const { boxes, end, first, next, nodes, parent } = this;
    this.isStale = new Uint8Array(nodes);
    this.staleLeaves = new Int32Array(nodes);
    this.staleCount = 0;
    for (let node = nodes - 1; node >= 0; node--) {
      this.clear(node);
      next[node] = node + 1;
    }
    for (let node = nodes - 1; node >= 0; node--) {
      if (end[node]! - first[node]! <= LEAF_ITEMS) this.measure(node);
      const up = parent[node]!;
      if (up === NONE) continue;
      join(boxes, up, node);
      // The last child's end is its parent's: later children are met first here.
      if (next[up]! < next[node]!) next[up] = next[node]!;
    }
    // All leaves were measured just now: what moved meanwhile is in them.
    this.movedEnd = this.scene.movedRows.end;
    this.follow();
  }

  private clear(node: number): void {
    const b = node * 6;
    for (let k = 0; k < 3; k++) {
      this.boxes[b + k] = Infinity;
      this.boxes[b + 3 + k] = -Infinity;
    }
  }

  /** The box of a leaf; what is not shown does not count. */
  private measure(node: number): void {
    const { boxes, order, spheres } = this;
    const { worldSphere } = this.scene.columns;
    this.clear(node);
    const b = node * 6;
    for (let i = this.first[node]!; i < this.end[node]!; i++) {
      const s = order[i]! * 4; // i within the order
      for (let k = 0; k < 4; k++) spheres[i * 4 + k] = worldSphere[s + k]!;
      const radius = Math.abs(worldSphere[s + 3]!);
      if (!(radius < Infinity)) continue;
      for (let k = 0; k < 3; k++) {
        const value = worldSphere[s + k]!;
        // Rounded outwards: boxes are of 32 bits.
        if (value - radius < boxes[b + k]!) boxes[b + k] = value - radius - 1e-6 * Math.abs(value);
        if (value + radius > boxes[b + 3 + k]!) boxes[b + 3 + k] = value + radius + 1e-6 * Math.abs(value);
      }
    }
  }

  /** Takes in what moved, came and went. */
  private follow(): void {
    const { columns, drawables, movedRows } = this.scene;
    const { log } = drawables;
    if (!log.holds(this.itemsEnd) || !movedRows.holds(this.movedEnd)) {
      this.isReady = false;
      return;
    }
    for (let at = this.itemsEnd; at < log.end; at++) {
      const start = log.firstAt(at);
      for (let item = start; item < start + log.countAt(at); item++) this.takeItem(item);
    }
    this.itemsEnd = log.end;
    for (let at = this.movedEnd; at < movedRows.end; at++) {
      const start = movedRows.firstAt(at);
      const end = Math.min(start + movedRows.countAt(at), columns.count);
      for (let row = start; row < end; row++) {
        for (let item = columns.firstItem[row]!; item !== NONE; item = columns.itemNext[item]!) {
          const leaf = this.leafOf[item]!; // an item in use
          if (leaf >= 0) this.spoil(leaf);
        }
      }
    }
    this.movedEnd = movedRows.end;
  }

  /** An item that came under this number, or went. */
  private takeItem(item: number): void {
    if (item >= this.leafOf.length) {
      const grown = new Int32Array(this.scene.columns.itemCapacity).fill(NONE);
      grown.set(this.leafOf);
      this.leafOf = grown;
    }
    const leaf = this.leafOf[item]!; // made room for
    if (leaf >= 0) this.spoil(leaf);
    else if (leaf === NONE) this.loosen(item);
  }

  private loosen(item: number): void {
    this.leafOf[item] = LOOSE;
    this.loose.push(item);
  }

  private spoil(leaf: number): void {
    if (this.isStale[leaf] === 1) return;
    this.isStale[leaf] = 1;
    this.staleLeaves[this.staleCount++] = leaf;
  }

  /** Fits the boxes around what moved; to be called before they are looked at, and only then, since it costs more than noting it. */
  refit(): void {
    const { boxes, isStale, parent, staleLeaves } = this;
    for (let i = 0; i < this.staleCount; i++) {
      const leaf = staleLeaves[i]!; // i < count
      isStale[leaf] = 0;
      this.measure(leaf);
      // Boxes above only grow: they are tight again when the tree is made anew.
      for (let node = leaf, up = parent[leaf]!; up !== NONE; node = up, up = parent[up]!)
        join(boxes, up, node); // nodes of the tree
    }
    this.staleCount = 0;
  }
}

const low = new Float64Array(3);
const high = new Float64Array(3);

/** Has the box of a node hold that of another. */
function join(boxes: Float32Array, up: number, node: number): void {
  const [a, b] = [up * 6, node * 6];
  for (let k = 0; k < 3; k++) {
    if (boxes[b + k]! < boxes[a + k]!) boxes[a + k] = boxes[b + k]!; // six numbers a node
    if (boxes[b + 3 + k]! > boxes[a + 3 + k]!) boxes[a + 3 + k] = boxes[b + 3 + k]!;
  }
}
