import { affineLargestScale, affineMultiply } from '../math/affine.js';
import type { SwarmPart } from '../swarm/swarm.js';
import { TILE_FLOATS } from '../swarm/tiles.js';
import type { Target } from './targets.js';

/** Calls back for each copy of a swarm's shape that is in reach, with what stands for all of them. */
export function eachCopy(
  { swarm, shape: number }: SwarmPart,
  target: Target,
  reaches: (x: number, y: number, z: number, radius: number) => boolean,
  visit: (target: Target) => void,
): void {
  const shape = swarm.shapes[number]!; // a part's own
  const { tiles, firstRecord, reach } = shape;
  const { world: m, at: w } = target;
  const stretch = affineLargestScale(m, w);
  const isNear = (x: number, y: number, z: number, radius: number): boolean =>
    reaches(
      m[w]! * x + m[w + 1]! * y + m[w + 2]! * z + m[w + 3]!, // twelve numbers
      m[w + 4]! * x + m[w + 5]! * y + m[w + 6]! * z + m[w + 7]!,
      m[w + 8]! * x + m[w + 9]! * y + m[w + 10]! * z + m[w + 11]!,
      radius * stretch * 1.00001,
    );
  const { values, stride } = swarm;
  for (let tile = 0; tile < tiles.count; tile++) {
    const s = tile * TILE_FLOATS;
    const { spheres } = tiles;
    if (!isNear(spheres[s]!, spheres[s + 1]!, spheres[s + 2]!, spheres[s + 4]!)) continue; // a tile in range
    const first = tiles.first[tile]!;
    for (let record = first; record < first + swarm.shownOf(tiles.copies[tile]!, tile); record++) {
      const at = (firstRecord + record * stride) * 4;
      const scale = affineLargestScale(values, at);
      // Copies that are hidden have no size.
      if (scale === 0) continue;
      if (!isNear(values[at + 3]!, values[at + 7]!, values[at + 11]!, reach * scale)) continue; // a record of its own
      affineMultiply(copy, 0, m, w, values, at);
      target.world = copy;
      target.at = 0;
      target.instance = swarm.instanceAt(number, record);
      visit(target);
    }
  }
  target.world = m;
  target.at = w;
}

const copy = new Float32Array(12);
