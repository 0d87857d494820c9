import type { Mesh } from '../../scene/components.js';
import { Swarm } from '../../swarm/swarm.js';
import type { AssetInstances, AssetNode } from './asset.js';

/** Swarms by node: transforms share them. */
const made = new WeakMap<AssetNode, Mesh[]>();

/** The copies of a node's mesh, as meshes that draw them: one for each primitive. */
export function copiesOf(node: AssetNode): Mesh[] {
  let meshes = made.get(node);
  if (!meshes) {
    const transforms = transformsOf(node.instances!); // the caller's contract, here and below
    meshes = node.mesh!.primitives.map(
      ({ geometry, material }) => new Swarm({ geometry, transforms, ...(material ? { material } : {}) }),
    );
    made.set(node, meshes);
  }
  return meshes;
}

function transformsOf({ count, translations, rotations, scales }: AssetInstances): {
  translations: Float32Array;
  rotations?: Float32Array;
  scales?: Float32Array;
} {
  return {
    translations: translations ?? new Float32Array(count * 3),
    ...(rotations ? { rotations } : {}),
    ...(scales ? { scales } : {}),
  };
}
