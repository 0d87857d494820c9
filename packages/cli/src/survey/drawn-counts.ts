import { type Mesh, swarmPart, triangleCount, vertexCount } from '@umber-lens/core/engine';

/** What a mesh draws: each instance counts, and of several levels of detail the finest. @param copies that a file places */
export function drawnCounts(
  { primitives }: Mesh,
  copies = 1,
): {
  triangles: number;
  vertices: number;
  instances: number;
} {
  const sum = { triangles: 0, vertices: 0, instances: 0 };
  for (const { geometry } of primitives) {
    const part = swarmPart(geometry);
    if (part && part.level > 0) continue;
    // A swarm's own geometry is that of one instance, several times over.
    const one = part?.geometry ?? geometry;
    const instances = part ? part.swarm.shapes[part.shape]!.order.length : copies; // a part's own
    sum.triangles += triangleCount(one) * instances;
    sum.vertices += vertexCount(one);
    sum.instances += instances;
  }
  return sum;
}
