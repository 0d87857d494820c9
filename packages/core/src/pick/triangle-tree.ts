import { attributeFloats, type Geometry } from '../geometry/geometry.js';
import { eachTriangle, triangleCount } from '../geometry/triangles.js';

/** Triangles in a leaf at the most, as long as they can be told apart. */
const LEAF = 4;
/** Places along an axis where a split is tried. */
const BINS = 12;

/**
 * The triangles of a geometry in a tree of boxes. Built from above by the surface area heuristic in bins (Wald, "On fast
 * Construction of SAH-based Bounding Volume Hierarchies", 2007).
 */
export interface TriangleTree {
  /** xyz by vertex. */
  readonly positions: Float32Array;
  /** Three vertices a triangle, in the geometry's order. */
  readonly corners: Uint32Array;
  /** Triangles in the order of the leaves. */
  readonly order: Uint32Array;
  /** By node least xyz and most xyz, stride 6. */
  readonly boxes: Float32Array;
  /** By node: the first of its triangles in `order`, or the first of its two children, which stand side by side. */
  readonly first: Uint32Array;
  /** By node: how many triangles; 0 for those with children. */
  readonly count: Uint32Array;
}

/** Builds the tree in one go. */
export function buildTriangleTree(geometry: Geometry): TriangleTree {
  const steps = triangleTreeSteps(geometry);
  for (;;) {
    const { done, value } = steps.next();
    if (done) return value;
  }
}

/** Builds the tree in pieces: each step goes through some ten thousand triangles at the most, besides the first. */
export function* triangleTreeSteps(geometry: Geometry): Generator<undefined, TriangleTree> {
  const { position } = geometry.attributes;
  const positions = position ? attributeFloats(position) : new Float32Array(0);
  const n = triangleCount(geometry);
  const corners = new Uint32Array(n * 3);
  let filled = 0;
  eachTriangle(geometry, (a, b, c) => {
    corners[filled++] = a;
    corners[filled++] = b;
    corners[filled++] = c;
  });
  const order = Uint32Array.from({ length: n }, (_, i) => i);
  const around = boxesOf(positions, corners);
  const most = Math.max(1, 2 * n);
  const tree = {
    positions,
    corners,
    order,
    boxes: new Float32Array(most * 6),
    first: new Uint32Array(most),
    count: new Uint32Array(most),
  };
  tree.count[0] = n;
  let nodes = 1;
  let work = n;
  const open = [0];
  for (let node = open.pop(); node !== undefined; node = open.pop()) {
    writeBox(tree, around, node);
    const [from, size] = [tree.first[node]!, tree.count[node]!]; // a node, here and below
    if (size > LEAF) {
      const half = split(tree, around, node);
      if (half > 0) {
        tree.first[nodes] = from;
        tree.count[nodes] = half;
        tree.first[nodes + 1] = from + half;
        tree.count[nodes + 1] = size - half;
        tree.first[node] = nodes;
        tree.count[node] = 0;
        open.push(nodes, nodes + 1);
        nodes += 2;
      }
    }
    work += size;
    if (work > 20_000) {
      work = 0;
      yield undefined;
    }
  }
  return {
    ...tree,
    boxes: tree.boxes.slice(0, nodes * 6),
    first: tree.first.slice(0, nodes),
    count: tree.count.slice(0, nodes),
  };
}

/** By triangle least xyz and most xyz, stride 6. */
function boxesOf(positions: Float32Array, corners: Uint32Array): Float32Array {
  const around = new Float32Array(corners.length * 2);
  for (let t = 0; t < corners.length; t += 3) {
    const a = corners[t]! * 3; // a triangle, and its vertices, here and below
    const b = corners[t + 1]! * 3;
    const c = corners[t + 2]! * 3;
    for (let k = 0; k < 3; k++) {
      const x = positions[a + k]!;
      const y = positions[b + k]!;
      const z = positions[c + k]!;
      around[t * 2 + k] = x < y ? (x < z ? x : z) : y < z ? y : z;
      around[t * 2 + 3 + k] = x > y ? (x > z ? x : z) : y > z ? y : z;
    }
  }
  return around;
}

function writeBox({ order, boxes, first, count }: TriangleTree, around: Float32Array, node: number): void {
  const at = node * 6;
  for (let k = 0; k < 3; k++) {
    boxes[at + k] = Infinity;
    boxes[at + 3 + k] = -Infinity;
  }
  const end = first[node]! + count[node]!; // a node
  for (let i = first[node]!; i < end; i++) grow(boxes, at, around, order[i]! * 6); // i < end
}

/** Grows a box by another. */
function grow(box: Float32Array, at: number, by: Float32Array, o: number): void {
  if (by[o]! < box[at]!) box[at] = by[o]!; // six each
  if (by[o + 1]! < box[at + 1]!) box[at + 1] = by[o + 1]!;
  if (by[o + 2]! < box[at + 2]!) box[at + 2] = by[o + 2]!;
  if (by[o + 3]! > box[at + 3]!) box[at + 3] = by[o + 3]!;
  if (by[o + 4]! > box[at + 4]!) box[at + 4] = by[o + 4]!;
  if (by[o + 5]! > box[at + 5]!) box[at + 5] = by[o + 5]!;
}

const binCount = new Uint32Array(BINS);
const binBoxes = new Float32Array(BINS * 6);
const rightCost = new Float32Array(BINS);
const middlesLow = new Float64Array(3);
const middlesHigh = new Float64Array(3);

/**
 * Orders a node's triangles so that its first half is one child; returns how many those are, 0 where no split pays. Splits
 * are tried along the axis on which the middles lie farthest apart (all sums are of twice the middles).
 */
function split(tree: TriangleTree, around: Float32Array, node: number): number {
  const { order, first, count } = tree;
  const from = first[node]!; // a node, here and below
  const size = count[node]!;
  middlesLow.fill(Infinity);
  middlesHigh.fill(-Infinity);
  for (let i = from; i < from + size; i++) {
    const o = order[i]! * 6; // i in range, here and below
    for (let k = 0; k < 3; k++) {
      const middle = around[o + k]! + around[o + 3 + k]!;
      if (middle < middlesLow[k]!) middlesLow[k] = middle;
      if (middle > middlesHigh[k]!) middlesHigh[k] = middle;
    }
  }
  let axis = 0;
  for (let k = 1; k < 3; k++)
    if (middlesHigh[k]! - middlesLow[k]! > middlesHigh[axis]! - middlesLow[axis]!) axis = k;
  const low = middlesLow[axis]!;
  const high = middlesHigh[axis]!;
  if (!(high > low)) return 0;
  const scale = (BINS * (1 - 1e-6)) / (high - low);
  binCount.fill(0);
  for (let b = 0; b < BINS * 6; b++) binBoxes[b] = b % 6 < 3 ? Infinity : -Infinity;
  for (let i = from; i < from + size; i++) {
    const o = order[i]! * 6;
    const bin = Math.min(BINS - 1, Math.floor((around[o + axis]! + around[o + 3 + axis]! - low) * scale));
    binCount[bin]!++;
    grow(binBoxes, bin * 6, around, o);
  }
  startBox();
  let seen = 0;
  for (let b = BINS - 1; b > 0; b--) {
    grow(sum, 0, binBoxes, b * 6);
    seen += binCount[b]!; // b < BINS, here and below
    rightCost[b] = seen * area();
  }
  startBox();
  seen = 0;
  let best = Infinity;
  let limit = 0;
  for (let b = 0; b + 1 < BINS; b++) {
    grow(sum, 0, binBoxes, b * 6);
    seen += binCount[b]!;
    const cost = seen * area() + rightCost[b + 1]!;
    if (seen === 0 || seen === size || cost >= best) continue;
    best = cost;
    limit = b + 1;
  }
  // Those of the bins before the limit go to the front.
  let end = from + size;
  let at = from;
  while (at < end) {
    const t = order[at]!;
    const bin = Math.floor((around[t * 6 + axis]! + around[t * 6 + 3 + axis]! - low) * scale);
    if (bin < limit) at++;
    else {
      order[at] = order[--end]!;
      order[end] = t;
    }
  }
  const half = at - from;
  return half === size ? 0 : half;
}

const sum = new Float32Array(6);

function startBox(): void {
  for (let k = 0; k < 3; k++) {
    sum[k] = Infinity;
    sum[3 + k] = -Infinity;
  }
}

/** Half the surface; 0 for a box that holds nothing. */
function area(): number {
  const [x, y, z] = [sum[3]! - sum[0]!, sum[4]! - sum[1]!, sum[5]! - sum[2]!]; // six
  return x >= 0 ? x * y + y * z + z * x : 0;
}

/**
 * The tree of a geometry whose vertices have moved: the same triangles in the same boxes, which are as large as those now
 * ask. Far moves make boxes that overlap, never wrong ones.
 *
 * @param positions xyz by vertex
 * @param out what an earlier refit of the same tree gave; its boxes are written again
 */
export function refitTriangleTree(
  tree: TriangleTree,
  positions: Float32Array,
  out: TriangleTree = { ...tree, boxes: new Float32Array(tree.boxes.length) },
): TriangleTree {
  const { corners, order, first, count } = tree;
  const { boxes } = out;
  // Children stand behind their parents.
  for (let node = count.length - 1; node >= 0; node--) {
    const at = node * 6;
    for (let k = 0; k < 3; k++) {
      boxes[at + k] = Infinity;
      boxes[at + 3 + k] = -Infinity;
    }
    const [from, size] = [first[node]!, count[node]!]; // a node, here and below
    if (size === 0) {
      if (order.length > 0)
        for (let child = from; child < from + 2; child++) grow(boxes, at, boxes, child * 6);
      continue;
    }
    for (let i = from * 3; i < (from + size) * 3; i++) {
      const vertex = corners[order[Math.floor(i / 3)]! * 3 + (i % 3)]! * 3;
      for (let k = 0; k < 3; k++) {
        const value = positions[vertex + k]!;
        if (value < boxes[at + k]!) boxes[at + k] = value;
        if (value > boxes[at + 3 + k]!) boxes[at + 3 + k] = value;
      }
    }
  }
  return { ...out, positions };
}
