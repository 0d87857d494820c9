import { NONE, SHOWN } from '../columns/flags.js';
import type { Geometry } from '../geometry/geometry.js';
import type { Scene } from '../scene/scene.js';
import type { SceneNode } from '../scene/scene-node.js';
import { swarmPart } from '../swarm/swarm.js';
import { eachCopy } from './each-copy.js';
import { hasTree, isMadeOfTriangles, posedOf, treeOf } from './tree-store.js';
import type { TriangleTree } from './triangle-tree.js';

/** What counts for a query. */
export interface TargetOptions {
  /** Whether a node counts. Default all that are shown. */
  filter?: (node: SceneNode) => boolean;
  /** Whether meshes that no query has met and `preparePicking` has not reached are left out, instead of waited for. */
  readyOnly?: boolean;
}

/** A primitive of a node, as it is drawn now. */
export interface Target {
  node: SceneNode;
  primitive: number;
  /** Number of a swarm's copy; undefined for what is no swarm. */
  instance: number | undefined;
  geometry: Geometry;
  tree: TriangleTree;
  /** From the geometry's space to the world: affine 3x4 by rows, from `at` on. */
  world: ArrayLike<number>;
  at: number;
  isDoubleSided: boolean;
  isPosed: boolean;
}

/**
 * Calls back for each primitive that is shown, made of triangles and in reach.
 *
 * @param reaches whether the query may meet something in a sphere of the world
 * @param visit its argument is the same object each time
 */
export function eachTarget(
  scene: Scene,
  { filter, readyOnly = false }: TargetOptions,
  reaches: (x: number, y: number, z: number, radius: number) => boolean,
  visit: (target: Target) => void,
): void {
  scene.update();
  const target = {} as Target;
  for (const [node, mesh] of scene.meshes) {
    if ((scene.columns.flags[node.row]! & SHOWN) === 0 || !reachesRow(scene, node.row, reaches)) continue; // a living row
    if (filter && !filter(node)) continue;
    for (let i = 0; i < mesh.primitives.length; i++) {
      const { geometry: drawn, material } = mesh.primitives[i]!; // i < length
      const part = swarmPart(drawn);
      // Of a swarm's levels the first one counts.
      if (part && part.level > 0) continue;
      const rest = part?.geometry ?? drawn;
      if (!isMadeOfTriangles(rest) || (readyOnly && !hasTree(rest))) continue;
      const posed = part ? undefined : posedOf(scene, node, i, rest);
      target.node = node;
      target.primitive = i;
      target.instance = undefined;
      target.world = scene.columns.world;
      target.at = node.row * 12;
      target.geometry = posed?.geometry ?? rest;
      target.tree = posed?.tree ?? treeOf(rest);
      target.isDoubleSided = material?.doubleSided ?? false;
      target.isPosed = posed !== undefined;
      if (part) eachCopy(part, target, reaches, visit);
      else visit(target);
    }
  }
}

function reachesRow(
  { columns }: Scene,
  row: number,
  reaches: (x: number, y: number, z: number, radius: number) => boolean,
): boolean {
  const { worldSphere, itemNext } = columns;
  for (let item = columns.firstItem[row]!; item !== NONE; item = itemNext[item]!) {
    const s = item * 4;
    const radius = Math.abs(worldSphere[s + 3]!) * 1.00001; // an item in use, here and below
    if (radius === Infinity || reaches(worldSphere[s]!, worldSphere[s + 1]!, worldSphere[s + 2]!, radius))
      return true;
  }
  return false;
}
