import type { Mesh } from '../scene/components.js';
import { Swarm } from './swarm.js';
import type { SwarmLevel } from './swarm-options.js';

/** A mesh as it is drawn from some size on. */
export interface MeshLevel {
  mesh: Mesh;
  /** Pixels that the sphere around it is high at least, for this level to be drawn; 0 for the last one. */
  minPixels: number;
}

/**
 * One mesh out of several, nearest first: each is drawn while it is large enough on the screen, and a quarter above its least
 * size two of them are drawn into each other, so that nothing pops and nothing flickers between them. All nodes that carry it
 * are one draw a primitive and level. It is a swarm of a single copy a primitive.
 *
 * @throws LensError `swarm/levels`
 */
export function meshLevels(levels: readonly MeshLevel[]): Swarm {
  const [near] = levels;
  const primitives = Math.max(0, ...levels.map(({ mesh }) => mesh.primitives.length));
  const shapes = Array.from({ length: primitives }, (_, i) =>
    levels.flatMap(({ mesh, minPixels }): SwarmLevel[] => {
      const primitive = mesh.primitives[i];
      return primitive ? [{ ...primitive, minPixels }] : [];
    }),
  );
  // A primitive that only some levels have ends, or begins, with them.
  for (const shape of shapes) if (shape.length > 0) shape.at(-1)!.minPixels = 0; // there is one
  return new Swarm({
    ...(near?.mesh.name === undefined ? {} : { name: near.mesh.name }),
    ...(near?.mesh.extras === undefined ? {} : { extras: near.mesh.extras }),
    shapes,
    shapeOf: shapes.map((_, i) => i),
    transforms: { translations: new Float32Array(primitives * 3) },
  });
}
