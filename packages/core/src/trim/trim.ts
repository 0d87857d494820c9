import { LensError } from '../errors/lens-error.js';
import { nearHint } from '../errors/near-names.js';
import { vertexCount } from '../geometry/geometry.js';
import { triangleCount } from '../geometry/triangles.js';
import type { ModelAsset } from '../formats/asset/asset.js';
import { addLevels, type LevelOptions } from './levels.js';
import { shareDuplicates } from './duplicates.js';
import { shareRepeats } from './repeats.js';
import { mergeNodes } from './draws-of-nodes.js';
import { mergePrimitives } from './draws-of-primitives.js';
import { removeUnused } from './unused.js';
import { lowerPrecision } from './precision.js';
import { orderTriangles } from './order.js';
import { splitLarge } from './split.js';
import { shareVertices } from './vertices.js';

/** The steps, in their order. `packing` is done where the file is written. */
export const TRIM_STEPS = [
  'unused',
  'duplicates',
  'repeats',
  'draws',
  'vertices',
  'levels',
  'split',
  'order',
  'precision',
  'packing',
] as const;
export type TrimStepName = (typeof TRIM_STEPS)[number];

/** What is done to a model. */
export interface TrimOptions {
  /**
   * Steps that are left out: `unused` removes what nothing uses (objects, attributes that no material reads, nodes that are
   * nothing), `duplicates` makes one of what is the same to the bit, `repeats` one geometry of those that are the same but
   * for their place, `draws` puts together what one draw can be, `vertices` makes one of those that are the same to the bit,
   * `order` puts triangles and vertices into the order in which GPUs read them fastest, `precision` stores attributes in fewer
   * bits. Default none.
   */
  skip?: readonly TrimStepName[];
  /**
   * What `draws` puts together: primitives of a mesh; `unnamed` also nodes beside each other that nothing names or moves;
   * `named` also those that have names, which are lost. Default `primitives`.
   */
  draws?: 'none' | 'primitives' | 'unnamed' | 'named';
  /**
   * What `precision` stores in 16 or 8 bits: normals, texture coordinates, colors and weights are `attributes`; `positions`
   * those too. Default `attributes`.
   */
  precision?: 'none' | 'attributes' | 'positions';
  /** Add coarser levels, that are drawn when the model is small on the screen. Default none. */
  levels?: LevelOptions | false;
  /**
   * Cut geometries of more triangles than this into parts that lie together, so that what is outside the view is left out part
   * by part. Default: none is cut.
   */
  split?: number;
}

/** What one step did. */
export interface TrimStep {
  name: TrimStepName | 'textures';
  /** In words. */
  done: string;
  /** Whether it changed anything. */
  changed: boolean;
}

/** What a model is made of; coarser levels do not count as triangles and vertices. */
export interface TrimCounts {
  nodes: number;
  meshes: number;
  primitives: number;
  materials: number;
  textures: number;
  triangles: number;
  vertices: number;
}

/**
 * Makes a model smaller and cheaper to draw without changing how it looks: what animations, names, extras and variants need
 * stays as it is. The asset given is changed itself.
 *
 * @throws LensError `trim/step` for a step that there is not, `trim/levels` for levels that cannot be made, `trim/split` for parts that cannot
 */
export async function trimAsset(asset: ModelAsset, options: TrimOptions = {}): Promise<TrimStep[]> {
  const { draws = 'primitives', precision = 'attributes', levels = false, skip = [] } = options;
  for (const name of skip)
    if (!TRIM_STEPS.includes(name))
      throw new LensError('trim/step', `there is no step "${String(name)}"`, {
        hint: nearHint(String(name), TRIM_STEPS),
      });
  const steps: TrimStep[] = [];
  const step = async (
    name: TrimStepName,
    isWanted: boolean,
    act: () => string | Promise<string>,
  ): Promise<void> => {
    if (!isWanted || skip.includes(name)) return;
    const done = await act();
    steps.push({ name, done: done || 'nothing to do', changed: done !== '' });
  };
  await step('unused', true, () => removeUnused(asset));
  await step('duplicates', true, () => shareDuplicates(asset));
  await step('repeats', true, () => shareRepeats(asset));
  await step('draws', draws !== 'none', () =>
    [mergePrimitives(asset), draws === 'primitives' ? '' : mergeNodes(asset, draws === 'named')]
      .filter(Boolean)
      .join(', '),
  );
  await step('vertices', true, () => shareVertices(asset));
  await step('levels', levels !== false, () => addLevels(asset, levels || {}));
  await step('split', options.split !== undefined, () => splitLarge(asset, options.split ?? 0));
  await step('order', true, () => orderTriangles(asset));
  await step('precision', precision !== 'none', () => lowerPrecision(asset, precision === 'positions'));
  return steps;
}

export function countAsset({ nodes, meshes, materials, textures }: ModelAsset): TrimCounts {
  let [triangles, vertices] = [0, 0];
  // What stands for another mesh is not drawn besides it.
  const levels = new Set(nodes.flatMap((node) => node.levels?.map((level) => level.node) ?? []));
  for (const node of nodes)
    for (const { geometry } of (levels.has(node) ? undefined : node.mesh)?.primitives ?? []) {
      triangles += triangleCount(geometry);
      vertices += vertexCount(geometry);
    }
  return {
    nodes: nodes.length,
    meshes: meshes.length,
    primitives: meshes.reduce((sum, { primitives }) => sum + primitives.length, 0),
    materials: materials.length,
    textures: textures.length,
    triangles,
    vertices,
  };
}
