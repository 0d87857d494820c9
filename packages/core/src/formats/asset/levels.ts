import { boundsRadius } from '../../math/bounds.js';
import type { Mesh } from '../../scene/components.js';
import { meshLevels } from '../../swarm/mesh-levels.js';
import type { AssetLevel, AssetNode } from './asset.js';

/** Pixels that a level may be wrong by when it takes over. */
const PIXELS = 0.5;
/** Height of the pictures that shares of them are meant for. */
const HEIGHT = 1080;

/** What extras of a node say of its levels: how wrong they are, and where they take over in other programs. */
export function levelExtras(levels: readonly AssetLevel[], mesh: Mesh | undefined): object {
  const coverage = levels.map((level) => (mesh ? pixelsFor(level, mesh) / HEIGHT : 0));
  const hasErrors = levels.every(({ error }) => error !== undefined);
  return {
    MSFT_screencoverage: [...coverage, 0],
    ...(hasErrors ? { umberLevels: { errors: levels.map(({ error }) => error) } } : {}),
  };
}

/** Pixels of the mesh's height below which a level stands for it. */
function pixelsFor({ error, coverage }: AssetLevel, mesh: Mesh): number {
  if (error === undefined) return (coverage ?? 0) * HEIGHT;
  return error > 0 ? (2 * radiusOf(mesh) * PIXELS) / error : Infinity;
}

function radiusOf({ primitives }: Mesh): number {
  return Math.max(0, ...primitives.map(({ geometry }) => boundsRadius(geometry.bounds)));
}

const made = new WeakMap<Mesh, { of: readonly (Mesh | undefined)[]; mesh: Mesh }>();

/** A node's mesh, with its levels where it has some. Nodes that share both share what is made. */
export function leveledMesh({ mesh, levels, skin }: AssetNode): Mesh | undefined {
  if (!mesh || !levels || skin || mesh.primitives.some(({ geometry }) => geometry.targets)) return mesh;
  const of = levels.map(({ node }) => node.mesh);
  const known = made.get(mesh);
  if (known?.of.length === of.length && known.of.every((one, i) => one === of[i])) return known.mesh;
  // Files may give levels out of order, or none that is ever small enough.
  let least = Infinity;
  const list: { mesh: Mesh; minPixels: number }[] = [{ mesh, minPixels: 0 }];
  for (const level of levels) {
    const pixels = Math.min(1e6, pixelsFor(level, mesh));
    const { mesh: coarse } = level.node;
    if (!coarse || !(pixels > 0 && pixels < least) || list.length === 4) continue;
    list.at(-1)!.minPixels = least = pixels; // there is one
    list.push({ mesh: coarse, minPixels: 0 });
  }
  const leveled = list.length > 1 ? meshLevels(list) : mesh;
  made.set(mesh, { of, mesh: leveled });
  return leveled;
}
