import { attributeFloats, type Geometry } from '../geometry/geometry.js';
import { pause } from '../pauses/pause.js';
import type { Scene } from '../scene/scene.js';
import type { SceneNode } from '../scene/scene-node.js';
import { swarmPart } from '../swarm/swarm.js';
import {
  buildTriangleTree,
  refitTriangleTree,
  type TriangleTree,
  triangleTreeSteps,
} from './triangle-tree.js';

/** Trees, with the version of the geometry that they were built of. */
const trees = new WeakMap<Geometry, { tree: TriangleTree; version: number | undefined }>();
const growing = new WeakMap<Geometry, Promise<TriangleTree>>();

/** The tree of a geometry; built at once where there is none yet. */
export function treeOf(geometry: Geometry): TriangleTree {
  return knownTree(geometry) ?? kept(geometry, buildTriangleTree(geometry));
}

export const hasTree = (geometry: Geometry): boolean => knownTree(geometry) !== undefined;

function knownTree(geometry: Geometry): TriangleTree | undefined {
  const known = trees.get(geometry);
  return known && known.version === geometry.version ? known.tree : undefined;
}

function kept(geometry: Geometry, tree: TriangleTree): TriangleTree {
  trees.set(geometry, { tree, version: geometry.version });
  return tree;
}

/** Whether a primitive of this mode has triangles that can be met. */
export const isMadeOfTriangles = ({ mode }: Geometry): boolean => !mode || mode.startsWith('triangle');

/**
 * Builds what rays, spheres and regions are looked up in, for all meshes of a scene, in pieces between which the page has
 * its turn. Without, the first query does it in one go: a million triangles take some seconds. To be called again when
 * meshes came.
 */
export async function preparePicking(scene: Scene): Promise<void> {
  for (const mesh of new Set([...scene.meshes.values()]))
    for (const { geometry: drawn } of mesh.primitives) {
      const geometry = swarmPart(drawn)?.geometry ?? drawn;
      if (isMadeOfTriangles(geometry) && !hasTree(geometry)) await grown(geometry);
    }
}

function grown(geometry: Geometry): Promise<TriangleTree> {
  let promise = growing.get(geometry);
  if (!promise) {
    promise = (async () => {
      const steps = triangleTreeSteps(geometry);
      for (;;) {
        const { done, value } = steps.next();
        // Somebody may have asked for it at once meanwhile.
        if (done) return knownTree(geometry) ?? kept(geometry, value);
        await pause();
      }
    })();
    growing.set(geometry, promise);
    // Whoever waits hears of a failure; here it only ends.
    const end = (): unknown => growing.delete(geometry);
    promise.then(end, end);
  }
  return promise;
}

interface PosedTree {
  movedAt: number;
  rest: Geometry;
  geometry: Geometry;
  tree: TriangleTree;
}

/** Trees of bent geometry, in the pose that it was last asked for in. */
const posedTrees = new WeakMap<SceneNode, PosedTree[]>();

/** The geometry of a bent node as it is now, with its tree; undefined for nodes that are not bent. */
export function posedOf(
  { guests, columns }: Scene,
  node: SceneNode,
  primitive: number,
  rest: Geometry,
): { geometry: Geometry; tree: TriangleTree } | undefined {
  if (!guests.shapes(node)) return undefined;
  const movedAt = columns.movedAt[node.row]!; // a living row
  let known = posedTrees.get(node);
  if (!known) posedTrees.set(node, (known = []));
  const before = known[primitive];
  if (before?.movedAt === movedAt && before.rest === rest) return before;
  const geometry = guests.ask((guest) => guest.shapeOf?.(node, primitive))!; // a guest gives it its shape
  const positions = attributeFloats(geometry.attributes['position']!); // every geometry has one
  const tree = refitTriangleTree(treeOf(rest), positions, before?.rest === rest ? before.tree : undefined);
  const posed: PosedTree = { movedAt, rest, geometry, tree };
  known[primitive] = posed;
  return posed;
}
