import { type Geometry } from '../../geometry/geometry.js';
import { affineFromMatrix, affineFromTrs, affineMultiply } from '../../math/affine.js';
import type { Material } from '../../material/material.js';
import type { AssetNode, ModelAsset } from './asset.js';
import { shownRoots } from './roots.js';

/** Something that an asset draws, and where. */
export interface FlatPart {
  /** Of its node, or of the nearest above that has one. */
  name: string | undefined;
  geometry: Geometry;
  material: Material | undefined;
  /** Affine 3x4, to the scene. */
  matrix: Float64Array;
}

/** All that the scene to show draws, node by node, for formats that know no tree. What is hidden is left out. */
export function flatParts(asset: Pick<ModelAsset, 'nodes' | 'scenes' | 'defaultScene'>): FlatPart[] {
  const parts: FlatPart[] = [];
  const open = [...shownRoots(asset)]
    .reverse()
    .map((node) => ({ node, above: IDENTITY, name: undefined as string | undefined }));
  for (let next = open.pop(); next; next = open.pop()) {
    const { node, above } = next;
    if (node.visible === false) continue;
    const name = node.name ?? next.name;
    const matrix = new Float64Array(12);
    affineMultiply(matrix, 0, above, 0, localOf(node), 0);
    for (const { geometry, material } of node.mesh?.primitives ?? [])
      parts.push({ name, geometry, material, matrix });
    for (let i = node.children.length - 1; i >= 0; i--)
      open.push({ node: node.children[i]!, above: matrix, name }); // i < length
  }
  return parts;
}

const IDENTITY = Float64Array.of(1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0);

function localOf({ matrix, translation, rotation, scale }: AssetNode): Float64Array {
  const out = new Float64Array(12);
  if (matrix) affineFromMatrix(out, 0, matrix);
  else affineFromTrs(out, 0, translation ?? [0, 0, 0], 0, rotation ?? [0, 0, 0, 1], 0, scale ?? [1, 1, 1], 0);
  return out;
}
