import { vertexCount } from '../geometry/geometry.js';
import { triangleCount } from '../geometry/triangles.js';
import type { ModelAsset } from '../formats/asset/asset.js';
import { addLevels, type LevelOptions } from './add-levels.js';
import { dedupe } from './dedupe.js';
import { shareRepeats } from './instances.js';
import { joinNodes } from './join-nodes.js';
import { joinPrimitives } from './join-primitives.js';
import { prune } from './prune.js';
import { quantize } from './quantize.js';
import { reorder } from './reorder.js';
import { splitLarge } from './split.js';
import { weld } from './weld.js';

/** What is done to a model; each step may be left out. */
export interface TrimOptions {
  /** Remove what nothing uses: objects, attributes that no material reads, nodes that are nothing. Default true. */
  prune?: boolean;
  /** Make one of what is the same to the bit. Default true. */
  dedupe?: boolean;
  /** Make one geometry of those that are the same but for their place. Default true. */
  instances?: boolean;
  /**
   * Put together what one draw could be: primitives of a mesh; `unnamed` also nodes beside each other that nothing names or
   * moves; `named` also those that have names, which are lost. Default `primitives`.
   */
  join?: 'none' | 'primitives' | 'unnamed' | 'named';
  /** Make one vertex of those that are the same to the bit. Default true. */
  weld?: boolean;
  /** Put triangles and vertices into the order in which GPUs read them fastest. Default true. */
  reorder?: boolean;
  /** Store normals, coordinates, colours and weights in 16 or 8 bits; `positions` those too. Default `attributes`. */
  quantize?: 'none' | 'attributes' | 'positions';
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
  name: string;
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
 * @throws LensError `trim/levels` for levels that cannot be made, `trim/split` for parts that cannot
 */
export async function trimAsset(asset: ModelAsset, options: TrimOptions = {}): Promise<TrimStep[]> {
  const { join = 'primitives', quantize: bits = 'attributes', levels = false } = options;
  const steps: TrimStep[] = [];
  const step = async (
    name: string,
    isWanted: boolean,
    act: () => string | Promise<string>,
  ): Promise<void> => {
    if (!isWanted) return;
    const done = await act();
    steps.push({ name, done: done || 'nothing to do', changed: done !== '' });
  };
  await step('prune', options.prune !== false, () => prune(asset));
  await step('dedupe', options.dedupe !== false, () => dedupe(asset));
  await step('instances', options.instances !== false, () => shareRepeats(asset));
  await step('join', join !== 'none', () =>
    [joinPrimitives(asset), join === 'primitives' ? '' : joinNodes(asset, join === 'named')]
      .filter(Boolean)
      .join(', '),
  );
  await step('weld', options.weld !== false, () => weld(asset));
  await step('levels', levels !== false, () => addLevels(asset, levels || {}));
  await step('split', options.split !== undefined, () => splitLarge(asset, options.split ?? 0));
  await step('reorder', options.reorder !== false, () => reorder(asset));
  await step('quantize', bits !== 'none', () => quantize(asset, bits === 'positions'));
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
